package org.rainsieve.scene;

import java.io.IOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.Locale;
import org.rainsieve.dng.CfaDngWriter;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;

/** A small shoot of plain test pictures by made-up cameras, the same bytes every time. */
public final class PlainDemo {
    private static final int[] ISOS = {1600, 3200, 6400, 12800, 12800, 25600};

    private PlainDemo() {}

    /** Fills a folder; files that are there already are left alone. */
    public static void fill(Path folder) throws IOException {
        Files.createDirectories(folder);
        for (int i = 0; i < ISOS.length; i++) {
            write(
                    folder.resolve(String.format(Locale.ROOT, "OM_%04d.dng", 101 + i)),
                    SimulatedCamera.ONDREL_24,
                    ISOS[i],
                    2400,
                    1600,
                    i);
        }
        write(folder.resolve("PS_0031.dng"), SimulatedCamera.PILBO_S, 800, 1800, 1350, 11);
        write(folder.resolve("PS_0032.dng"), SimulatedCamera.PILBO_S, 1600, 1800, 1350, 12);
        Path broken = folder.resolve("OM_0107.dng");
        if (!Files.exists(broken)) {
            byte[] whole = Files.readAllBytes(folder.resolve("OM_0101.dng"));
            publish(broken, java.util.Arrays.copyOf(whole, whole.length / 3));
        }
    }

    private static void write(Path file, SimulatedCamera camera, int iso, int width, int height, int number)
            throws IOException {
        if (!Files.exists(file)) {
            publish(file, frame(camera, iso, width, height, number));
        }
    }

    /** One frame as a DNG file of that camera. */
    public static byte[] frame(SimulatedCamera camera, int iso, int width, int height, int number) {
        Planes picture = new PlainScene(width, height, number).srgb();
        camera.see(picture);
        NoiseModel noise = camera.noiseAt(iso);
        Mosaic mosaic =
                camera.sensor().expose(picture, noise.a().get(0), noise.b().get(0), 1000L + number);
        String time = String.format(Locale.ROOT, "2026-10-03T21:%02d:%02d", 10 + number, 7 * number % 60);
        SimulatedCamera.Shot shot = new SimulatedCamera.Shot(iso, 1.0 / 80, 5, "Ondrel 380 mm f/5", 380, time);
        return CfaDngWriter.write(
                mosaic,
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                camera.tags(shot, number % 2 == 0));
    }

    private static void publish(Path file, byte[] bytes) throws IOException {
        Path part = file.resolveSibling("." + file.getFileName() + ".part");
        Files.write(part, bytes);
        Files.move(part, file, StandardCopyOption.ATOMIC_MOVE);
    }
}
