package org.rainsieve.pipeline;

import java.io.IOException;
import java.nio.file.Path;
import java.time.OffsetDateTime;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.DoubleConsumer;
import java.util.stream.IntStream;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.dng.CompactScale;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.Mask;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.xmp.Xmp;

/** Takes one opened frame through the steps and writes its return, band by band, with both cores on tiles. */
public final class ReturnWriter {
    private static final int PREVIEW_EDGE = 1440;
    private static final int THUMBNAIL_EDGE = 256;

    /**
     * @param noiseLeft luminance noise after ÷ before, 0 to 1
     * @param grain see {@link ReturnMeasurement#grainAtMidGrey}
     * @param width in px
     * @param odd what stands out in it
     */
    public record Written(double noiseLeft, double grain, int width, int height, List<ReturnCheck.Oddity> odd) {}

    private ReturnWriter() {}

    /**
     * What a return is made of beside the frame itself.
     *
     * @param originalName file name of the original
     * @param version 1 for the first return of a frame
     * @param compact with no more levels than the noise that is left deserves
     */
    public record Order(
            String originalName,
            String originalSha256,
            ResolvedSettings settings,
            DefectMap defects,
            int version,
            boolean compact,
            Carried carried) {

        /** The first return, as linear DNG, without defects, sidecar or edits. */
        public static Order of(String originalName, String originalSha256, ResolvedSettings settings) {
            return new Order(originalName, originalSha256, settings, DefectMap.EMPTY, 1, false, Carried.NOTHING);
        }

        public Order asCompact() {
            return new Order(originalName, originalSha256, settings, defects, version, true, carried);
        }

        /** Stops by which editors are asked to show the return brighter. */
        private double brighterStops(OpenedFrame frame) {
            return carried.pushNoted ? settings.pushStops(frame.shot().iso()) : 0;
        }
    }

    /**
     * What a return carries of what is known about its frame.
     *
     * @param sidecar XMP that lies beside the original, or an empty array; what it says goes before what the original says
     * @param edits whether exposure and colour edits of the original are carried on
     * @param pushNoted whether the push stands in the return as its baseline exposure, which editors show and can take back
     */
    public record Carried(byte[] sidecar, boolean edits, boolean pushNoted) {
        static final Carried NOTHING = new Carried(new byte[0], false, false);
    }

    /**
     * @param file is created; must not exist
     * @param progress told the share that is done, 0 to 1, after each band of tiles
     */
    public static Written write(
            OpenedFrame frame, Order order, Path file, WorkingMemory cache, Cancel cancel, DoubleConsumer progress)
            throws IOException, RefusedException {
        ResolvedSettings settings = order.settings;
        Steps steps = Steps.of(frame, order.originalSha256, settings, order.defects, cache, cancel);
        PixelSource result = steps.result();
        int width = result.width();
        int height = result.height();
        TiffDirectory main = tags(frame, order);
        LinearDngWriter.Placement placement = placement(steps, frame);
        Region shown = LinearDngWriter.shown(frame.main(), frame.rawDirectory(), placement, width, height);
        ReducedPicture large = new ReducedPicture(shown, PREVIEW_EDGE);
        ReducedPicture small = new ReducedPicture(shown, THUMBNAIL_EDGE);
        ReturnMeasurement measurement = new ReturnMeasurement(frame.colour().gains());
        ReturnCheck check = new ReturnCheck(frame.capture());
        try (LinearDngWriter writer = new LinearDngWriter(
                file,
                width,
                height,
                main,
                frame.rawDirectory(),
                placement,
                ResolvedSettings.ENGINE,
                order.originalName,
                xmp(frame, order, steps.corrected()),
                small.width(),
                small.height(),
                order.compact ? scale(settings) : null)) {
            int across = (width + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
            int down = (height + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
            int measured = 0;
            for (int ty = 0; ty < down; ty++) {
                int top = ty * DenoiseStep.TILE;
                int rows = Math.min(DenoiseStep.TILE, height - top);
                short[] band = new short[rows * width * 3];
                IntStream.range(0, across).parallel().forEach(tx -> {
                    int left = tx * DenoiseStep.TILE;
                    Planes out = new Planes(new Region(left, top, Math.min(DenoiseStep.TILE, width - left), rows), 3);
                    result.fill(out);
                    if (steps.inPlace()) {
                        measurement.add(steps.denoise().tile(tx, top / DenoiseStep.TILE), out);
                        check.add(out);
                    }
                    large.add(out);
                    small.add(out);
                    interleave(out, band, width);
                });
                cancel.check();
                if (!steps.inPlace()) {
                    measured = measure(steps, measured, (double) (top + rows) / height, measurement, check);
                }
                writer.writeBand(band, rows);
                progress.accept((ty + 1.0) / down);
            }
            CameraColour colour = frame.colour().brightened(order.brighterStops(frame));
            byte[] preview = ReducedPicture.jpeg(large.render(colour), large.width(), large.height(), 0.9f);
            LinearDngWriter.Measured found = measurement.measured();
            writer.finish(
                    new LinearDngWriter.Preview(
                            small.width(),
                            small.height(),
                            small.render(colour),
                            large.width(),
                            large.height(),
                            preview),
                    found);
            return new Written(
                    found.noiseLeft(),
                    measurement.grainAtMidGrey(
                            frame.shot().iso() > 0
                                    ? settings.ei() / frame.shot().iso()
                                    : 1),
                    width,
                    height,
                    oddities(check, steps));
        }
    }

    private static List<ReturnCheck.Oddity> oddities(ReturnCheck check, Steps steps) {
        List<ReturnCheck.Oddity> all = new ArrayList<>(check.oddities());
        DenoiseStep denoise = steps.denoise();
        denoise.masks()
                .untold()
                .forEach(mask -> all.add(new ReturnCheck.Oddity(
                        "nothing stands out as sharp here, so the mask “" + mask.name() + "” was left out",
                        denoise.width() / 2,
                        denoise.height() / 2)));
        return all;
    }

    private static CompactScale scale(ResolvedSettings settings) {
        if (!settings.denoise().on()) {
            return new CompactScale(settings.noise(), 1, 1);
        }
        double grain = settings.denoise().grainKeptPercent();
        double colour = settings.denoise().colourNoiseKeptPercent();
        // The steps suit the place with the least noise left.
        for (Mask mask : settings.masks()) {
            Double ownGrain = mask.amounts().grainKeptPercent();
            Double ownColour = mask.amounts().colourNoiseKeptPercent();
            grain = mask.acts() && ownGrain != null ? Math.min(grain, ownGrain) : grain;
            colour = mask.acts() && ownColour != null ? Math.min(colour, ownColour) : colour;
        }
        return new CompactScale(settings.noise(), grain / 100, colour / 100);
    }

    /**
     * For a picture that is moved, cut or enlarged: measures the rows of denoised tiles that the written share of the picture rests on, while they are at hand: before
     * anything is moved, where before and after lie photosite for photosite over each other.
     *
     * @return how many rows of tiles are measured now
     */
    private static int measure(Steps steps, int from, double share, ReturnMeasurement measurement, ReturnCheck check) {
        DenoiseStep denoise = steps.denoise();
        int across = (denoise.width() + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
        int down = (denoise.height() + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
        int to = (int) Math.ceil(share * down - 1e-9);
        IntStream.range(from * across, Math.max(from, to) * across).parallel().forEach(i -> {
            DenoisedTile tile = denoise.tile(i % across, i / across);
            Planes out = new Planes(tile.estimate().region(), 3);
            denoise.blend(tile, out);
            if (steps.sharpen() != null) {
                steps.sharpen().sharpen(out);
            }
            measurement.add(tile, out);
            check.add(out);
        });
        return Math.max(from, to);
    }

    private static LinearDngWriter.Placement placement(Steps steps, OpenedFrame frame) {
        CropSettings crop = steps.crop();
        double[] shown = crop.idle() || steps.cropRendered()
                ? null
                : new double[] {crop.left(), crop.top(), crop.left() + crop.width(), crop.top() + crop.height()};
        double enlarged = steps.inPlace() || steps.cropRendered()
                ? 1
                : (double) steps.result().width() / frame.capture().width();
        return new LinearDngWriter.Placement(steps.corrected(), steps.cropRendered(), enlarged, shown);
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

    private static String xmp(OpenedFrame frame, Order order, boolean corrected) {
        ResolvedSettings settings = order.settings;
        Map<String, String> properties = new LinkedHashMap<>();
        properties.put("Engine", settings.engine());
        properties.put("Version", Integer.toString(order.version));
        properties.put("OriginalFile", order.originalName);
        properties.put("OriginalSha256", order.originalSha256);
        properties.put("Settings", settings.toJson());
        if (corrected) {
            properties.put("LensCorrection", "Done. Leave the lens correction of the catalogue off.");
        }
        byte[] inside = frame.main().field(Tag.XMP).map(TiffField::bytes).orElse(new byte[0]);
        String when = OffsetDateTime.now().truncatedTo(ChronoUnit.SECONDS).toString();
        return Xmp.ofReturn(
                List.of(inside, order.carried.sidecar),
                order.carried.edits,
                properties,
                order.originalName,
                frame.main().text(Tag.SOFTWARE),
                ResolvedSettings.ENGINE,
                when);
    }

    /** The original's tags, with what its sidecar says, the push where it is noted, and the resolution of the print that was asked for. */
    private static TiffDirectory tags(OpenedFrame frame, Order order) {
        TiffDirectory main = frame.withSidecar(order.carried.sidecar).main();
        double brighter = order.brighterStops(frame);
        if (brighter != 0) {
            main = main.copy();
            // Added to the maker's own (DNG specification 1.4, BaselineExposure).
            main.put(TiffField.ofRationals(
                    Tag.BASELINE_EXPOSURE, TiffType.SRATIONAL, 1000, main.real(Tag.BASELINE_EXPOSURE, 0) + brighter));
        }
        EnlargeSettings enlarge = order.settings.enlarge();
        if (!enlarge.on() || enlarge.by() != EnlargeSettings.By.PRINT_CM) {
            return main;
        }
        TiffDirectory printed = main.copy();
        printed.put(TiffField.ofRationals(Tag.X_RESOLUTION, TiffType.RATIONAL, 100, enlarge.ppi()));
        printed.put(TiffField.ofRationals(Tag.Y_RESOLUTION, TiffType.RATIONAL, 100, enlarge.ppi()));
        printed.put(TiffField.ofShorts(Tag.RESOLUTION_UNIT, 2));
        return printed;
    }
}
