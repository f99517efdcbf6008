package org.rainsieve.scene;

import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import org.rainsieve.dng.DngReader;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.tiff.TiffDirectory;

/**
 * The demo's shoots, one made-up week at Ossel Mere, as files of made-up cameras. Drawn once and kept; the same bytes
 * every time. A burst is one drawing seen through a hand-held lens that wanders and turns a little, with its own noise
 * each time.
 */
public final class DemoShoots {
    public static final String STARS = "Wind pump under stars";
    public static final String TOADS = "Toad night";
    public static final String REGATTA = "Lantern regatta";
    public static final String CALIBRATION = "Flats and darks";

    /** Stands in the demo's folder when everything is drawn. */
    /** The simulated card reader's place. */
    public static final String CARD = "Card";

    private static final int CARD_SHOTS = 4;

    public static final String DONE = ".drawn";

    /** How much larger than the frame a drawing is, for wandering and for what a lens draws in from outside. */
    private static final int MARGIN = 120;

    private static final int WANDER = 44;
    private static final int MASKED = 24;

    /** Draws a scene at a size, focused so many lengths behind its subject. */
    @FunctionalInterface
    private interface Drawing {
        SceneTruth draw(int width, int height, double missed);
    }

    /** What is odd about a frame. */
    private enum Oddity {
        /** Exposed 1¼ stops too low; the sidecar's exposure says so. */
        UNDER,
        SHAKEN,
        MISSED,
        /** The lens is reported by another one's name, as adapters do. */
        WRONG_LENS,
        /** Only the camera's own JPEG was kept. */
        JPEG
    }

    private record Odd(int index, Oddity oddity) {}

    private record Burst(
            String shoot,
            String prefix,
            int first,
            int count,
            SimulatedCamera camera,
            SimulatedLens lens,
            int iso,
            double seconds,
            LocalDateTime start,
            double pauseSeconds,
            int width,
            int height,
            Drawing drawing,
            String keyword,
            List<Odd> odd) {
        String name(int index) {
            String ending = is(index, Oddity.JPEG) ? "jpg" : "dng";
            return String.format(Locale.ROOT, "%s%04d.%s", prefix, first + index, ending);
        }

        boolean is(int index, Oddity oddity) {
            return odd.contains(new Odd(index, oddity));
        }
    }

    private final Path folder;

    /** @param folder receives a folder for each shoot */
    public DemoShoots(Path folder) {
        this.folder = folder;
    }

    private static List<Burst> bursts() {
        List<Burst> all = new ArrayList<>();
        stars(all, 20, 12, 3200, 1, 1920, 1280, "2026-10-05T23:40:00");
        stars(all, 40, 10, 1600, 2, 1920, 1280, "2026-10-06T00:22:00");
        toads(all, 140, 12, 12800, 3, "2026-10-03T21:14:05");
        regatta(all, 301, 12, 3200, 1, "2026-10-04T18:52:10");
        LocalDateTime afternoon = LocalDateTime.parse("2026-10-05T22:58:00");
        all.add(new Burst(
                STARS,
                "PS_",
                31,
                8,
                SimulatedCamera.PILBO_S,
                SimulatedLens.PILBO,
                800,
                8,
                afternoon,
                14,
                1600,
                1200,
                (w, h, missed) -> new WindPump(9).render(w, h),
                "stars",
                List.of(new Odd(6, Oddity.JPEG), new Odd(7, Oddity.JPEG))));
        toads(
                all,
                160,
                14,
                6400,
                4,
                "2026-10-03T21:47:31",
                new Odd(4, Oddity.UNDER),
                new Odd(9, Oddity.SHAKEN),
                new Odd(12, Oddity.UNDER),
                new Odd(13, Oddity.JPEG));
        LocalDateTime night = LocalDateTime.parse("2026-10-03T22:31:07");
        all.add(new Burst(
                TOADS,
                "TN_",
                190,
                12,
                SimulatedCamera.ONDREL_24,
                SimulatedLens.ONDREL_380,
                25600,
                1 / 125.0,
                night,
                0.14,
                1920,
                1280,
                (w, h, missed) -> new OwlOnPost(2).render(w, h, missed),
                "owl",
                List.of(new Odd(5, Oddity.SHAKEN))));
        regatta(all, 330, 10, 800, 2, "2026-10-04T18:11:40");
        regatta(all, 351, 10, 6400, 3, "2026-10-04T19:20:02", new Odd(3, Oddity.SHAKEN), new Odd(8, Oddity.UNDER));
        stars(all, 60, 10, 6400, 3, 1920, 1280, "2026-10-06T01:05:00");
        toads(
                all,
                220,
                10,
                3200,
                5,
                "2026-10-03T23:02:44",
                new Odd(2, Oddity.MISSED),
                new Odd(6, Oddity.WRONG_LENS),
                new Odd(7, Oddity.WRONG_LENS));
        regatta(all, 372, 10, 12800, 4, "2026-10-04T19:58:15", new Odd(6, Oddity.MISSED));
        regatta(all, 390, 10, 1600, 5, "2026-10-04T18:33:21", new Odd(9, Oddity.JPEG));
        stars(all, 80, 2, 1600, 5, 6016, 4016, "2026-10-06T01:40:00");
        stars(all, 90, 2, 6400, 6, 6016, 4016, "2026-10-06T02:10:00");
        return all;
    }

    private static void stars(
            List<Burst> all, int first, int count, int iso, int seed, int width, int height, String start) {
        all.add(new Burst(
                STARS,
                "WP_",
                first,
                count,
                SimulatedCamera.ONDREL_24,
                SimulatedLens.ONDREL_24,
                iso,
                15,
                LocalDateTime.parse(start),
                17,
                width,
                height,
                (w, h, missed) -> new WindPump(seed).render(w, h),
                "stars",
                List.of()));
    }

    private static void toads(List<Burst> all, int first, int count, int iso, int seed, String start, Odd... odd) {
        all.add(new Burst(
                TOADS,
                "TN_",
                first,
                count,
                SimulatedCamera.ONDREL_24,
                SimulatedLens.ONDREL_380,
                iso,
                1 / 80.0,
                LocalDateTime.parse(start),
                0.15,
                1920,
                1280,
                (w, h, missed) -> new ToadNight(seed).render(w, h, missed),
                "toad",
                List.of(odd)));
    }

    private static void regatta(List<Burst> all, int first, int count, int iso, int seed, String start, Odd... odd) {
        all.add(new Burst(
                REGATTA,
                "LR_",
                first,
                count,
                SimulatedCamera.KESVIK_M,
                SimulatedLens.KESVIK_41,
                iso,
                1 / 100.0,
                LocalDateTime.parse(start),
                0.2,
                2040,
                1360,
                (w, h, missed) -> new LanternRegatta(seed).render(w, h, 0.5 * missed),
                "regatta",
                List.of(odd)));
    }

    /**
     * Writes what is not there yet: the first shoot's first burst at once, then a burst of each, then the rest.
     *
     * @param most how many bursts at most
     * @param frames how many frames of each at most
     */
    public void fill(int most, int frames) throws IOException {
        publish(
                folder.resolve("Lenses").resolve("ossel-mere.xml"),
                SimulatedLens.profiles().getBytes(StandardCharsets.UTF_8));
        List<Burst> all = bursts();
        for (Burst burst : all.subList(0, Math.min(most, all.size()))) {
            fillBurst(burst, Math.min(frames, burst.count));
        }
        for (Burst burst : all.subList(0, Math.min(most, all.size()))) {
            if (burst.camera == SimulatedCamera.PILBO_S && !Files.exists(folder.resolve(CARD))) {
                card(burst);
            }
        }
        if (most < all.size()) {
            return;
        }
        breakOne(TOADS, "TN_0140.dng", "TN_0152.dng");
        calibration();
        publish(folder.resolve(DONE), new byte[0]);
    }

    /** A card as a camera leaves it (DCF): two files for each shot. */
    private void card(Burst burst) throws IOException {
        Path images = folder.resolve(CARD).resolve("OSSEL").resolve("DCIM").resolve("101OSSEL");
        for (int i = 0; i < CARD_SHOTS; i++) {
            byte[] dng = Files.readAllBytes(folder.resolve(burst.shoot).resolve(burst.name(i)));
            try {
                Mosaic mosaic = DngReader.read(dng).mosaic();
                String stem = String.format(Locale.ROOT, "OSSL%04d", i + 1);
                byte[] jpeg = CameraJpeg.of(mosaic, burst.camera, burst.iso, tags(burst, i), 0.92f);
                publish(images.resolve(stem + ".JPG"), jpeg);
                publish(images.resolve(stem + ".DNG"), dng);
            } catch (RefusedException e) {
                throw new IOException(e);
            }
        }
    }

    private void fillBurst(Burst burst, int frames) throws IOException {
        SceneTruth drawn = null;
        for (int i = 0; i < frames; i++) {
            Path file = folder.resolve(burst.shoot).resolve(burst.name(i));
            if (Files.exists(file)) {
                continue;
            }
            int width = burst.width + MARGIN;
            int height = burst.height + MARGIN;
            if (burst.is(i, Oddity.MISSED)) {
                write(burst, i, file, burst.drawing.draw(width, height, 1.1).srgb());
            } else {
                drawn = drawn == null ? burst.drawing.draw(width, height, 0) : drawn;
                write(burst, i, file, drawn.srgb());
            }
        }
    }

    private void write(Burst burst, int index, Path file, Planes drawn) throws IOException {
        SimulatedCamera camera = burst.camera;
        long seed = burst.name(index).hashCode();
        boolean tripod = burst.seconds >= 1;
        double wander = tripod ? 1.5 : WANDER;
        double middle = (MARGIN - wander) / 2.0;
        Planes picture = burst.lens.photograph(
                drawn,
                burst.width,
                burst.height,
                new SimulatedLens.Aim(
                        middle + wander * Texture.hash(index, 1, 0, seed),
                        middle + wander * Texture.hash(index, 2, 0, seed),
                        (tripod ? 0 : 0.008) * (Texture.hash(index, 3, 0, seed) - 0.5)));
        if (burst.is(index, Oddity.SHAKEN)) {
            picture = Movement.along(picture, 11, 0.35 + 0.4 * Texture.hash(index, 4, 0, seed));
        }
        camera.see(picture);
        double under = burst.is(index, Oddity.UNDER) ? 1.25 : 0;
        float gain = (float) Math.pow(2, -under);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < picture.channel(c).length; i++) {
                picture.channel(c)[i] *= gain;
            }
        }
        NoiseModel noise = camera.noiseAt(burst.iso);
        SimulatedSensor sensor =
                camera.sensor(flaws(camera, burst.seconds, noise.b().get(0)));
        Mosaic mosaic = sensor.expose(picture, noise.a().get(0), noise.b().get(0), seed);
        TiffDirectory tags = tags(burst, index);
        if (burst.is(index, Oddity.JPEG)) {
            publish(file, CameraJpeg.of(mosaic, camera, burst.iso, tags, 0.92f));
            return;
        }
        if (under > 0) {
            publish(
                    file.resolveSibling(burst.name(index).replace(".dng", ".xmp")),
                    SimulatedCamera.packet(3, under, burst.keyword, "Ossel Mere")
                            .getBytes(StandardCharsets.UTF_8));
        } else if (index == 1) {
            publish(
                    file.resolveSibling(burst.name(index).replace(".dng", ".xmp")),
                    SimulatedCamera.packet(5, 0, burst.keyword, "Ossel Mere").getBytes(StandardCharsets.UTF_8));
        } else if (index == 0) {
            SimulatedCamera.addRating(tags, 4, burst.keyword, "Ossel Mere");
        }
        byte[] dng = CfaDngWriter.write(
                mosaic,
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256, MASKED),
                tags,
                sensor.covered(noise.b().get(0), seed));
        publish(file, dng);
    }

    private static TiffDirectory tags(Burst burst, int index) {
        LocalDateTime time = burst.start.plusNanos((long) (1e9 * burst.pauseSeconds * index));
        SimulatedLens lens = burst.is(index, Oddity.WRONG_LENS) ? SimulatedLens.ONDREL_24 : burst.lens;
        TiffDirectory tags = burst.camera.tags(
                new SimulatedCamera.Shot(
                        burst.iso,
                        burst.seconds,
                        lens.aperture(),
                        lens.name(),
                        lens.focalLengthMm(),
                        time.toString().length() == 16 ? time + ":00" : time.toString()),
                index % 2 == 0);
        if (burst.camera == SimulatedCamera.PILBO_S) {
            SimulatedCamera.addPlace(tags, 47.125, -31.5);
        }
        return tags;
    }

    /** Long exposures show what is wrong with a sensor. */
    private static SimulatedSensor.Flaws flaws(SimulatedCamera camera, double seconds, double b) {
        long body = camera.serial().hashCode();
        return seconds >= 1
                ? new SimulatedSensor.Flaws(body, 1.5e-4, 0.35, 8e-4, 0.25 * Math.sqrt(b))
                : new SimulatedSensor.Flaws(body, 1.5e-5, 0.12, 0, 0);
    }

    /** Two even fields for each ISO and a few exposures without light, for each larger body. */
    private void calibration() throws IOException {
        for (SimulatedCamera camera : new SimulatedCamera[] {SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M}) {
            String body = camera == SimulatedCamera.ONDREL_24 ? "OD" : "KM";
            Region frame = new Region(
                    0,
                    0,
                    camera == SimulatedCamera.ONDREL_24 ? 1920 : 2040,
                    camera == SimulatedCamera.ONDREL_24 ? 1280 : 1360);
            for (int iso = 800; iso <= 12800; iso *= 4) {
                for (int k = 0; k < 2; k++) {
                    Planes flat = new Planes(frame, 3);
                    for (int c = 0; c < 3; c++) {
                        Arrays.fill(flat.channel(c), 0.4f);
                    }
                    camera.see(flat);
                    still(
                            camera,
                            String.format(Locale.ROOT, "%s_flat_%05d_%d.dng", body, iso, k + 1),
                            flat,
                            iso,
                            1 / 60.0);
                }
            }
            for (int k = 0; k < 4; k++) {
                still(
                        camera,
                        String.format(Locale.ROOT, "%s_dark_%d.dng", body, k + 1),
                        new Planes(frame, 3),
                        3200,
                        15);
            }
        }
    }

    private void still(SimulatedCamera camera, String name, Planes picture, int iso, double seconds)
            throws IOException {
        Path file = folder.resolve(CALIBRATION).resolve(name);
        if (Files.exists(file)) {
            return;
        }
        NoiseModel noise = camera.noiseAt(iso);
        SimulatedSensor sensor = camera.sensor(flaws(camera, seconds, noise.b().get(0)));
        long seed = name.hashCode();
        Mosaic mosaic = sensor.expose(picture, noise.a().get(0), noise.b().get(0), seed);
        publish(
                file,
                CfaDngWriter.write(
                        mosaic,
                        camera.black(),
                        new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256, MASKED),
                        camera.tags(new SimulatedCamera.Shot(iso, seconds, 8, "", 0, "2026-10-02T11:00:00"), false),
                        sensor.covered(noise.b().get(0), seed)));
    }

    /** A file as a card that was pulled too early leaves it. */
    private void breakOne(String shoot, String whole, String broken) throws IOException {
        Path file = folder.resolve(shoot).resolve(broken);
        if (!Files.exists(file)) {
            byte[] bytes = Files.readAllBytes(folder.resolve(shoot).resolve(whole));
            publish(file, Arrays.copyOf(bytes, bytes.length / 3));
        }
    }

    private static void publish(Path file, byte[] bytes) throws IOException {
        Files.createDirectories(file.getParent());
        Path part = file.resolveSibling("." + file.getFileName() + ".part");
        Files.write(part, bytes);
        Files.move(part, file, StandardCopyOption.ATOMIC_MOVE);
    }
}
