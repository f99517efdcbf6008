package org.rainsieve.strip;

import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.measure.Overshoot;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ReturnMeasurement;
import org.rainsieve.pipeline.Steps;

/**
 * What is measured on one cell of a strip.
 *
 * @param noiseLeftPercent luminance noise after ÷ before denoising, in the smoothest parts of the cell
 * @param overshootPercent how far sharpening or enlarging took edges beyond their surroundings, in % of their height
 */
public record CellFigures(double noiseLeftPercent, double overshootPercent) {

    /**
     * @param steps of the candidate
     * @param unsharpened the same at its own size, with Sharpen off
     * @param region of the result
     * @param sensor the same place of the frame, before geometry
     */
    public static CellFigures of(
            Steps steps, PixelSource unsharpened, Region region, Region sensor, NoiseModel law, double[] gains) {
        DenoiseStep denoise = steps.denoise();
        Region place = wide(sensor).intersect(denoise.bounds());
        DenoisedTile part = denoise.part(place);
        Planes out = new Planes(place, 3);
        denoise.fill(out);
        ReturnMeasurement measurement = new ReturnMeasurement(gains);
        measurement.add(part, out);
        double kept = measurement.noiseLeft();
        Planes sharp = new Planes(region, 3);
        steps.result().fill(sharp);
        Planes soft = at(unsharpened, region, steps.result());
        return new CellFigures(100 * kept, 100 * Overshoot.of(soft, sharp, gains, law.variance(1, 0.1)));
    }

    /** At high zoom a cell shows too little to measure noise on: as much about it as a spot has, without further tiles. */
    private static Region wide(Region place) {
        int tile = DenoiseStep.TILE;
        int x = place.x() / tile * tile;
        int y = place.y() / tile * tile;
        Region tiles = new Region(
                x, y, ((place.right() - 1) / tile + 1) * tile - x, ((place.bottom() - 1) / tile + 1) * tile - y);
        int across = Math.max(0, (SpotFinder.WIDTH - place.width() + 1) / 2);
        int down = Math.max(0, (SpotFinder.HEIGHT - place.height() + 1) / 2);
        return new Region(place.x() - across, place.y() - down, place.width() + 2 * across, place.height() + 2 * down)
                .intersect(tiles);
    }

    /** A source's nearest pixels at the places of a result that may be larger. */
    private static Planes at(PixelSource source, Region region, PixelSource result) {
        double across = (double) source.width() / result.width();
        double down = (double) source.height() / result.height();
        int x = (int) (region.x() * across);
        int y = (int) (region.y() * down);
        Planes small = new Planes(
                new Region(
                        x,
                        y,
                        (int) ((region.right() - 0.5) * across) - x + 1,
                        (int) ((region.bottom() - 0.5) * down) - y + 1),
                3);
        source.fill(small);
        Planes out = new Planes(region, 3);
        for (int i = 0; i < out.channel(0).length; i++) {
            int from = small.index((int) ((region.x() + i % region.width() + 0.5) * across), (int)
                    ((region.y() + i / region.width() + 0.5) * down));
            for (int c = 0; c < 3; c++) {
                out.channel(c)[i] = small.channel(c)[from];
            }
        }
        return out;
    }
}
