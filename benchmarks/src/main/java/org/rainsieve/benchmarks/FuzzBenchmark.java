package org.rainsieve.benchmarks;

import java.awt.image.BufferedImage;
import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.raw.FencedDecoder;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;

/**
 * Opens files damaged in many ways, seeded, and the broken files of a folder: each must be read, or refused with a reason,
 * within 10 s. Anything else is counted as a fault and told.
 */
final class FuzzBenchmark {
    private static final int PER_KIND = 60;
    private static final int WIDTH = 320;
    private static final int HEIGHT = 240;
    private static final long LONGEST_S = 10;

    private final ExecutorService executor = Executors.newCachedThreadPool(task -> {
        Thread thread = new Thread(task);
        thread.setDaemon(true);
        return thread;
    });
    private final FencedDecoder decoder;
    private final Path scratch;
    private int read;
    private int refused;
    private int faults;
    private double slowestMs;

    private FuzzBenchmark(FencedDecoder decoder, Path scratch) {
        this.decoder = decoder;
        this.scratch = scratch;
    }

    /**
     * @param arguments a folder of broken files, or nothing
     * @return 0 when there were no faults
     */
    static int run(List<String> arguments, Path decoderFolder) throws IOException {
        Path scratch = Files.createTempDirectory("fuzz");
        try (FencedDecoder decoder = Files.isDirectory(decoderFolder)
                ? new FencedDecoder("node", decoderFolder, Duration.ofMinutes(1))
                : null) {
            FuzzBenchmark fuzz = new FuzzBenchmark(decoder, scratch);
            for (Map.Entry<String, byte[]> kind : kinds().entrySet()) {
                fuzz.damaged(kind.getKey(), kind.getValue());
            }
            for (String folder : arguments) {
                fuzz.folder(Path.of(folder));
            }
            System.out.printf(
                    Locale.ROOT,
                    "%d read, %d refused with a reason, %d faults; slowest %.0f ms%n",
                    fuzz.read,
                    fuzz.refused,
                    fuzz.faults,
                    fuzz.slowestMs);
            return fuzz.faults == 0 ? 0 : 1;
        } finally {
            try (Stream<Path> files = Files.list(scratch)) {
                for (Path file : files.toList()) {
                    Files.delete(file);
                }
            }
            Files.delete(scratch);
        }
    }

    private static Map<String, byte[]> kinds() throws IOException {
        Map<String, byte[]> kinds = new LinkedHashMap<>();
        for (SimulatedCamera camera :
                List.of(SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M, SimulatedCamera.PILBO_S)) {
            Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
            camera.see(scene);
            NoiseModel law = camera.noiseAt(1600);
            Mosaic mosaic =
                    camera.sensor().expose(scene, law.a().get(0), law.b().get(0), 1);
            SimulatedCamera.Shot shot = new SimulatedCamera.Shot(1600, 0.01, 4, "Lens", 50, "2026-10-03T21:14:05");
            for (boolean compressed : new boolean[] {false, true}) {
                kinds.put(
                        camera.model() + (compressed ? ", compressed" : ", packed"),
                        CfaDngWriter.write(
                                mosaic,
                                camera.black(),
                                new CfaDngWriter.Form(
                                        compressed ? ByteOrder.BIG_ENDIAN : ByteOrder.LITTLE_ENDIAN,
                                        compressed ? 16 : 14,
                                        compressed,
                                        compressed ? 64 : 0),
                                camera.tags(shot, true)));
            }
        }
        BufferedImage image = new BufferedImage(WIDTH, HEIGHT, BufferedImage.TYPE_INT_RGB);
        SplittableRandom random = new SplittableRandom(2);
        for (int i = 0; i < WIDTH * HEIGHT; i++) {
            image.setRGB(i % WIDTH, i / WIDTH, random.nextInt(1 << 24));
        }
        for (String format : List.of("jpeg", "png", "tiff")) {
            ByteArrayOutputStream out = new ByteArrayOutputStream();
            ImageIO.write(image, format, out);
            kinds.put(format, out.toByteArray());
        }
        return kinds;
    }

    /** Cut short, bytes flipped, numbers made huge or zero, directories pointing at themselves. */
    private void damaged(String name, byte[] whole) {
        SplittableRandom random = new SplittableRandom(name.hashCode());
        for (int i = 0; i < PER_KIND; i++) {
            byte[] file = whole.clone();
            int head = Math.min(file.length - 210, 1500);
            switch (i % 5) {
                case 0 -> file = Arrays.copyOf(file, random.nextInt(1, whole.length));
                case 1 -> {
                    for (int k = 0; k < 1 + random.nextInt(40); k++) {
                        file[random.nextInt(file.length)] ^= (byte) (1 << random.nextInt(8));
                    }
                }
                case 2 -> {
                    int from = random.nextInt(8, head);
                    Arrays.fill(file, from, from + random.nextInt(1, 200), (byte) 0xff);
                }
                case 3 -> {
                    int at = random.nextInt(4, head);
                    for (int k = 0; k < 4; k++) {
                        file[at + k] = (byte) (random.nextBoolean() ? 0xff : 0);
                    }
                }
                default -> {
                    int at = random.nextInt(4, head) & ~1;
                    file[at] = 8;
                    file[at + 1] = 0;
                    file[at + 2] = 0;
                    file[at + 3] = 0;
                }
            }
            open(name + " " + i, file);
        }
    }

    private void folder(Path folder) throws IOException {
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.filter(Files::isRegularFile).sorted().toList()) {
                open(file.getFileName().toString(), Files.readAllBytes(file));
            }
        }
    }

    private void open(String name, byte[] content) {
        long begun = System.nanoTime();
        try {
            Path file = Files.write(scratch.resolve("damaged"), content);
            Future<?> opened = executor.submit(() -> RawOpener.open(file, decoder));
            opened.get(LONGEST_S, TimeUnit.SECONDS);
            read++;
        } catch (TimeoutException e) {
            fault(name, "took longer than " + LONGEST_S + " s");
        } catch (ExecutionException e) {
            if (e.getCause() instanceof RefusedException refusal && refusal.getMessage() != null) {
                refused++;
            } else {
                fault(name, e.getCause().toString());
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        slowestMs = Math.max(slowestMs, (System.nanoTime() - begun) / 1e6);
    }

    private void fault(String name, String what) {
        faults++;
        System.out.println("FAULT  " + name + ": " + what);
    }
}
