package org.rainsieve.pipeline;

import java.util.List;
import java.util.function.Function;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.defect.HotPixels;
import org.rainsieve.defect.LineFaults;
import org.rainsieve.defect.LineFinder;
import org.rainsieve.demosaic.Demosaic;
import org.rainsieve.denoise.ClippedAreas;
import org.rainsieve.denoise.DenoiseMethod;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.denoise.Methods;
import org.rainsieve.denoise.PictureMethod;
import org.rainsieve.denoise.Stars;
import org.rainsieve.denoise.StructuredResidual;
import org.rainsieve.frame.Capture;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.Mask;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.ObservedMean;
import org.rainsieve.noise.RootScale;
import org.rainsieve.noise.SensorNoise;

/**
 * Denoise and demosaic: from a mosaic, or a picture in full colour, to three linear colour planes. The costly part is made in canonical tiles of
 * {@value #TILE}² counted from sensor (0, 0), whatever region is asked for, and kept in a cache; amounts are blended
 * afterwards.
 */
public final class DenoiseStep implements PixelSource {
    public static final int TILE = 1024;

    /** Tiles for looking, where a view would touch much of large tiles that is not seen. */
    private static final int FINE_TILE = 512;

    /** Methods that look further around are not worth it in small tiles. */
    private static final int MOST_MARGIN = 128;

    private static final double LARGEST_ESTIMATE = 1.3;

    /** What the tiles of one frame depend on; amounts are not part of it. */
    private record Key(
            Object frame, boolean on, String method, String model, NoiseModel noise, String defects, Region tile) {}

    private record Faults(Object frame, NoiseModel noise) {}

    /** A method that has read the noise of a picture, which takes a while. */
    private record MadeReady(Object frame, String method, String model, NoiseModel noise) {}

    private final Object frame;
    private final Capture capture;
    private final NoiseModel noise;
    private final double[] gains;
    private final DenoiseSettings settings;
    private final WorkingMemory cache;
    private final Cancel cancel;
    private final String model;
    private final DefectMap defects;
    private final String defectsHash;
    private final HotPixels hotPixels;
    private final Demosaic linear;
    private final Demosaic scaled;
    private final PictureMethod pictureMethod;
    private final MaskField masks;
    private final boolean forLooking;
    private final int tilePx;
    private volatile Mosaic repaired;
    private volatile ObservedMean[] means;

    /**
     * @param frame identity of the frame's pixels, such as the file's hash
     * @param gains white-balance gains, see {@link DenoisedTile#blend}
     */
    public DenoiseStep(
            Object frame,
            Capture capture,
            NoiseModel noise,
            double[] gains,
            DenoiseSettings settings,
            WorkingMemory cache,
            Cancel cancel) {
        this(frame, capture, noise, gains, settings, List.of(), "", DefectMap.EMPTY, false, cache, cancel);
    }

    /**
     * @param masks of the frame, with amounts of their own
     * @param model SHA-256 of the trained model to work with; empty for the newest
     * @param defects photosites of the body that are replaced whatever they show
     * @param forLooking in smaller tiles, if that is no detour; what comes out is the same to a rounding
     */
    public DenoiseStep(
            Object frame,
            Capture capture,
            NoiseModel noise,
            double[] gains,
            DenoiseSettings settings,
            List<Mask> masks,
            String model,
            DefectMap defects,
            boolean forLooking,
            WorkingMemory cache,
            Cancel cancel) {
        this.frame = frame;
        this.capture = capture;
        this.noise = noise;
        this.gains = gains.clone();
        this.settings = settings;
        this.model = model;
        this.defects = defects;
        this.defectsHash = defects.hash();
        this.cache = cache;
        this.cancel = cancel;
        boolean filtered = capture instanceof Mosaic;
        this.hotPixels = filtered ? new HotPixels(capture.pattern(), noise, gains) : null;
        this.linear = filtered ? Demosaic.of(capture.pattern(), gains, null) : null;
        this.scaled = filtered ? Demosaic.of(capture.pattern(), gains, scale(settings.on(), noise, gains)) : null;
        this.pictureMethod = capture instanceof Picture picture && settings.on()
                ? cache.get(
                        new MadeReady(frame, settings.method(), model, noise),
                        () -> Methods.of(settings.method(), model, picture, noise),
                        made -> 1 << 20)
                : null;
        this.forLooking = forLooking;
        this.tilePx = forLooking && margin() <= MOST_MARGIN ? FINE_TILE : TILE;
        this.masks = new MaskField(
                masks,
                estimateId(),
                frame,
                capture,
                noise,
                this.gains,
                cache,
                region -> part(region).estimate());
    }

    /**
     * The scale to interpolate in, in which shadows count as they are seen: against linear light 0.8 dB is gained in sRGB at a = 0.002,
     * 4 dB without noise. Of what is noisy still, the mean would sink in the bend near black, by 7 % of the noise's sd; an offset
     * four times as large keeps it within 3 %.
     */
    private static RootScale scale(boolean denoised, NoiseModel noise, double[] gains) {
        RootScale scale = RootScale.of(noise, gains);
        return denoised ? scale : new RootScale(4 * scale.offset());
    }

    /** The frame's masks. */
    public MaskField masks() {
        return masks;
    }

    /** The picture before denoising: the same tiles with all noise kept. */
    public DenoiseStep plain() {
        DenoiseSettings all = new DenoiseSettings(settings.on(), settings.method(), 100, 100);
        return new DenoiseStep(frame, capture, noise, gains, all, List.of(), model, defects, forLooking, cache, cancel);
    }

    @Override
    public int width() {
        return capture.width();
    }

    @Override
    public int height() {
        return capture.height();
    }

    @Override
    public int channels() {
        return 3;
    }

    @Override
    public Region inputRegion(Region out) {
        int x = Math.floorDiv(out.x(), tilePx) * tilePx;
        int y = Math.floorDiv(out.y(), tilePx) * tilePx;
        Region tiles = new Region(
                x,
                y,
                (out.right() - x + tilePx - 1) / tilePx * tilePx,
                (out.bottom() - y + tilePx - 1) / tilePx * tilePx);
        return padded(tiles.intersect(bounds()));
    }

    @Override
    public void fill(Planes out) {
        Region r = out.region();
        for (int ty = r.y() / tilePx; ty <= (r.bottom() - 1) / tilePx; ty++) {
            for (int tx = r.x() / tilePx; tx <= (r.right() - 1) / tilePx; tx++) {
                blend(tile(tx, ty), out);
            }
        }
    }

    /** Equal for steps that estimate the same, whatever their amounts. */
    private Object estimateId() {
        return List.of(frame, settings.on(), settings.method(), model, noise, defectsHash);
    }

    /** Equal for steps that give the same pixels. */
    Object identity() {
        return List.of(frame, settings, model, noise, defectsHash, masks.denoising());
    }

    /** One canonical tile, made or taken from the cache. */
    public DenoisedTile tile(int tileX, int tileY) {
        cancel.check();
        Region core = new Region(tileX * tilePx, tileY * tilePx, tilePx, tilePx).intersect(bounds());
        Key key = new Key(frame, settings.on(), settings.method(), model, noise, defectsHash, core);
        return cache.get(
                key,
                () -> {
                    long begun = System.nanoTime();
                    DenoisedTile made = make(core);
                    Pace.note(work(), System.nanoTime() - begun, core.area());
                    return made;
                },
                tile -> 24L * tile.estimate().region().area());
    }

    public boolean on() {
        return settings.on();
    }

    /** What its pace is kept under. */
    String work() {
        String pattern = capture.pattern().width() + " × " + capture.pattern().height();
        return (settings.on() ? settings.method() : "plain") + " on " + pattern;
    }

    /** The denoiser's answer for any region, from its canonical tiles. */
    public DenoisedTile part(Region region) {
        Planes estimate = new Planes(region, 3);
        Planes residual = new Planes(region, 3);
        for (int ty = region.y() / tilePx; ty <= (region.bottom() - 1) / tilePx; ty++) {
            for (int tx = region.x() / tilePx; tx <= (region.right() - 1) / tilePx; tx++) {
                DenoisedTile tile = tile(tx, ty);
                copy(tile.estimate(), estimate);
                copy(tile.residual(), residual);
            }
        }
        return new DenoisedTile(estimate, residual);
    }

    /** Blends the amounts of this step; clipped photosites are exactly at white in their own colour. */
    public void blend(DenoisedTile tile, Planes out) {
        double grain = settings.on() ? settings.grainKeptPercent() / 100 : 0;
        double colour = settings.on() ? settings.colourNoiseKeptPercent() / 100 : 0;
        Region shared = out.region().intersect(tile.estimate().region());
        if (settings.on() && (masks.denoises() || settings.detailPercent() > 0)) {
            blendByPlace(tile, shared, out);
        } else {
            tile.blend(grain, colour, gains, out);
        }
        if (capture instanceof Picture picture) {
            keepClipped(picture, shared, out);
            return;
        }
        keepWhite(tile.estimate(), shared, out);
    }

    /** What is white stays so, whatever amounts are put back. */
    private static void keepWhite(Planes estimate, Region shared, Planes out) {
        for (int c = 0; c < 3; c++) {
            float[] from = estimate.channel(c);
            float[] to = out.channel(c);
            for (int y = shared.y(); y < shared.bottom(); y++) {
                int i = estimate.index(shared.x(), y);
                int k = out.index(shared.x(), y);
                for (int x = 0; x < shared.width(); x++) {
                    if (from[i + x] == 1) {
                        to[k + x] = 1;
                    }
                }
            }
        }
    }

    /** The amounts with the frame's masks, and the structured part of what was taken out. */
    private void blendByPlace(DenoisedTile tile, Region shared, Planes out) {
        MaskField.Amounts amounts = masks.denoiseAmounts(shared);
        float[] grain = amounts.of(settings.grainKeptPercent(), m -> MaskField.orNaN(m.grainKeptPercent()));
        float[] colour =
                amounts.of(settings.colourNoiseKeptPercent(), m -> MaskField.orNaN(m.colourNoiseKeptPercent()));
        Planes part = new Planes(shared, 3);
        tile.blend(0, 0, grain, colour, gains, part);
        if (settings.detailPercent() > 0 || masks.keepsDetail()) {
            float[] detail = amounts.of(settings.detailPercent(), m -> MaskField.orNaN(m.detailPercent()));
            float[] structure = structure(shared);
            for (int c = 0; c < 3; c++) {
                float[] plane = part.channel(c);
                float gain = (float) gains[c];
                for (int i = 0; i < structure.length; i++) {
                    // What grain kept leaves in is not put back twice.
                    plane[i] += detail[i] * (1 - grain[i]) * structure[i] / gain;
                }
            }
        }
        out.copyFrom(part);
    }

    private record StructureKey(Object estimate, Region tile) {}

    /** The structured part of what was taken out of a region, from tiles that are kept. */
    private float[] structure(Region region) {
        return Patchwork.of(
                region,
                bounds(),
                TILE / 2,
                tile -> cache.get(
                        new StructureKey(estimateId(), tile),
                        () -> StructuredResidual.of(
                                part(tile.grow(StructuredResidual.MARGIN).intersect(bounds())), gains, tile),
                        values -> 4L * values.length));
    }

    /** Shares of grain kept in each pixel of a region; null where they are the same everywhere. */
    float[] grainKept(Region region) {
        return settings.on() && masks.denoises()
                ? masks.denoiseAmounts(region)
                        .of(settings.grainKeptPercent(), m -> MaskField.orNaN(m.grainKeptPercent()))
                : null;
    }

    private static void keepClipped(Picture picture, Region shared, Planes out) {
        for (int c = 0; c < 3; c++) {
            for (int y = shared.y(); y < shared.bottom(); y++) {
                for (int x = shared.x(); x < shared.right(); x++) {
                    if (picture.clippedAt(c, x, y)) {
                        out.channel(c)[out.index(x, y)] = 1;
                    }
                }
            }
        }
    }

    /** How far around a tile its pixels are looked at. */
    private int margin() {
        if (linear == null) {
            return settings.on() ? pictureMethod.margin() : 0;
        }
        return linear.margin()
                + (settings.on()
                        ? Methods.of(settings.method(), model, capture.pattern())
                                .margin(capture.pattern())
                        : 0);
    }

    private Region padded(Region core) {
        Region grown = core.grow(margin());
        if (linear == null) {
            return grown;
        }
        return new Region(
                grown.x(), grown.y(), grown.width() + (grown.width() & 1), grown.height() + (grown.height() & 1));
    }

    private DenoisedTile make(Region core) {
        Planes noisy = new Planes(padded(core), capture.channels());
        repaired().fill(noisy);
        return linear == null ? ofPicture(noisy, core) : ofMosaic(noisy, core);
    }

    /** Without the faulty rows and columns, and the banding, that the whole frame shows. */
    private Capture repaired() {
        if (!(capture instanceof Mosaic mosaic)) {
            return capture;
        }
        Mosaic made = repaired;
        if (made == null) {
            LineFaults faults = cache.get(
                    new Faults(frame, noise),
                    () -> LineFinder.find(mosaic, noise, gains),
                    found -> 4L * (found.rows().length + found.columns().length));
            made = faults.repaired(mosaic);
            repaired = made;
        }
        return made;
    }

    private DenoisedTile ofPicture(Planes noisy, Region core) {
        Planes estimate = new Planes(core, 3);
        Planes residual = new Planes(core, 3);
        if (pictureMethod == null) {
            copy(noisy, estimate);
            return new DenoisedTile(estimate, residual);
        }
        copy(pictureMethod.estimate(noisy), estimate);
        if (((Picture) capture).grey()) {
            mean(estimate);
        }
        copy(noisy, residual);
        for (int c = 0; c < 3; c++) {
            float[] rest = residual.channel(c);
            for (int i = 0; i < rest.length; i++) {
                rest[i] = rest[i] >= 1 ? 0 : rest[i] - estimate.channel(c)[i];
            }
        }
        return new DenoisedTile(estimate, residual);
    }

    /** What has no colours gets none by denoising. */
    private static void mean(Planes planes) {
        float[] red = planes.channel(0);
        float[] green = planes.channel(1);
        float[] blue = planes.channel(2);
        for (int i = 0; i < red.length; i++) {
            red[i] = (red[i] + green[i] + blue[i]) / 3;
            green[i] = red[i];
            blue[i] = red[i];
        }
    }

    private DenoisedTile ofMosaic(Planes noisy, Region core) {
        defects.repair(noisy, hotPixels);
        hotPixels.repair(noisy);
        Planes estimate = new Planes(core, 3);
        Planes residual = new Planes(core, 3);
        if (!settings.on()) {
            scaled.interpolate(noisy, scaled.decide(noisy), estimate);
            capture.applyGains(estimate);
            ClippedAreas.whiten(noisy, capture.pattern(), estimate, residual);
            return new DenoisedTile(estimate, residual);
        }
        DenoiseMethod method = Methods.of(settings.method(), model, capture.pattern());
        Planes clean = method.estimate(noisy, capture.pattern(), sensor(), gains);
        boolean inColour = clean.channels() == 3;
        Planes rest = inColour ? mosaicOf(clean) : clean;
        byte[] decision;
        if (inColour) {
            copy(clean, estimate);
            decision = scaled.decide(rest);
        } else {
            ClippedAreas.keep(noisy, capture.pattern(), clean);
            decision = scaled.decide(clean);
            scaled.interpolate(clean, decision, estimate);
        }
        float[] from = noisy.channel(0);
        float[] difference = rest.channel(0);
        ObservedMean[] observed = observed();
        int period = capture.pattern().width();
        int width = noisy.region().width();
        for (int y = noisy.region().y(), row = 0; row < difference.length; y++, row += width) {
            for (int phase = 0; phase < period; phase++) {
                ObservedMean mean =
                        observed[capture.pattern().colourAt(noisy.region().x() + phase, y)];
                for (int i = row + phase; i < row + width; i += period) {
                    difference[i] = from[i] >= 1 ? 0 : from[i] - mean.of(difference[i]);
                }
            }
        }
        linear.interpolate(rest, decision, residual);
        boolean sparse = inColour && capture.pattern().isSixBySix();
        Function<Region, Planes> interpolated = sparse ? region -> interpolated(noisy, region) : null;
        Stars.giveBack(noisy, capture.pattern(), noise, gains, estimate, residual, interpolated);
        capture.applyGains(estimate);
        capture.applyGains(residual);
        ClippedAreas.whiten(noisy, capture.pattern(), estimate, residual);
        return new DenoisedTile(estimate, residual);
    }

    private SensorNoise sensor() {
        return new SensorNoise(noise, ((Mosaic) capture).floor());
    }

    /** What the samples of each colour average to where noise was cut. */
    private ObservedMean[] observed() {
        ObservedMean[] made = means;
        if (made == null) {
            made = new ObservedMean[3];
            for (int c = 0; c < 3; c++) {
                made[c] = new ObservedMean(sensor(), c, LARGEST_ESTIMATE);
            }
            means = made;
        }
        return made;
    }

    private Planes interpolated(Planes noisy, Region region) {
        Planes around = new Planes(region.grow(scaled.margin()), 1);
        around.copyFrom(noisy);
        Planes colours = new Planes(region, 3);
        scaled.interpolate(around, scaled.decide(around), colours);
        return colours;
    }

    private Planes mosaicOf(Planes rgb) {
        Region r = rgb.region();
        Planes out = new Planes(r, 1);
        float[] to = out.channel(0);
        int period = capture.pattern().width();
        for (int y = r.y(); y < r.bottom(); y++) {
            int row = out.index(r.x(), y);
            for (int phase = 0; phase < period; phase++) {
                float[] from = rgb.channel(capture.pattern().colourAt(r.x() + phase, y));
                for (int x = phase; x < r.width(); x += period) {
                    to[row + x] = from[row + x];
                }
            }
        }
        return out;
    }

    /** What two regions share. */
    private static void copy(Planes from, Planes to) {
        Region r = to.region().intersect(from.region());
        for (int c = 0; c < 3; c++) {
            for (int y = r.y(); y < r.bottom(); y++) {
                System.arraycopy(from.channel(c), from.index(r.x(), y), to.channel(c), to.index(r.x(), y), r.width());
            }
        }
    }
}
