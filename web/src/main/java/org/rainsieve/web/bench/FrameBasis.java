package org.rainsieve.web.bench;

import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.mask.Mask;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Component;

/** Resolves what is to be shown of a frame, with what the book says for its camera besides amounts. */
@Component
@ConditionalOnWebApplication
public class FrameBasis {
    private static final long BASIS_MS = 5000;
    private static final int MOST_BASES = 100;

    private final Map<List<Object>, Basis> bases = new ConcurrentHashMap<>();
    private final ShootService shoots;
    private final BookService book;

    FrameBasis(ShootService shoots, BookService book) {
        this.shoots = shoots;
        this.book = book;
    }

    private record Basis(SettledLaw law, String model, DefectMap defects, CfaPattern pattern, long madeAtMs) {}

    /** @param optics null for none; so with crop and enlarge
     * @param masks of the frame */
    public ResolvedSettings resolved(
            FrameForWork frame,
            DenoiseSettings denoise,
            SharpenSettings sharpen,
            OpticsSettings optics,
            CropSettings crop,
            EnlargeSettings enlarge,
            List<Mask> masks) {
        Basis basis = basis(frame);
        return ResolvedSettings.of(frame.ei(), basis.law.law(), denoise, basis.model, basis.defects, basis.pattern)
                .with(basis.law)
                .with(sharpen, optics, crop, enlarge)
                .with(masks);
    }

    /** Of the model that a method works with on that frame by its camera's page; empty for methods without one. */
    String modelHash(FrameForWork frame, String method) {
        Basis basis = basis(frame);
        return Methods.modelHash(method, basis.model, basis.pattern);
    }

    /** Pooled over all frames of the camera, so not anew for each of the many regions of one look. */
    private Basis basis(FrameForWork frame) {
        if (bases.size() > MOST_BASES) {
            bases.clear();
        }
        return bases.compute(
                List.of(frame.camera(), frame.iso(), frame.width(), frame.height()),
                (key, known) -> known != null && System.currentTimeMillis() - known.madeAtMs < BASIS_MS
                        ? known
                        : newBasis(frame));
    }

    private Basis newBasis(FrameForWork frame) {
        InForce inForce = new InForce(book);
        return new Basis(
                inForce.law(frame.camera(), frame.iso()),
                inForce.page(frame.camera()).model(),
                inForce.defects(frame.camera(), frame.width(), frame.height()),
                inForce.pattern(frame.camera()),
                System.currentTimeMillis());
    }
}
