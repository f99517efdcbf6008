package org.rainsieve.web.bench;

import java.util.List;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.mask.Mask;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Component;

/** What the step cards of a frame ask for as they stand, resolved for showing it. */
@Component
@ConditionalOnWebApplication
class Cards {
    private final ShootService shoots;
    private final BookService book;
    private final LensService lenses;
    private final FrameBasis basis;

    Cards(ShootService shoots, BookService book, LensService lenses, FrameBasis basis) {
        this.shoots = shoots;
        this.book = book;
        this.lenses = lenses;
        this.basis = basis;
    }

    /** @param enlarged only for looking; null for the picture's own size */
    record Wanted(
            DenoiseSettings denoise,
            SharpenSettings sharpen,
            LensChoice lens,
            CropSettings crop,
            EnlargeSettings enlarged) {}

    /** @throws NotPossibleException in plain words when they ask for what there is not */
    Wanted wanted(FrameForWork frame, StepsForm form) {
        FrameSteps before = ShootService.steps(frame.steps());
        try {
            DenoiseSettings denoise = form.denoiseSettings();
            SharpenSettings sharpen = new InForce(book).sharpen(frame.camera(), frame.ei(), before);
            if (!form.complete()) {
                return new Wanted(
                        denoise, sharpen, lenses.choice(frame.camera(), frame.reportedLens()), before.crop(), null);
            }
            return new Wanted(
                    denoise,
                    form.sharpenSettings().withModelOf(sharpen),
                    form.lensChoice(),
                    form.cropSettings(),
                    form.shownEnlarged());
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was saved; go back and correct it.");
        }
    }

    /** @param without a step that is left out */
    ResolvedSettings resolved(FrameForWork frame, StepsForm form, String without) {
        Wanted wanted = wanted(frame, form);
        DenoiseSettings denoise = wanted.denoise;
        boolean all = without.equals("denoise");
        List<Mask> masks = new InForce(book).masks(frame.camera(), frame.ei(), ShootService.steps(frame.steps()));
        return basis.resolved(
                frame,
                all ? new DenoiseSettings(denoise.on(), denoise.method(), 100, 100) : denoise,
                without.equals("sharpen") ? SharpenSettings.OFF : wanted.sharpen,
                without.equals("optics") ? null : lenses.settings(frame, wanted.lens),
                wanted.crop,
                wanted.enlarged,
                all || without.equals("masks") ? List.of() : masks);
    }

    /** What a frame comes out with as things are. */
    ResolvedSettings inForce(FrameForWork frame) {
        InForce inForce = new InForce(book);
        FrameSteps steps = ShootService.steps(frame.steps());
        return basis.resolved(
                frame,
                inForce.settings(frame.camera(), frame.ei(), steps),
                inForce.sharpen(frame.camera(), frame.ei(), steps),
                lenses.settings(frame, lenses.choice(frame.camera(), frame.reportedLens())),
                steps.crop(),
                null,
                inForce.masks(frame.camera(), frame.ei(), steps));
    }

    /** The same with another denoising and sharpening; a model belongs to its method, and is the one that the page is bound to. */
    ResolvedSettings with(
            FrameForWork frame, ResolvedSettings settings, DenoiseSettings denoise, SharpenSettings sharpen) {
        return new ResolvedSettings(
                settings.schema(),
                settings.engine(),
                denoise.method().equals(settings.denoise().method())
                        ? settings.model()
                        : basis.modelHash(frame, denoise.method()),
                settings.ei(),
                settings.noise(),
                denoise,
                settings.defects(),
                sharpen,
                settings.optics(),
                settings.crop(),
                settings.enlarge(),
                settings.masks(),
                settings.noiseFrom());
    }
}
