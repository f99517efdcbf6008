package org.rainsieve.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.rainsieve.book.Strays;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.DefectMap;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.scene.LanternRegatta;
import org.rainsieve.scene.OwlOnPost;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;

/** Blur and defects read from simulated frames whose blur and defects are known. */
class BlurReaderTest {
    private static final int WIDTH = 900;
    private static final int HEIGHT = 600;
    private static final int ISO = 1600;
    private static final Map<String, Planes> SCENES = new LinkedHashMap<>();

    @BeforeAll
    static void draw() {
        SCENES.put("plain", new PlainScene(WIDTH, HEIGHT, 4).srgb());
        SCENES.put("owl", new OwlOnPost(2).render(WIDTH, HEIGHT, 0).srgb());
        SCENES.put("regatta", new LanternRegatta(2).render(WIDTH, HEIGHT, 0).srgb());
    }

    /** Behind a Gaussian and a movement in a straight line. */
    private static Planes blurred(Planes picture, double sigma, double linePx, double degrees) {
        int radius = (int) Math.ceil(3 * sigma + linePx / 2 + 1);
        int size = 2 * radius + 1;
        double[] kernel = new double[size * size];
        int steps = linePx > 0 ? 41 : 1;
        double total = 0;
        for (int s = 0; s < steps; s++) {
            double t = steps == 1 ? 0 : (s / (steps - 1.0) - 0.5) * linePx;
            double cx = t * Math.cos(Math.toRadians(degrees));
            double cy = -t * Math.sin(Math.toRadians(degrees));
            for (int i = 0; i < kernel.length; i++) {
                double dx = i % size - radius - cx;
                double dy = i / size - radius - cy;
                double share = Math.exp(-(dx * dx + dy * dy) / (2 * sigma * sigma));
                kernel[i] += share;
                total += share;
            }
        }
        double sum = total;
        Region r = picture.region();
        Planes out = new Planes(r, 3);
        for (int c = 0; c < 3; c++) {
            float[] from = picture.channel(c);
            float[] to = out.channel(c);
            IntStream.range(0, r.height()).parallel().forEach(y -> {
                for (int x = 0; x < r.width(); x++) {
                    double value = 0;
                    for (int i = 0; i < kernel.length; i++) {
                        int px = Math.max(0, Math.min(r.width() - 1, x + i % size - radius));
                        int py = Math.max(0, Math.min(r.height() - 1, y + i / size - radius));
                        value += kernel[i] * from[py * r.width() + px];
                    }
                    to[y * r.width() + x] = (float) (value / sum);
                }
            });
        }
        return out;
    }

    /** A Gaussian, rows first, then columns. */
    private static Planes softened(Planes picture, double sigma) {
        int radius = (int) Math.ceil(3.5 * sigma);
        Region r = picture.region();
        Planes out = new Planes(r, 3);
        for (int c = 0; c < 3; c++) {
            float[] from = picture.channel(c);
            for (int pass = 0; pass < 2; pass++) {
                float[] to = new float[from.length];
                for (int i = 0; i < to.length; i++) {
                    double sum = 0;
                    double weights = 0;
                    for (int k = -radius; k <= radius; k++) {
                        int x = Math.max(0, Math.min(r.width() - 1, i % r.width() + (pass == 0 ? k : 0)));
                        int y = Math.max(0, Math.min(r.height() - 1, i / r.width() + (pass == 1 ? k : 0)));
                        double weight = Math.exp(-k * k / (2 * sigma * sigma));
                        sum += weight * from[y * r.width() + x];
                        weights += weight;
                    }
                    to[i] = (float) (sum / weights);
                }
                from = to;
            }
            System.arraycopy(from, 0, out.channel(c), 0, from.length);
        }
        return out;
    }

    private static Mosaic exposed(SimulatedCamera camera, Planes srgb, SimulatedSensor sensor, long seed) {
        camera.see(srgb);
        NoiseModel law = camera.noiseAt(ISO);
        return sensor.expose(srgb, law.a().get(0), law.b().get(0), seed);
    }

    private static Reading.Full read(SimulatedCamera camera, Mosaic mosaic) {
        return Reading.full(mosaic, camera.noiseAt(ISO), camera.colour().gains());
    }

    /** Soft blur within 15 % of the truth, whatever the scene; the focus map is as large as the frame. */
    @Test
    void softBlur() {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        SCENES.forEach((name, scene) -> {
            for (double sigma : new double[] {0.8, 1.2, 1.8, 2.4}) {
                Reading.Full full = read(camera, exposed(camera, softened(scene, sigma), camera.sensor(), 3));
                Blur blur = full.reading().blur();
                assertThat(blur.moved()).as("%s %s", name, sigma).isFalse();
                assertThat(blur.sigmaPx()).as("%s %s", name, sigma).isCloseTo(sigma, within(0.15 * sigma));
                FocusMap map = full.focusMap();
                assertThat(map.columns() * map.cellPx()).isBetween(WIDTH, WIDTH + map.cellPx());
                assertThat(FocusMap.parse(map.toText()))
                        .usingRecursiveComparison()
                        .isEqualTo(map);
            }
        });
    }

    /** A movement is told from softness, with its direction, and its frame is a stray among sharp ones. */
    @Test
    void movement() {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        for (String name : new String[] {"owl", "regatta"}) {
            for (double[] line : new double[][] {{8, 0}, {11, 30}}) {
                Mosaic mosaic = exposed(camera, blurred(SCENES.get(name), 0.7, line[0], line[1]), camera.sensor(), 3);
                Reading reading = read(camera, mosaic).reading();
                assertThat(reading.blur().moved()).as(name).isTrue();
                double turned = Math.abs(reading.blur().lineAngleDegrees() - line[1]);
                assertThat(Math.min(turned, 180 - turned)).as(name).isLessThan(10);
                assertThat(reading.blur().linePx()).as(name).isBetween(0.75 * line[0], 1.25 * line[0]);
                assertThat(Strays.reasons(reading, camera.noiseAt(ISO), new Strays.Group(12, 0.8)))
                        .singleElement()
                        .asString()
                        .startsWith("moved by");
            }
        }
    }

    /** A missed focus is a stray among its group, and none when there is no group to compare with. */
    @Test
    void missedFocus() {
        SimulatedCamera camera = SimulatedCamera.PILBO_S;
        Mosaic mosaic = exposed(camera, softened(SCENES.get("owl"), 2.2), camera.sensor(), 3);
        Reading reading = read(camera, mosaic).reading();
        assertThat(Strays.reasons(reading, camera.noiseAt(ISO), new Strays.Group(12, 0.8)))
                .singleElement()
                .asString()
                .startsWith("softer than its group");
        assertThat(Strays.reasons(reading, camera.noiseAt(ISO), new Strays.Group(2, 0.8)))
                .isEmpty();
    }

    /** Pooled over frames of changing scenes the map holds the body's defects and nothing of the scenes. */
    @Test
    void defectsStayWhereTheyAre() {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        SimulatedSensor flawed = camera.sensor(new SimulatedSensor.Flaws(5, 2e-4, 0.5, 0, 0));
        List<DefectMap> frames = IntStream.range(0, 6)
                .mapToObj(i -> read(
                                camera, exposed(camera, new PlainScene(WIDTH, HEIGHT, 20 + i).srgb(), flawed, 40 + i))
                        .defects())
                .toList();
        Planes black = new Planes(new Region(0, 0, WIDTH, HEIGHT), 3);
        List<DefectMap> darks = IntStream.range(0, 2)
                .mapToObj(i -> {
                    Reading.Full full = read(camera, exposed(camera, black, flawed, 60 + i));
                    assertThat(full.reading().dark()).isTrue();
                    assertThat(full.reading().blur()).isNull();
                    return full.defects();
                })
                .toList();
        DefectMap truth = DefectMap.pooled(List.of(), darks);
        DefectMap pooled = DefectMap.pooled(frames, List.of());
        assertThat(truth.size()).isBetween(60, 140); // 2e-4 of 540,000, less the rim
        int shared = 0;
        for (int y = 0; y < HEIGHT; y++) {
            for (int x = 0; x < WIDTH; x++) {
                shared += truth.contains(x, y) && pooled.contains(x, y) ? 1 : 0;
            }
        }
        // Dark frames show weak ones that pictures hide.
        assertThat(shared).isGreaterThanOrEqualTo((int) (0.8 * truth.size()));
        assertThat(pooled.size()).isLessThanOrEqualTo((int) (1.05 * truth.size()) + 1);
        assertThat(DefectMap.ofBytes(truth.toBytes()).hash()).isEqualTo(truth.hash());
    }
}
