package org.rainsieve.benchmarks;

import java.io.IOException;
import java.lang.management.ManagementFactory;
import java.lang.management.MemoryPoolMXBean;
import java.lang.management.MemoryType;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Locale;
import java.util.concurrent.Callable;
import java.util.stream.IntStream;
import nu.pattern.OpenCV;
import org.opencv.core.CvType;
import org.opencv.core.Mat;
import org.opencv.photo.Photo;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.delivery.Delivery;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.demosaic.Demosaic;
import org.rainsieve.denoise.DenoiseMethod;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SensorNoise;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnCheck;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.quality.Psnr;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.source.OpenedFrame;

/**
 * One 24 MP mosaic, step by step: megapixels a second and peak heap, beside OpenCV's non-local means (7/21 windows, on a
 * part, best of six strengths in PSNR) and LibRaw's plain development. Each figure is the best of three.
 */
final class SpeedBenchmark {
    private static final int WIDTH = 6016;
    private static final int HEIGHT = 4016;
    private static final int ISO = 6400;
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    /** Of the trained method's network, for each pixel of the full size (docs/learned.md). */
    private static final double MULTIPLY_ADDS = 29_504;

    private static final double MEGAPIXELS = WIDTH / 1e6 * HEIGHT;

    private SpeedBenchmark() {}

    static void run() throws Exception {
        Path folder = Files.createTempDirectory("rain-sieve-benchmark");
        Path original = folder.resolve("original.dng");
        NoiseModel noise = CAMERA.noiseAt(ISO);
        System.out.printf(
                Locale.ROOT,
                "%d x %d, %.1f MP, ISO %d, %d cores%n",
                WIDTH,
                HEIGHT,
                MEGAPIXELS,
                ISO,
                Runtime.getRuntime().availableProcessors());
        expose(original, noise);

        double open = best("opening", MEGAPIXELS, () -> RawOpener.open(original));
        RawOpener.Opened opened = RawOpener.open(original);
        OpenedFrame frame = opened.frame();
        best(
                "reading (noise, blur, focus map, defects)",
                MEGAPIXELS,
                () -> Reading.full(frame.mosaic(), noise, frame.colour().gains()));
        double quick = best("Quick", MEGAPIXELS, () -> tiles(frame.mosaic(), noise, Methods.of(Methods.QUICK)));
        double demosaic = best("demosaic (decide, interpolate)", MEGAPIXELS, () -> tiles(frame.mosaic(), noise, null));
        double learned = best("Learned", MEGAPIXELS, () -> tiles(frame.mosaic(), noise, Methods.of(Methods.LEARNED)));
        Mosaic six = sixBySix(noise);
        best("Quick, 6×6", MEGAPIXELS, () -> tiles(six, noise, Methods.of(Methods.QUICK)));
        best("demosaic, 6×6", MEGAPIXELS, () -> tiles(six, noise, null));
        double writing = best("DNG writing", MEGAPIXELS, () -> write(frame, folder.resolve("plain.dng")));
        Path file = folder.resolve("return.dng");
        double wholeLearned =
                best("whole file, Learned, verified", MEGAPIXELS, () -> whole(original, file, noise, Methods.LEARNED));
        double whole =
                best("whole file, Quick, verified", MEGAPIXELS, () -> whole(original, file, noise, Methods.QUICK));
        Planes returned = demosaiced(frame.mosaic());
        double check = best("looking a return over", MEGAPIXELS, () -> look(frame.mosaic(), returned));
        DeliverySettings tiff =
                new DeliverySettings(DeliverySettings.Form.TIFF, DeliverySpace.SRGB, 300, true, 90, 0, 0);
        DeliverySettings jpeg =
                new DeliverySettings(DeliverySettings.Form.JPEG, DeliverySpace.SRGB, 300, true, 90, 0, 0);
        double toTiff = best("TIFF from a return", MEGAPIXELS, () -> deliver(frame, file, tiff, folder));
        double toJpeg = best("JPEG from a return", MEGAPIXELS, () -> deliver(frame, file, jpeg, folder));
        double decode = best("decoding a return", MEGAPIXELS, () -> ReturnVerifier.verify(file, WIDTH, HEIGHT, 1));
        double alone = 1 / wholeLearned + 1 / toTiff + 1 / toJpeg - 2 / decode;
        System.out.printf(
                Locale.ROOT,
                "looking over: %.1f %% of a whole file with Quick, %.1f %% with Learned (target 5)%n"
                        + "DNG, TIFF and JPEG in one pass: %.2f x the DNG alone and writing (target 1.15)%n",
                100 * whole / check,
                100 * wholeLearned / check,
                (alone + 2 / decode) / alone);
        double verify = best("verifying", MEGAPIXELS, () -> ReturnVerifier.verify(file, WIDTH, HEIGHT, 16));
        System.out.printf(
                Locale.ROOT,
                "return: %.1f MB, %.0f %% of 16-bit RGB%n",
                Files.size(file) / 1e6,
                100.0 * Files.size(file) / (6.0 * WIDTH * HEIGHT));

        double libraw = best(
                "LibRaw, plain development (AHD)",
                MEGAPIXELS,
                () -> new ProcessBuilder("dcraw_emu", "-4", "-T", "-w", original.toString())
                        .start()
                        .waitFor());
        compareWithOpenCv(frame, noise, quick);
        System.out.printf(
                Locale.ROOT,
                "%nwhole file: %.2f MP/s (target 2); LibRaw's plain development is %.1f times as fast%n",
                whole,
                libraw / whole);
        // In turns, for a shared machine is faster at one time than at another.
        DenoiseMethod network = Methods.of(Methods.LEARNED);
        double least = Double.MAX_VALUE;
        double stack = 0;
        for (int i = 0; i < 3; i++) {
            long begun = System.nanoTime();
            tiles(frame.mosaic(), noise, network);
            least = Math.min(least, (System.nanoTime() - begun) / 1e9);
            stack = Math.max(stack, ConvolutionStack.rate());
        }
        double rate = MULTIPLY_ADDS / 1e3 * withMargins(network, frame) / least;
        System.out.printf(
                Locale.ROOT,
                "Learned, margins counted: %.0f thousand million multiply-adds a second, a bare stack of convolutions %.0f: %.2f (target 0.75)%n"
                        + "whole file with Learned: %.2f x network with its margins, opening and writing (target 1.35)%n",
                rate,
                stack,
                rate / stack,
                1 / wholeLearned / (1 / learned + 1 / open + 1 / writing));
        System.out.printf(
                Locale.ROOT,
                "shares of the sum: opening %.0f %%, Quick %.0f %%, demosaic %.0f %%, writing %.0f %%, verifying %.0f %%%n",
                share(open, open, quick, demosaic, writing, verify),
                share(quick, open, quick, demosaic, writing, verify),
                share(demosaic, open, quick, demosaic, writing, verify),
                share(writing, open, quick, demosaic, writing, verify),
                share(verify, open, quick, demosaic, writing, verify));
    }

    private static Object whole(Path original, Path file, NoiseModel noise, String method) throws Exception {
        Files.deleteIfExists(file);
        RawOpener.Opened again = RawOpener.open(original);
        DenoiseSettings denoise = new DenoiseSettings(true, method, 20, 0);
        ResolvedSettings settings =
                ResolvedSettings.of(ISO, noise, denoise, again.frame().capture().pattern());
        ReturnWriter.write(
                again.frame(),
                ReturnWriter.Order.of("original.dng", again.sha256(), settings),
                file,
                new WorkingMemory(256L << 20),
                Cancel.NEVER,
                share -> {});
        return ReturnVerifier.verify(file, WIDTH, HEIGHT, 16);
    }

    private static Planes demosaiced(Mosaic mosaic) {
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        "benchmark",
                        mosaic,
                        CAMERA.noiseAt(ISO),
                        CAMERA.colour().gains(),
                        new DenoiseSettings(false, Methods.QUICK, 0, 0),
                        new WorkingMemory(1L << 28),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    /** Tile by tile, as a return is looked over while it is written. */
    private static int look(Mosaic mosaic, Planes returned) {
        ReturnCheck check = new ReturnCheck(mosaic);
        int across = (WIDTH + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
        int down = (HEIGHT + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
        IntStream.range(0, across * down).parallel().forEach(i -> {
            Region core = new Region(
                            i % across * DenoiseStep.TILE,
                            i / across * DenoiseStep.TILE,
                            DenoiseStep.TILE,
                            DenoiseStep.TILE)
                    .intersect(mosaic.bounds());
            Planes tile = new Planes(core, 3);
            tile.copyFrom(returned);
            check.add(tile);
        });
        return check.oddities().size();
    }

    private static Object deliver(OpenedFrame frame, Path file, DeliverySettings settings, Path folder)
            throws Exception {
        Path to = folder.resolve("copy." + settings.form());
        Files.deleteIfExists(to);
        return Delivery.writeReturn(file, frame.colour(), settings, null, to);
    }

    /** Megapixels of all tiles with what a method looks at around them. */
    private static double withMargins(DenoiseMethod method, OpenedFrame frame) {
        int margin = method.margin(frame.mosaic().pattern());
        double pixels = 0;
        for (int y = 0; y < HEIGHT; y += DenoiseStep.TILE) {
            for (int x = 0; x < WIDTH; x += DenoiseStep.TILE) {
                pixels += (Math.min(DenoiseStep.TILE, WIDTH - x) + 2.0 * margin)
                        * (Math.min(DenoiseStep.TILE, HEIGHT - y) + 2.0 * margin);
            }
        }
        return pixels / 1e6;
    }

    private static double share(double one, double... all) {
        double sum = 0;
        for (double speed : all) {
            sum += 1 / speed;
        }
        return 100 / one / sum;
    }

    private static void expose(Path file, NoiseModel noise) throws IOException {
        Planes picture = new PlainScene(WIDTH, HEIGHT, 1).srgb();
        CAMERA.see(picture);
        Mosaic mosaic =
                CAMERA.sensor().expose(picture, noise.a().get(0), noise.b().get(0), 1);
        Files.write(
                file,
                CfaDngWriter.write(
                        mosaic,
                        CAMERA.black(),
                        new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                        CAMERA.tags(
                                new SimulatedCamera.Shot(ISO, 0.01, 5, "Ondrel 380 mm f/5", 380, "2026-10-03T21:14:05"),
                                true)));
    }

    /** The best of three, in megapixels a second, with the largest heap in use after a collection or between. */
    private static double best(String name, double megapixels, Callable<?> work) throws Exception {
        double least = Double.MAX_VALUE;
        System.gc();
        resetPeaks();
        for (int i = 0; i < 3; i++) {
            long begun = System.nanoTime();
            work.call();
            least = Math.min(least, (System.nanoTime() - begun) / 1e9);
        }
        System.out.printf(
                Locale.ROOT,
                "%-36s %7.2f MP/s  %6.3f s/MP  peak heap %5d MB%n",
                name,
                megapixels / least,
                least / megapixels,
                peak() >> 20);
        return megapixels / least;
    }

    private static void resetPeaks() {
        ManagementFactory.getMemoryPoolMXBeans().forEach(MemoryPoolMXBean::resetPeakUsage);
    }

    private static long peak() {
        return ManagementFactory.getMemoryPoolMXBeans().stream()
                .filter(pool -> pool.getType() == MemoryType.HEAP)
                .mapToLong(pool -> pool.getPeakUsage().getUsed())
                .sum();
    }

    /** One method alone, or demosaic alone where it is null, over the canonical tiles with their margins, both cores. */
    private static int tiles(Mosaic mosaic, NoiseModel noise, DenoiseMethod method) {
        int across = (WIDTH + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
        int down = (HEIGHT + DenoiseStep.TILE - 1) / DenoiseStep.TILE;
        double[] gains = CAMERA.colour().gains();
        Demosaic demosaic = Demosaic.of(mosaic.pattern(), gains, null);
        int margin = demosaic.margin() + (method == null ? 0 : method.margin(mosaic.pattern()));
        return IntStream.range(0, across * down)
                .parallel()
                .map(i -> {
                    Region core = new Region(
                                    i % across * DenoiseStep.TILE,
                                    i / across * DenoiseStep.TILE,
                                    DenoiseStep.TILE,
                                    DenoiseStep.TILE)
                            .intersect(mosaic.bounds());
                    Planes noisy = new Planes(core.grow(margin), 1);
                    mosaic.fill(noisy);
                    if (method != null) {
                        return method.estimate(noisy, mosaic.pattern(), SensorNoise.uncut(noise), gains)
                                .channels();
                    }
                    Planes out = new Planes(core, 3);
                    byte[] decision = demosaic.decide(noisy);
                    demosaic.interpolate(noisy, decision, out);
                    demosaic.interpolate(noisy, decision, out);
                    return out.channels();
                })
                .sum();
    }

    /** The same frame on a 6×6 sensor. */
    private static Mosaic sixBySix(NoiseModel noise) {
        Planes picture = new PlainScene(WIDTH, HEIGHT, 1).srgb();
        CAMERA.see(picture);
        return new SimulatedSensor(CfaPattern.SIX, CAMERA.black(), CAMERA.white())
                .expose(picture, noise.a().get(0), noise.b().get(0), 1);
    }

    private static int write(OpenedFrame frame, Path file) throws IOException {
        Files.deleteIfExists(file);
        try (LinearDngWriter writer = new LinearDngWriter(
                file,
                WIDTH,
                HEIGHT,
                frame.main(),
                frame.rawDirectory(),
                LinearDngWriter.Placement.AS_TAKEN,
                "benchmark",
                "original.dng",
                "<x/>",
                16,
                16,
                null)) {
            for (int y = 0; y < HEIGHT; y += 1024) {
                int rows = Math.min(1024, HEIGHT - y);
                short[] band = new short[rows * WIDTH * 3];
                for (int i = 0; i < band.length; i++) {
                    int pixel = i / 3;
                    band[i] = (short) (frame.mosaic().sample(pixel % WIDTH, y + pixel / WIDTH) * 3);
                }
                writer.writeBand(band, rows);
            }
            writer.finish(
                    new LinearDngWriter.Preview(16, 16, new byte[768], 1, 1, new byte[2]),
                    new LinearDngWriter.Measured(new double[6], 1));
        }
        return 0;
    }

    private static void compareWithOpenCv(OpenedFrame frame, NoiseModel noise, double quickSpeed) throws Exception {
        OpenCV.loadLocally();
        // Non-local means is slow: a part of the frame with chart, edges and strokes tells its speed and its quality.
        Region part = new Region(WIDTH / 2 - 700, HEIGHT / 2 - 500, 1400, 1000);
        double[] gains = CAMERA.colour().gains();
        PlainScene scene = new PlainScene(WIDTH, HEIGHT, 1);
        CAMERA.see(scene.srgb());
        Planes truth = new Planes(part, 3);
        truth.copyFrom(scene.srgb());
        DenoiseStep step = new DenoiseStep(
                "benchmark",
                frame.mosaic(),
                noise,
                gains,
                new DenoiseSettings(true, Methods.QUICK, 0, 0),
                new WorkingMemory(512L << 20),
                Cancel.NEVER);
        Planes after = new Planes(part, 3);
        step.fill(after);
        Planes before = new Planes(part, 3);
        step.plain().fill(before);
        double quickDb = Psnr.cpsnrDb(after, truth, part, gains);
        Mat noisy = shown(before, gains);
        double bestDb = 0;
        double least = Double.MAX_VALUE;
        for (float strength : new float[] {3, 6, 9, 12, 16, 22}) {
            Mat clean = new Mat();
            long begun = System.nanoTime();
            Photo.fastNlMeansDenoisingColored(noisy, clean, strength, strength, 7, 21);
            least = Math.min(least, (System.nanoTime() - begun) / 1e9);
            bestDb = Math.max(bestDb, psnr(clean, truth, gains));
        }
        double speed = part.area() / 1e6 / least;
        System.out.printf(
                Locale.ROOT, "%-36s %7.2f MP/s  %6.3f s/MP%n", "OpenCV fastNlMeansDenoisingColored", speed, 1 / speed);
        System.out.printf(
                Locale.ROOT,
                "PSNR there: plain %.2f dB, OpenCV at its best %.2f dB, Quick %.2f dB%n",
                Psnr.cpsnrDb(before, truth, part, gains),
                bestDb,
                quickDb);
        System.out.printf(
                Locale.ROOT,
                "Quick is %.1f times as fast as OpenCV (target 5), PSNR %+.2f dB (target 0)%n",
                quickSpeed / speed,
                quickDb - bestDb);
    }

    private static Mat shown(Planes planes, double[] gains) {
        Region r = planes.region();
        byte[] bytes = new byte[(int) r.area() * 3];
        for (int i = 0; i < r.area(); i++) {
            for (int c = 0; c < 3; c++) {
                bytes[3 * i + c] = (byte) Math.round(255
                        * RgbSpace.encode(Math.min(1, Math.max(0, planes.channel(c)[i] * gains[c]))));
            }
        }
        Mat mat = new Mat(r.height(), r.width(), CvType.CV_8UC3);
        mat.put(0, 0, bytes);
        return mat;
    }

    private static double psnr(Mat clean, Planes truth, double[] gains) {
        byte[] bytes = new byte[(int) (clean.total() * 3)];
        clean.get(0, 0, bytes);
        double error = 0;
        for (int i = 0; i < bytes.length; i++) {
            double t = RgbSpace.encode(Math.min(1, Math.max(0, truth.channel(i % 3)[i / 3] * gains[i % 3])));
            double d = (bytes[i] & 255) / 255.0 - t;
            error += d * d;
        }
        return 10 * Math.log10(bytes.length / error);
    }
}
