package org.rainsieve.scene;

import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Arrays;
import java.util.Locale;
import org.rainsieve.dng.CfaDngWriter;
import org.rainsieve.dng.TiffDirectory;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/**
 * The demo's shoots, one made-up week at Ossel Mere, as files of made-up cameras. Drawn once and kept; the same bytes
 * every time. A burst is one drawing seen through a hand-held frame that wanders, with its own noise each time.
 */
public final class DemoShoots {
    public static final String STARS = "Wind pump under stars";
    public static final String TOADS = "Toad night";

    private static final int WANDER = 48;
    private static final int MASKED = 24;
    private static final int WIDTH = 1920;
    private static final int HEIGHT = 1280;

    /** Told after each group of files, so that what is there can be taken in already. */
    @FunctionalInterface
    public interface Progress {
        void ready(String shoot);
    }

    private final Path folder;

    /** @param folder receives a folder for each shoot */
    public DemoShoots(Path folder) {
        this.folder = folder;
    }

    /** Writes what is not there yet. */
    public void fill(Progress progress) throws IOException {
        int[] isos = {1600, 3200, 6400};
        for (int scene = 0; scene < 3; scene++) {
            String[] names = numbered("WP_", 20 + 10 * scene, 3);
            SceneTruth drawn =
                    missing(STARS, names) ? new WindPump(scene + 1).render(WIDTH + WANDER, HEIGHT + WANDER) : null;
            for (int i = 0; i < 3; i++) {
                write(STARS, names[i], drawn, SimulatedCamera.ONDREL_24, isos[i], 0, 15, "Ondrel 24 mm f/2", 24, i);
            }
            progress.ready(STARS);
        }
        String[] pocket = numbered("PS_", 31, 3);
        SceneTruth fourth = missing(STARS, pocket) ? new WindPump(9).render(1600 + WANDER, 1200 + WANDER) : null;
        for (int i = 0; i < 3; i++) {
            write(STARS, pocket[i], fourth, SimulatedCamera.PILBO_S, 400 << i, 0, 8, "", 5.2, i);
        }
        progress.ready(STARS);

        int number = 140;
        int[][] bursts = {{12800, 6}, {6400, 5}, {25600, 4}, {3200, 4}};
        for (int burst = 0; burst < bursts.length; burst++) {
            String[] names = numbered("TN_", number, bursts[burst][1]);
            number += bursts[burst][1] + 7;
            boolean missed = burst == 3;
            SceneTruth drawn = missing(TOADS, names)
                    ? new ToadNight(burst + 3).render(WIDTH + WANDER, HEIGHT + WANDER, missed ? 1.1 : 0)
                    : null;
            for (int i = 0; i < names.length; i++) {
                // The last of the second burst is exposed a stop and a quarter too low.
                double under = burst == 1 && i == names.length - 1 ? 1.25 : 0;
                write(
                        TOADS,
                        names[i],
                        drawn,
                        SimulatedCamera.ONDREL_24,
                        bursts[burst][0],
                        under,
                        1 / 80.0,
                        "Ondrel 380 mm f/5",
                        380,
                        i);
            }
            progress.ready(TOADS);
        }
        breakOne(TOADS, "TN_0140.dng", "TN_0147.dng");
        progress.ready(TOADS);
    }

    private static String[] numbered(String prefix, int from, int count) {
        String[] names = new String[count];
        for (int i = 0; i < count; i++) {
            names[i] = String.format(Locale.ROOT, "%s%04d.dng", prefix, from + i);
        }
        return names;
    }

    private boolean missing(String shoot, String[] names) {
        return Arrays.stream(names)
                .anyMatch(name -> !Files.exists(folder.resolve(shoot).resolve(name)));
    }

    private void write(
            String shoot,
            String name,
            SceneTruth drawn,
            SimulatedCamera camera,
            int iso,
            double underStops,
            double seconds,
            String lens,
            double focalLengthMm,
            int index)
            throws IOException {
        Path file = folder.resolve(shoot).resolve(name);
        if (Files.exists(file)) {
            return;
        }
        long seed = name.hashCode();
        Planes picture = seen(drawn.srgb(), seed, index);
        camera.see(picture);
        float gain = (float) Math.pow(2, -underStops);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < picture.channel(c).length; i++) {
                picture.channel(c)[i] *= gain;
            }
        }
        NoiseModel noise = camera.noiseAt(iso);
        Mosaic mosaic =
                camera.sensor().expose(picture, noise.a().get(0), noise.b().get(0), seed);
        String time = String.format(
                Locale.ROOT, "2026-10-03T2%d:%02d:%02d", 1 + index % 2, Math.floorMod(seed, 60), 3 * index % 60);
        TiffDirectory tags = camera.tags(
                new SimulatedCamera.Shot(iso, seconds, lens.isEmpty() ? 2 : 5, lens, focalLengthMm, time),
                index % 2 == 0);
        if (index == 0) {
            SimulatedCamera.addRating(tags, 4, shoot.equals(TOADS) ? "toad" : "stars", "Ossel Mere");
        }
        if (camera == SimulatedCamera.PILBO_S) {
            SimulatedCamera.addPlace(tags, 47.125, -31.5);
        }
        byte[] dng = CfaDngWriter.write(
                mosaic, camera.black(), new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256, MASKED), tags);
        publish(file, dng);
    }

    /** The part of the drawing that a hand-held frame sees. */
    private static Planes seen(Planes drawn, long seed, int index) {
        Region whole = drawn.region();
        int width = whole.width() - WANDER;
        int height = whole.height() - WANDER;
        int dx = (int) (WANDER * Texture.hash(index, 1, 0, seed));
        int dy = (int) (WANDER * Texture.hash(index, 2, 0, seed));
        Planes part = new Planes(new Region(0, 0, width, height), 3);
        for (int c = 0; c < 3; c++) {
            for (int y = 0; y < height; y++) {
                System.arraycopy(drawn.channel(c), (y + dy) * whole.width() + dx, part.channel(c), y * width, width);
            }
        }
        return part;
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
