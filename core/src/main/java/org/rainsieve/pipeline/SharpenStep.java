package org.rainsieve.pipeline;

import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.sharpen.SharpenTile;
import org.rainsieve.sharpen.Sharpening;

/** Sharpen, in the sensor's geometry. What deconvolution finds is made in canonical tiles and kept; bites are put back afterwards. */
public final class SharpenStep implements PixelSource {
    /** What its pace is kept under. */
    String work() {
        return "Sharpen, " + settings.method();
    }

    private record Key(
            Object before, Object spread, double cornersPx, Object method, String model, int tileX, int tileY) {}

    private final DenoiseStep before;
    private final SharpenSettings settings;
    private final Sharpening sharpening;
    private final WorkingMemory cache;
    private final Cancel cancel;

    /** @param grainKept share of the sensor's noise that Denoise leaves in, 0 to 1 */
    SharpenStep(
            DenoiseStep before,
            SharpenSettings settings,
            double[] gains,
            NoiseModel noise,
            double grainKept,
            WorkingMemory cache,
            Cancel cancel) {
        this.before = before;
        this.settings = settings;
        this.sharpening = new Sharpening(settings, before.width(), before.height(), gains, noise, grainKept);
        this.cache = cache;
        this.cancel = cancel;
    }

    @Override
    public int width() {
        return before.width();
    }

    @Override
    public int height() {
        return before.height();
    }

    @Override
    public int channels() {
        return 3;
    }

    @Override
    public Region inputRegion(Region out) {
        int tile = sharpening.tilePx();
        int x = Math.floorDiv(out.x(), tile) * tile;
        int y = Math.floorDiv(out.y(), tile) * tile;
        Region tiles = new Region(
                x, y, (out.right() - x + tile - 1) / tile * tile, (out.bottom() - y + tile - 1) / tile * tile);
        return sharpening.around(tiles);
    }

    @Override
    public void fill(Planes out) {
        before.fill(out);
        sharpen(out);
    }

    /** Sharpens a region that holds the picture before this step. */
    void sharpen(Planes out) {
        Region r = out.region();
        int size = sharpening.tilePx();
        for (int ty = r.y() / size; ty <= (r.bottom() - 1) / size; ty++) {
            for (int tx = r.x() / size; tx <= (r.right() - 1) / size; tx++) {
                cancel.check();
                SharpenTile tile = tile(tx, ty);
                if (before.masks().sharpens()) {
                    MaskField.Amounts amounts =
                            before.masks().sharpenAmounts(tile.region().intersect(r));
                    sharpening.apply(
                            tile,
                            amounts.of(settings.biteFinePercent(), m -> MaskField.orNaN(m.bitePercent())),
                            amounts.of(settings.biteCoarsePercent(), m -> MaskField.orNaN(m.bitePercent())),
                            out);
                } else {
                    sharpening.apply(tile, out);
                }
            }
        }
    }

    private SharpenTile tile(int tx, int ty) {
        Key key = new Key(
                before.identity(),
                settings.spread(),
                settings.cornersPx(),
                settings.method(),
                settings.model(),
                tx,
                ty);
        return cache.get(
                key,
                () -> {
                    Region core = sharpening.core(tx, ty);
                    Planes around = new Planes(sharpening.around(core), 3);
                    before.fill(around);
                    long begun = System.nanoTime();
                    SharpenTile made = sharpening.tile(core, around, before.grainKept(sharpening.looked(core)));
                    Pace.note(work(), System.nanoTime() - begun, core.area());
                    return made;
                },
                made -> 20L * made.region().area());
    }
}
