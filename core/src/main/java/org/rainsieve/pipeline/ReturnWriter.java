package org.rainsieve.pipeline;

import java.io.IOException;
import java.nio.file.Path;
import java.time.OffsetDateTime;
import java.time.temporal.ChronoUnit;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.function.DoubleConsumer;
import java.util.stream.IntStream;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.dng.OpenedFrame;
import org.rainsieve.dng.Tag;
import org.rainsieve.dng.TiffField;
import org.rainsieve.dng.Xmp;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.DefectMap;

/** Takes one opened frame through the steps and writes its return, band by band, with both cores on tiles. */
public final class ReturnWriter {
    private static final int PREVIEW_EDGE = 1440;
    private static final int THUMBNAIL_EDGE = 256;

    /**
     * @param noiseLeft luminance noise after ÷ before, 0 to 1
     * @param grain see {@link ReturnMeasurement#grainAtMidGrey}
     */
    public record Written(double noiseLeft, double grain) {}

    private ReturnWriter() {}

    /**
     * @param originalName file name of the original
     * @param version 1 for the first return of a frame
     * @param file is created; must not exist
     * @param progress told the share that is done, 0 to 1, after each band of tiles
     */
    public static Written write(
            OpenedFrame frame,
            String originalName,
            String originalSha256,
            ResolvedSettings settings,
            DefectMap defects,
            int version,
            Path file,
            TileCache cache,
            Cancel cancel,
            DoubleConsumer progress)
            throws IOException, RefusedException {
        DenoiseStep step = step(frame, originalSha256, settings, defects, cache, cancel);
        int width = step.width();
        int height = step.height();
        ReducedPicture large = new ReducedPicture(width, height, PREVIEW_EDGE);
        ReducedPicture small = new ReducedPicture(width, height, THUMBNAIL_EDGE);
        ReturnMeasurement measurement = new ReturnMeasurement(frame.colour().gains());
        try (LinearDngWriter writer = new LinearDngWriter(
                file,
                width,
                height,
                frame.main(),
                frame.rawDirectory(),
                ResolvedSettings.ENGINE,
                originalName,
                xmp(frame, originalName, originalSha256, settings, version),
                small.width(),
                small.height())) {
            int across = (width + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
            int down = (height + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
            for (int ty = 0; ty < down; ty++) {
                int row = ty;
                int rows = Math.min(DenoiseStep.TILE, height - ty * DenoiseStep.TILE);
                short[] band = new short[rows * width * 3];
                IntStream.range(0, across).parallel().forEach(tx -> {
                    DenoisedTile tile = step.tile(tx, row);
                    Planes out = new Planes(tile.estimate().region(), 3);
                    step.blend(tile, out);
                    measurement.add(tile, out);
                    large.add(out);
                    small.add(out);
                    interleave(out, band, width);
                });
                cancel.check();
                writer.writeBand(band, rows);
                progress.accept((ty + 1.0) / down);
            }
            byte[] preview = ReducedPicture.jpeg(large.render(frame.colour()), large.width(), large.height(), 0.9f);
            LinearDngWriter.Measured measured = measurement.measured();
            writer.finish(
                    new LinearDngWriter.Preview(
                            small.width(),
                            small.height(),
                            small.render(frame.colour()),
                            large.width(),
                            large.height(),
                            preview),
                    measured);
            return new Written(
                    measured.noiseLeft(),
                    measurement.grainAtMidGrey(
                            frame.shot().iso() > 0
                                    ? settings.ei() / frame.shot().iso()
                                    : 1));
        }
    }

    /** The steps for a frame: what the viewer shows and the writer writes. */
    public static DenoiseStep step(
            OpenedFrame frame,
            String originalSha256,
            ResolvedSettings settings,
            DefectMap defects,
            TileCache cache,
            Cancel cancel)
            throws RefusedException {
        if (settings.denoise().on()) {
            Methods.checkUse(
                    settings.denoise().method(),
                    settings.model(),
                    frame.capture().pattern());
        }
        return new DenoiseStep(
                originalSha256,
                frame.capture(),
                settings.noise(),
                frame.colour().gains(),
                settings.denoise(),
                settings.model(),
                defects,
                cache,
                cancel);
    }

    private static void interleave(Planes tile, short[] band, int width) {
        Region r = tile.region();
        int top = r.y() / DenoiseStep.TILE * DenoiseStep.TILE;
        for (int y = r.y(); y < r.bottom(); y++) {
            int from = tile.index(r.x(), y);
            int to = ((y - top) * width + r.x()) * 3;
            for (int x = 0; x < r.width(); x++) {
                for (int c = 0; c < 3; c++) {
                    band[to + 3 * x + c] = LinearDngWriter.sample(tile.channel(c)[from + x]);
                }
            }
        }
    }

    private static String xmp(
            OpenedFrame frame, String originalName, String originalSha256, ResolvedSettings settings, int version) {
        Map<String, String> properties = new LinkedHashMap<>();
        properties.put("Engine", settings.engine());
        properties.put("Version", Integer.toString(version));
        properties.put("OriginalFile", originalName);
        properties.put("OriginalSha256", originalSha256);
        properties.put("Settings", settings.toJson());
        byte[] original = frame.main().field(Tag.XMP).map(TiffField::bytes).orElse(new byte[0]);
        String when = OffsetDateTime.now().truncatedTo(ChronoUnit.SECONDS).toString();
        return Xmp.ofReturn(original, properties, originalName, ResolvedSettings.ENGINE, when);
    }
}
