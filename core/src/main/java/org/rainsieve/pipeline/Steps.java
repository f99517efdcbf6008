package org.rainsieve.pipeline;

import java.util.ArrayList;
import java.util.List;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.enlarge.NoiseLeft;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.PlanesSource;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.Mask;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;

/**
 * The steps of one frame in their order: Denoise, Sharpen, Optics, Crop, Enlarge, whatever was switched first. The viewer
 * shows what they give and the writer writes it.
 */
public final class Steps {
    private final DenoiseStep denoise;
    private final SharpenStep sharpen;
    private final OpticsSettings optics;
    private final CropSettings crop;
    private final EnlargeSettings enlarge;
    private final NoiseLeft left;
    private final PixelSource result;

    private Steps(
            DenoiseStep denoise,
            SharpenStep sharpen,
            OpticsSettings optics,
            CropSettings crop,
            EnlargeSettings enlarge,
            NoiseLeft left) {
        this.denoise = denoise;
        this.sharpen = sharpen;
        this.optics = optics;
        this.crop = crop;
        this.enlarge = enlarge;
        this.left = left;
        this.result = shaped(sharpen == null ? denoise : sharpen, enlarge);
    }

    /**
     * @param frameId identity of the frame's pixels, such as the file's hash
     * @throws RefusedException in plain words when the settings do not suit the frame
     */
    public static Steps of(
            OpenedFrame frame,
            Object frameId,
            ResolvedSettings settings,
            DefectMap defects,
            WorkingMemory cache,
            Cancel cancel)
            throws RefusedException {
        return of(frame, frameId, settings, defects, false, cache, cancel);
    }

    /** @param forLooking in tiles that suit a view rather than a whole frame */
    public static Steps of(
            OpenedFrame frame,
            Object frameId,
            ResolvedSettings settings,
            DefectMap defects,
            boolean forLooking,
            WorkingMemory cache,
            Cancel cancel)
            throws RefusedException {
        if (settings.denoise().on()) {
            Methods.checkUse(
                    settings.denoise().method(),
                    settings.model(),
                    frame.capture().pattern());
        }
        double[] gains = frame.colour().gains();
        DenoiseStep denoise = new DenoiseStep(
                frameId,
                frame.capture(),
                settings.noise(),
                gains,
                settings.denoise(),
                settings.masks(),
                settings.model(),
                defects,
                forLooking,
                cache,
                cancel);
        SharpenSettings sharpening = settings.sharpen();
        double kept = settings.grainKept();
        boolean idle =
                sharpening.shapeless() || sharpening.idle() && !denoise.masks().sharpens();
        try {
            SharpenStep sharpen =
                    idle ? null : new SharpenStep(denoise, sharpening, gains, settings.noise(), kept, cache, cancel);
            CropSettings crop = settings.crop().idle()
                    ? CropSettings.WHOLE
                    : settings.crop().fitted(denoise.width(), denoise.height());
            OpticsSettings optics = settings.optics();
            if (optics.idle() && cropRendered(crop, settings.enlarge())) {
                // What the file asks for itself holds for its own geometry: what is turned or cut carries it out first.
                optics = frame.ownCorrection().map(OpticsSettings::full).orElse(optics);
            }
            return new Steps(
                    denoise, sharpen, optics, crop, settings.enlarge(), NoiseLeft.of(gains, settings.noise(), kept));
        } catch (IllegalArgumentException e) {
            throw new RefusedException(e.getMessage());
        }
    }

    /**
     * Size of what comes out, in px.
     *
     * @throws IllegalArgumentException in plain words when it cannot be made
     */
    public static EnlargeSettings.Size size(int width, int height, CropSettings crop, EnlargeSettings enlarge) {
        int w = width;
        int h = height;
        if (cropRendered(crop, enlarge)) {
            CropSettings fitted = crop.fitted(width, height);
            w = fitted.widthPx(width);
            h = fitted.heightPx(height);
        }
        return enlarge.on() ? enlarge.size(w, h) : new EnlargeSettings.Size(w, h);
    }

    public DenoiseStep denoise() {
        return denoise;
    }

    /** What is written, at its final size. */
    public PixelSource result() {
        return result;
    }

    /** The result laid over a frame of another size, through the geometry that was asked for that frame. */
    public PixelSource resultOver(int width, int height) {
        PixelSource own = sharpen == null ? denoise : sharpen;
        return cutAndBent(new LaidOver(own, width, height, LaidOver.scale(own.width(), own.height(), width, height)));
    }

    /** The same of a reduced rendering of this frame. */
    public ReducedPicture draftOver(ReducedPicture ofFrame, int width, int height) {
        return draft(ofFrame.over(denoise.width(), denoise.height(), width, height));
    }

    /** The plain rendering through the same geometry: nothing denoised, nothing sharpened. */
    public PixelSource plain() {
        // Its noise is all there, which no network that enlarges has seen.
        return shaped(denoise.plain(), enlarge.on() ? enlarge.with(EnlargeSettings.Edges.NATURAL, false) : enlarge);
    }

    /** How strong a mask is at each pixel of the result before it is enlarged, in three alike channels. */
    public PixelSource strength(Mask mask) {
        return warped(new PixelSource() {
            @Override
            public int width() {
                return denoise.width();
            }

            @Override
            public int height() {
                return denoise.height();
            }

            @Override
            public int channels() {
                return 3;
            }

            @Override
            public Region inputRegion(Region out) {
                return out;
            }

            @Override
            public void fill(Planes out) {
                out.copyFrom(MaskField.threefold(out.region(), denoise.masks().strength(mask, out.region())));
            }
        });
    }

    /** The same over the whole picture reduced to a long edge: quick, for looking at. */
    public Planes strengthDraft(Mask mask, int longEdgePx) {
        PixelSource shaped = warped(new PlanesSource(denoise.masks().draft(mask, longEdgePx)));
        Planes out = new Planes(shaped.bounds(), 3);
        shaped.fill(out);
        return out;
    }

    /** Bent and cut as the picture, but without the correction of dark corners, which is no matter of place. */
    private PixelSource warped(PixelSource source) {
        OpticsSettings bending = optics.withoutShading();
        boolean rendered = cropRendered();
        return rendered || !bending.idle()
                ? new GeometryStep(source, bending, rendered ? crop : CropSettings.WHOLE)
                : source;
    }

    /** From places on the result at its own size to those on the frame; x and y in turn. */
    public double[] toFrame(double[] places) {
        double[] out = places.clone();
        if (atOwnSize() instanceof GeometryStep step) {
            double[] at = new double[2];
            for (int i = 0; i + 1 < out.length; i += 2) {
                step.map(places[i], places[i + 1], 1, at);
                out[i] = at[0];
                out[i + 1] = at[1];
            }
        }
        return out;
    }

    /** The result before it is enlarged. */
    public PixelSource atOwnSize() {
        return result instanceof EnlargeStep step ? step.before() : result;
    }

    /** The place of the frame that a region of the result is made from, without what the steps look at around it. */
    public Region onFrame(Region out) {
        Region region = out;
        if (result instanceof EnlargeStep step) {
            region = step.inputRegion(region);
        }
        if (atOwnSize() instanceof GeometryStep step) {
            region = step.inputRegion(region);
        }
        return region.intersect(denoise.bounds());
    }

    /** What there is to do, by the names that its pace is kept under. */
    List<String> work() {
        List<String> work = new ArrayList<>();
        work.add(denoise.work());
        PixelSource own = atOwnSize();
        if (own != result) {
            work.add(EnlargeStep.work(enlarge, own.width(), own.height()));
        }
        if (own instanceof GeometryStep) {
            work.add(GeometryStep.WORK);
        }
        if (sharpen != null) {
            work.add(sharpen.work());
        }
        return work;
    }

    /** Sharpens a region of the denoised picture, in the sensor's geometry; null when Sharpen is off. */
    SharpenStep sharpen() {
        return sharpen;
    }

    /** Whether the result still lies photosite for photosite over the frame. */
    boolean inPlace() {
        return result == denoise || result == sharpen;
    }

    /** True when the crop was carried out, not only noted. */
    public boolean cropRendered() {
        return cropRendered(crop, enlarge);
    }

    /** The same of settings, whatever frame they are for. */
    public static boolean cropRendered(CropSettings crop, EnlargeSettings enlarge) {
        return !crop.idle() && (crop.turns() || enlarge.on());
    }

    boolean corrected() {
        return !optics.idle();
    }

    CropSettings crop() {
        return crop;
    }

    /** A reduced rendering of the frame, brought into the result's geometry. */
    public ReducedPicture draft(ReducedPicture ofFrame) {
        return cropRendered() || corrected()
                ? ofFrame.through(optics, cropRendered() ? crop : CropSettings.WHOLE)
                : ofFrame;
    }

    private PixelSource cutAndBent(PixelSource source) {
        boolean rendered = cropRendered();
        return rendered || !optics.idle()
                ? new GeometryStep(source, optics, rendered ? crop : CropSettings.WHOLE)
                : source;
    }

    private PixelSource shaped(PixelSource source, EnlargeSettings enlarging) {
        PixelSource shaped = cutAndBent(source);
        return enlarging.on() ? new EnlargeStep(shaped, enlarging, left) : shaped;
    }
}
