package org.rainsieve.web.bench;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import org.rainsieve.book.Change;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Component;

/** Writes what was chosen on one frame to that frame, its rung or its camera. */
@Component
@ConditionalOnWebApplication
public class FrameChanges {
    private final ShootService shoots;
    private final BookService book;
    private final LensService lenses;

    FrameChanges(ShootService shoots, BookService book, LensService lenses) {
        this.shoots = shoots;
        this.book = book;
        this.lenses = lenses;
    }

    /** What a change can be written to, and how many frames that follows. */
    public record Target(String name, String words, int frames) {}

    public List<Target> targets(FrameForWork frame, Page page) {
        double ei = frame.ei();
        int nearest = page.nearest(ei).ei();
        List<Double> followers = shoots.exposureIndices(frame.camera());
        List<Target> targets = new ArrayList<>();
        targets.add(new Target("frame", "this frame", 1));
        targets.add(new Target(
                "rung",
                frame.iso() == null || frame.iso() == 0
                        ? frame.camera() + " without an ISO"
                        : String.format(Locale.ROOT, "%s near ISO %,d", frame.camera(), nearest),
                touched(page, nearest, followers)));
        int here = (int) Math.max(1, Math.round(ei));
        if (here != nearest) {
            targets.add(new Target(
                    "new-rung",
                    String.format(Locale.ROOT, "%s at ISO %,d, a new line in its ladder", frame.camera(), here),
                    touched(page, here, followers)));
        }
        targets.add(new Target("camera", frame.camera() + " at every ISO", followers.size()));
        return targets;
    }

    private static int touched(Page page, int rung, List<Double> exposureIndices) {
        return (int)
                exposureIndices.stream().filter(ei -> page.touches(rung, ei)).count();
    }

    private static Change.Target wider(String target) {
        return switch (target) {
            case "frame" -> null;
            case "rung" -> Change.Target.RUNG;
            case "new-rung" -> Change.Target.NEW_RUNG;
            case "camera" -> Change.Target.CAMERA;
            default ->
                throw new NotPossibleException(
                        "A change applies to this frame, or to its camera near this ISO, at this ISO or at every ISO.");
        };
    }

    /** The camera's page as a change would leave it. */
    Page page(FrameForWork frame, String target, Cards.Wanted wanted) {
        Page page = book.page(frame.camera()).page();
        Change.Target wider = wider(target);
        return wider == null
                ? page
                : Change.apply(page, wider, frame.ei(), wanted.denoise(), wanted.sharpen(), frame.name());
    }

    /** Up to three frames of the shoot that follow a target, from its lowest, middle and highest exposure index. */
    List<FrameForWork> samples(FrameForWork frame, String target) {
        Page page = book.page(frame.camera()).page();
        int rung = target.equals("new-rung")
                ? (int) Math.max(1, Math.round(frame.ei()))
                : page.nearest(frame.ei()).ei();
        List<FrameForWork> touched = shoots.readyFrames(frame.shootId()).stream()
                .filter(f -> f.id() != frame.id() && frame.camera().equals(f.camera()))
                .filter(f -> ShootService.steps(f.steps()).followsRung())
                .filter(f -> target.equals("camera") || page.touches(rung, f.ei()))
                .sorted(java.util.Comparator.comparingDouble(FrameForWork::ei))
                .toList();
        return touched.size() <= 3
                ? touched
                : List.of(touched.get(0), touched.get(touched.size() / 2), touched.get(touched.size() - 1));
    }

    /**
     * @param target as {@link Target#name}
     * @param version of the page that was shown when it was chosen
     * @param from where it was chosen, in words
     */
    public void apply(
            FrameForWork frame,
            String target,
            long version,
            DenoiseSettings denoise,
            SharpenSettings sharpen,
            CropSettings crop,
            String from) {
        Change.Target wider = wider(target);
        Page page = book.page(frame.camera()).page();
        FrameSteps before = ShootService.steps(frame.steps());
        FrameSteps after;
        if (wider == null) {
            // What is as its rung has it goes on following it.
            after = before.with(
                    denoise.equals(page.at(frame.ei())) ? null : denoise,
                    sharpen.equals(page.sharpenAt(frame.ei())) ? null : sharpen,
                    crop);
        } else {
            book.save(
                    Change.apply(page, wider, frame.ei(), denoise, sharpen, from),
                    version,
                    from + ", for " + target.replace("-", " "));
            after = before.with(null, null, crop); // it follows what was just chosen on it
        }
        if (!after.equals(before)) {
            shoots.setSteps(frame.id(), after);
        }
    }

    /** Writes what stands on the steps; a lens's correction is its own, whatever the rest is meant for. */
    void apply(FrameForWork frame, String target, long version, Cards.Wanted wanted, boolean lensToo) {
        if (lensToo) {
            lenses.choose(frame.camera(), frame.reportedLens(), wanted.lens());
        }
        apply(frame, target, version, wanted.denoise(), wanted.sharpen(), wanted.crop(), "chosen on " + frame.name());
    }
}
