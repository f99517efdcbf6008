package org.rainsieve.reading;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.book.ProposedPush;
import org.rainsieve.book.Strays;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
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

    /** Behind a Gaussian and a disc or a movement in a straight line. */
    private static Planes blurred(Planes picture, double sigma, double discPx, double linePx, double degrees) {
        int radius = (int) Math.ceil(3 * sigma + linePx / 2 + discPx + 1);
        int size = 2 * radius + 1;
        double[] kernel = new double[size * size];
        List<double[]> points = new ArrayList<>();
        for (int s = 0; linePx > 0 && s < 41; s++) {
            double t = (s / 40.0 - 0.5) * linePx;
            points.add(new double[] {t * Math.cos(Math.toRadians(degrees)), -t * Math.sin(Math.toRadians(degrees))});
        }
        for (double y = -discPx; discPx > 0 && y <= discPx; y += discPx / 10) {
            for (double x = -discPx; x <= discPx; x += discPx / 10) {
                if (x * x + y * y <= discPx * discPx) {
                    points.add(new double[] {x, y});
                }
            }
        }
        double total = 0;
        for (double[] point : points) {
            for (int i = 0; i < kernel.length; i++) {
                double dx = i % size - radius - point[0];
                double dy = i / size - radius - point[1];
                double share = Math.exp(-(dx * dx + dy * dy) / (2 * sigma * sigma));
                kernel[i] += share;
                total += share;
            }
        }
        Region r = picture.region();
        Planes out = new Planes(r, 3);
        for (int c = 0; c < 3; c++) {
            float[] from = picture.channel(c);
            float[] to = out.channel(c);
            double sum = total;
            IntStream.range(0, r.height()).parallel().forEach(y -> {
                for (int i = 0; i < kernel.length; i++) {
                    float share = (float) (kernel[i] / sum);
                    int row = Math.max(0, Math.min(r.height() - 1, y + i / size - radius)) * r.width();
                    for (int x = 0; share > 1e-5f && x < r.width(); x++) {
                        to[y * r.width() + x] +=
                                share * from[row + Math.max(0, Math.min(r.width() - 1, x + i % size - radius))];
                    }
                }
            });
        }
        return out;
    }

    /** A Gaussian, columns first, then rows. */
    private static Planes softened(Planes picture, double sigma) {
        int radius = (int) Math.ceil(3.5 * sigma);
        double sum = 0;
        float[] kernel = new float[2 * radius + 1];
        for (int k = -radius; k <= radius; k++) {
            sum += Math.exp(-k * k / (2 * sigma * sigma));
        }
        for (int k = -radius; k <= radius; k++) {
            kernel[k + radius] = (float) (Math.exp(-k * k / (2 * sigma * sigma)) / sum);
        }
        int w = picture.region().width();
        int h = picture.region().height();
        Planes out = new Planes(picture.region(), 3);
        for (int c = 0; c < 3; c++) {
            float[] from = picture.channel(c);
            float[] to = out.channel(c);
            IntStream.range(0, h).parallel().forEach(y -> {
                float[] row = new float[w + 2 * radius];
                for (int k = -radius; k <= radius; k++) {
                    int at = Math.max(0, Math.min(h - 1, y + k)) * w;
                    float share = kernel[k + radius];
                    for (int x = 0; x < w; x++) {
                        row[x + radius] += share * from[at + x];
                    }
                }
                java.util.Arrays.fill(row, 0, radius, row[radius]);
                java.util.Arrays.fill(row, w + radius, w + 2 * radius, row[w + radius - 1]);
                for (int x = 0; x < w; x++) {
                    float value = 0;
                    for (int k = 0; k < kernel.length; k++) {
                        value += kernel[k] * row[x + k];
                    }
                    to[y * w + x] = value;
                }
            });
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

    /** Soft blur within 15 % of the truth, whatever the scene and the pattern; the focus map is as large as the frame. */
    @Test
    void softBlur() {
        SCENES.forEach((name, scene) -> {
            for (double sigma : new double[] {0.8, 1.8, 2.5}) {
                for (SimulatedCamera camera : List.of(SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M)) {
                    String what = name + " " + sigma + " " + camera.model();
                    Reading.Full full = read(camera, exposed(camera, softened(scene, sigma), camera.sensor(), 3));
                    Blur blur = full.reading().blur();
                    assertThat(blur.moved()).as(what).isFalse();
                    assertThat(blur.softPx()).as(what).isCloseTo(sigma, within(0.15 * sigma));
                    FocusMap map = full.focusMap();
                    assertThat(map.columns() * map.cellPx()).isBetween(WIDTH, WIDTH + map.cellPx());
                    assertThat(FocusMap.parse(map.toText()))
                            .usingRecursiveComparison()
                            .isEqualTo(map);
                }
            }
        });
    }

    /**
     * Movements of 6 and 15 px are told from softness within 15 %, and their frames are strays among sharp ones; of four
     * frames one may be said not to tell.
     */
    @ParameterizedTest
    @CsvSource({"6, 10", "15, 80"})
    void movement(double linePx, double degrees) {
        int untold = 0;
        for (String name : List.of("owl", "regatta")) {
            Planes moved = blurred(SCENES.get(name), 0.7, 0, linePx, degrees);
            for (SimulatedCamera camera : List.of(SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M)) {
                Reading reading =
                        read(camera, exposed(camera, moved, camera.sensor(), 3)).reading();
                if (reading.blur() == null) {
                    untold++;
                    continue;
                }
                assertThat(reading.blur().moved()).as(name).isTrue();
                double turned = Math.abs(reading.blur().lineAngleDegrees() - degrees);
                assertThat(Math.min(turned, 180 - turned)).as(name).isLessThan(linePx < 10 ? 10 : 5);
                assertThat(reading.blur().linePx()).as(name).isCloseTo(linePx, within(0.15 * linePx));
                assertThat(Strays.reasons(reading, camera.noiseAt(ISO), new Strays.Group(12, 0.8, 0), true))
                        .anyMatch(reason -> reason.startsWith("moved by"));
            }
        }
        assertThat(untold).isLessThanOrEqualTo(1);
    }

    /** A disc of 5 px is told by its shape; a smaller one by its size, as softness of the same variance. */
    @Test
    void disc() {
        for (String name : List.of("owl", "regatta")) {
            for (double radius : new double[] {1.5, 5}) {
                Planes missed = blurred(SCENES.get(name), 0.6, radius, 0, 0);
                for (SimulatedCamera camera : List.of(SimulatedCamera.ONDREL_24, SimulatedCamera.KESVIK_M)) {
                    Blur blur = read(camera, exposed(camera, missed, camera.sensor(), 3))
                            .reading()
                            .blur();
                    double true2 = 0.6 * 0.6 + radius * radius / 4;
                    assertThat(blur.softPx())
                            .as("%s %s", name, radius)
                            .isCloseTo(Math.sqrt(true2), within(0.15 * Math.sqrt(true2)));
                    if (radius == 5) {
                        assertThat(blur.discPx()).as(name).isCloseTo(radius, within(0.15 * radius));
                    }
                    assertThat(blur.moved()).as("%s %s", name, radius).isFalse();
                }
            }
        }
    }

    /** A frame is brought to its group, or alone to mid-grey, but never so far that its highlights come within a stop of clipping. */
    @ParameterizedTest
    @CsvSource({"3, 0", "2, 0", "3, 0.12", "3, 0.4"})
    void proposedPush(int under, float lamp) {
        SimulatedCamera camera = SimulatedCamera.PILBO_S;
        Planes scene = new PlainScene(600, 400, 4).srgb();
        Planes dark = new Planes(scene.region(), 3);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < dark.channel(c).length; i++) {
                scene.channel(c)[i] = Math.min(0.45f, scene.channel(c)[i]);
                dark.channel(c)[i] = i % 50 == 0 && lamp > 0 ? lamp : scene.channel(c)[i] / (1 << under);
            }
        }
        Reading normal =
                read(camera, exposed(camera, scene, camera.sensor(), 3)).reading();
        Reading reading =
                read(camera, exposed(camera, dark, camera.sensor(), 4)).reading();
        Strays.Group group = new Strays.Group(12, Double.NaN, normal.middleStops());
        double room = -1 - reading.highStops();
        if (room < 0.5) {
            assertThat(ProposedPush.of(reading, group)).isEmpty();
        } else {
            assertThat(ProposedPush.of(reading, group).getAsDouble()).isCloseTo(Math.min(under, room), within(0.15));
        }
        if (lamp > 0) {
            assertThat(room).isCloseTo(-1 - Math.log(lamp) / Math.log(2), within(0.3));
        }
        assertThat(ProposedPush.of(normal, group)).isEmpty();
        Strays.Group few = new Strays.Group(1, Double.NaN, reading.middleStops());
        if (reading.middleStops() > -2) {
            assertThat(ProposedPush.of(reading, few)).isEmpty();
        } else if (lamp == 0) {
            assertThat(ProposedPush.of(reading, few).getAsDouble())
                    .isCloseTo(Math.min(-reading.middleStops(), room), within(0.15));
        }
    }

    /** A frame much darker than its group has its push asked for, unless a push is given. */
    @Test
    void pushUnsure() {
        SimulatedCamera camera = SimulatedCamera.PILBO_S;
        Reading reading = read(camera, exposed(camera, SCENES.get("owl"), camera.sensor(), 3))
                .reading();
        Strays.Group brighter = new Strays.Group(12, Double.NaN, reading.middleStops() + 1.5);
        assertThat(Strays.reasons(reading, camera.noiseAt(ISO), brighter, false))
                .singleElement()
                .asString()
                .startsWith("push unsure: 1.5 stops darker");
        assertThat(Strays.reasons(reading, camera.noiseAt(ISO), brighter, true)).isEmpty();
    }

    /** A missed focus is a stray among its group, and none when there is no group to compare with. */
    @Test
    void missedFocus() {
        SimulatedCamera camera = SimulatedCamera.PILBO_S;
        Mosaic mosaic = exposed(camera, softened(SCENES.get("owl"), 2.2), camera.sensor(), 3);
        Reading reading = read(camera, mosaic).reading();
        assertThat(Strays.reasons(reading, camera.noiseAt(ISO), new Strays.Group(12, 0.8, 0), true))
                .singleElement()
                .asString()
                .startsWith("softer than its group");
        assertThat(Strays.reasons(reading, camera.noiseAt(ISO), new Strays.Group(2, 0.8, 0), true))
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
