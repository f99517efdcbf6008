package org.rainsieve.opcode;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.util.List;
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;
import org.rainsieve.TestTools;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.DngReader;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.optics.LensCorrection;
import org.rainsieve.optics.LensMap;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/** Corrections before demosaicing, against the formulas of the DNG specification 1.4, chapter 7. */
class OpcodeListTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final int WIDTH = 320;
    private static final int HEIGHT = 200;

    private static byte[] list(byte[]... opcodes) {
        ByteBuffer out = ByteBuffer.allocate(1 << 16).putInt(opcodes.length);
        for (byte[] opcode : opcodes) {
            out.put(opcode);
        }
        byte[] bytes = new byte[out.position()];
        out.flip().get(bytes);
        return bytes;
    }

    private static byte[] opcode(int id, boolean optional, Consumer<ByteBuffer> data) {
        ByteBuffer body = ByteBuffer.allocate(1 << 15);
        data.accept(body);
        int size = body.position();
        ByteBuffer out = ByteBuffer.allocate(16 + size);
        out.putInt(id).putInt(0x01030000).putInt(optional ? 1 : 0).putInt(size).put(body.array(), 0, size);
        return out.array();
    }

    private static ByteBuffer area(ByteBuffer out, int top, int left, int pitch) {
        return out.putInt(top)
                .putInt(left)
                .putInt(HEIGHT)
                .putInt(WIDTH)
                .putInt(0)
                .putInt(1)
                .putInt(pitch)
                .putInt(pitch);
    }

    private static Mosaic scene() {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        CAMERA.see(scene);
        NoiseModel law = CAMERA.noiseAt(100);
        return CAMERA.sensor().expose(scene, law.a().get(0), law.b().get(0), 1);
    }

    private static OpenedFrame opened(Mosaic mosaic, Consumer<TiffDirectory> more) throws RefusedException {
        TiffDirectory tags = CAMERA.tags(TestTools.shot(100), true);
        more.accept(tags);
        return DngReader.read(CfaDngWriter.write(
                mosaic, CAMERA.black(), new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 14, false, 0), tags));
    }

    private static OpenedFrame opened(Mosaic mosaic, int tag, byte[]... opcodes) throws RefusedException {
        return opened(mosaic, tags -> tags.put(TiffField.ofBytes(tag, TiffType.UNDEFINED, list(opcodes))));
    }

    private static Planes rendered(OpenedFrame frame) {
        DenoiseSettings off = new DenoiseSettings(false, Methods.QUICK, 0, 0);
        Planes out = new Planes(new Region(0, 0, WIDTH, HEIGHT), 3);
        new DenoiseStep(
                        frame,
                        frame.mosaic(),
                        CAMERA.noiseAt(100),
                        frame.colour().gains(),
                        off,
                        new WorkingMemory(1 << 26),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    /** A gain map over the red photosites and shading over all: the developed planes are multiplied by just that. */
    @Test
    void gainsAndShading() throws RefusedException {
        Mosaic mosaic = scene();
        Planes plain = rendered(opened(mosaic, tags -> {}));
        byte[] map = opcode(9, false, out -> {
            area(out, 0, 0, 2).putInt(2).putInt(2); // points down, across
            out.putDouble(1).putDouble(1).putDouble(0).putDouble(0).putInt(1);
            out.putFloat(1).putFloat(2).putFloat(1).putFloat(2);
        });
        byte[] shading = opcode(3, false, out -> {
            for (double k : new double[] {0.5, 0.1, 0, 0, 0, 0.5, 0.5}) {
                out.putDouble(k);
            }
        });
        Planes corrected = rendered(opened(mosaic, Tag.OPCODE_LIST_2, map, shading));
        for (int y = 3; y < HEIGHT; y += 17) {
            for (int x = 3; x < WIDTH; x += 13) {
                double r2 = (Math.pow(x + 0.5 - WIDTH / 2.0, 2) + Math.pow(y + 0.5 - HEIGHT / 2.0, 2))
                        / (WIDTH * WIDTH / 4.0 + HEIGHT * HEIGHT / 4.0);
                double shade = 1 + 0.5 * r2 + 0.1 * r2 * r2;
                for (int c = 0; c < 3; c++) {
                    double wanted = plain.at(c, x, y) * shade * (c == 0 ? 1 + (x + 0.5) / WIDTH : 1);
                    if (plain.at(c, x, y) < 0.99) {
                        assertThat((double) corrected.at(c, x, y))
                                .isCloseTo(wanted, within(2e-4 + 2e-4 * Math.abs(wanted)));
                    }
                }
            }
        }
    }

    /** Bad photosites, by a constant in the samples or by a list, come out like the smooth field around them. */
    @Test
    void badPixels() throws RefusedException {
        short[] flat = new short[WIDTH * HEIGHT];
        java.util.Arrays.fill(flat, (short) 5000);
        flat[40 * WIDTH + 40] = 0;
        flat[41 * WIDTH + 43] = 16000;
        flat[90 * WIDTH + 90] = 16000;
        Mosaic mosaic =
                new Mosaic(WIDTH, HEIGHT, flat, CAMERA.pattern(), new float[] {CAMERA.black()}, 1, 1, CAMERA.white());
        byte[] constant = opcode(4, false, out -> out.putInt(0).putInt(0));
        byte[] points = opcode(
                5,
                false,
                out -> out.putInt(0)
                        .putInt(1)
                        .putInt(1)
                        .putInt(41)
                        .putInt(43)
                        .putInt(88)
                        .putInt(88)
                        .putInt(92)
                        .putInt(92));
        Mosaic repaired = opened(mosaic, Tag.OPCODE_LIST_1, constant, points).mosaic();
        for (int[] at : new int[][] {{40, 40}, {43, 41}, {90, 90}, {0, 0}}) {
            assertThat(repaired.sample(at[0], at[1])).isEqualTo(5000);
        }
    }

    /** A polynomial on linear values and a table on stored ones, each exactly as their formulas say. */
    @Test
    void maps() throws RefusedException {
        Mosaic mosaic = scene();
        byte[] polynomial = opcode(
                8,
                false,
                out -> area(out, 0, 0, 1).putInt(2).putDouble(0).putDouble(0.75).putDouble(0.25));
        Mosaic bent = opened(mosaic, Tag.OPCODE_LIST_2, polynomial).mosaic();
        byte[] table = opcode(7, true, out -> {
            area(out, 0, 0, 1).putInt(8000);
            for (int i = 0; i < 8000; i++) {
                out.putShort((short) (i / 2 + 2000));
            }
        });
        Mosaic tabled = opened(mosaic, Tag.OPCODE_LIST_1, table).mosaic();
        for (int y = 0; y < HEIGHT; y += 7) {
            for (int x = 0; x < WIDTH; x += 5) {
                float v = mosaic.at(x, y);
                if (!mosaic.clippedAt(x, y)) {
                    assertThat(bent.at(x, y)).isCloseTo(0.75f * v + 0.25f * v * v, within(2e-5f));
                }
                int stored = mosaic.sample(x, y);
                assertThat(tabled.sample(x, y)).isEqualTo(Math.min(7999, stored) / 2 + 2000);
            }
        }
    }

    /**
     * A map for each of the four places of the pattern, as phones write them: each belongs to its own photosites, so an even green
     * comes out (g1 + g2) / 2 times as bright; and a second set multiplies the first.
     */
    @Test
    void aGainMapForEachPhotosite() throws RefusedException {
        short[] even = new short[WIDTH * HEIGHT];
        java.util.Arrays.fill(even, (short) (CAMERA.black() + 1000));
        Mosaic mosaic =
                new Mosaic(WIDTH, HEIGHT, even, CAMERA.pattern(), new float[] {CAMERA.black()}, 1, 1, CAMERA.white());
        float[] gains = {1.5f, 2f, 1.2f, 3f};
        byte[][] maps = new byte[8][];
        for (int i = 0; i < 8; i++) {
            int site = i % 4;
            float gain = i < 4 ? gains[site] : 1.1f;
            maps[i] = opcode(9, false, out -> {
                area(out, site / 2, site % 2, 2).putInt(1).putInt(1);
                out.putDouble(1)
                        .putDouble(1)
                        .putDouble(0)
                        .putDouble(0)
                        .putInt(1)
                        .putFloat(gain);
            });
        }
        Planes plain = rendered(opened(mosaic, tags -> {}));
        Planes once = rendered(opened(mosaic, Tag.OPCODE_LIST_2, maps[0], maps[1], maps[2], maps[3]));
        Planes twice = rendered(opened(mosaic, Tag.OPCODE_LIST_2, maps));
        double[] wanted = {1.5, (2 + 1.2) / 2, 3}; // red, green, green, blue
        for (int c = 0; c < 3; c++) {
            double ratio = once.at(c, 100, 101) / plain.at(c, 100, 101);
            assertThat(ratio).as("colour %d", c).isCloseTo(wanted[c], within(1e-4));
            assertThat(twice.at(c, 100, 101) / plain.at(c, 100, 101))
                    .isCloseTo((float) (1.1 * wanted[c]), within(2e-4f));
        }
    }

    /** Black levels that differ from column to column and row to row. */
    @Test
    void blackDeltas() throws RefusedException {
        Mosaic mosaic = scene();
        double[] columns = new double[WIDTH];
        double[] rows = new double[HEIGHT];
        for (int x = 0; x < WIDTH; x++) {
            columns[x] = x % 7 * 0.5;
        }
        for (int y = 0; y < HEIGHT; y++) {
            rows[y] = -(y % 5) * 0.25;
        }
        Mosaic read = opened(mosaic, tags -> {
                    tags.put(TiffField.ofRationals(Tag.BLACK_LEVEL_DELTA_H, TiffType.SRATIONAL, 100, columns));
                    tags.put(TiffField.ofRationals(Tag.BLACK_LEVEL_DELTA_V, TiffType.SRATIONAL, 100, rows));
                })
                .mosaic();
        Planes filled = new Planes(new Region(0, 0, WIDTH, HEIGHT), 1);
        read.fill(filled);
        float scale = 1f / (CAMERA.white() - CAMERA.black());
        for (int y = 0; y < HEIGHT; y += 3) {
            for (int x = 0; x < WIDTH; x += 3) {
                // What is clipped is white, whatever the black level of its row or column.
                float wanted = mosaic.clippedAt(x, y)
                        ? Math.max(1, mosaic.at(x, y) - (float) (columns[x] + rows[y]) * scale)
                        : mosaic.at(x, y) - (float) (columns[x] + rows[y]) * scale;
                assertThat(read.at(x, y)).isCloseTo(wanted, within(1e-6f));
                assertThat(filled.at(0, x, y)).isCloseTo(wanted, within(1e-6f));
            }
        }
    }

    @Test
    void whatIsNotKnownIsRefusedByNameUnlessOptional() throws RefusedException {
        Mosaic mosaic = scene();
        assertThatThrownBy(() -> opened(mosaic, Tag.OPCODE_LIST_2, opcode(1, false, out -> out.putInt(0))))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("WarpRectilinear");
        assertThatThrownBy(() -> opened(mosaic, Tag.OPCODE_LIST_1, opcode(99, false, out -> {})))
                .isInstanceOf(RefusedException.class)
                .hasMessageContaining("opcode 99");
        assertThat(opened(mosaic, Tag.OPCODE_LIST_1, opcode(99, true, out -> {}))
                        .mosaic()
                        .sample(9, 9))
                .isEqualTo(mosaic.sample(9, 9));
        byte[] whole =
                list(opcode(9, false, out -> area(out, 0, 0, 2).putInt(1 << 30).putInt(1 << 30)));
        for (byte[] damaged :
                List.of(whole, new byte[] {0, 0}, new byte[] {0x7f, 0, 0, 0}, java.util.Arrays.copyOf(whole, 30))) {
            assertThatThrownBy(() -> opened(
                            mosaic,
                            tags -> tags.put(TiffField.ofBytes(Tag.OPCODE_LIST_2, TiffType.UNDEFINED, damaged))))
                    .isInstanceOf(RefusedException.class)
                    .hasMessageContaining("corrections is damaged");
        }
    }

    private static byte[] warp(double[][] planes, double centreX, double centreY) {
        return opcode(1, false, out -> {
            out.putInt(planes.length);
            for (double[] plane : planes) {
                for (double k : plane) {
                    out.putDouble(k);
                }
            }
            out.putDouble(centreX).putDouble(centreY);
        });
    }

    private static byte[] vignette(double[] gain, double centreX, double centreY) {
        return opcode(3, true, out -> {
            for (double k : gain) {
                out.putDouble(k);
            }
            out.putDouble(centreX).putDouble(centreY);
        });
    }

    private static OpenedFrame withListThree(byte[] list) throws RefusedException {
        return opened(scene(), tags -> tags.put(TiffField.ofBytes(Tag.OPCODE_LIST_3, TiffType.UNDEFINED, list)));
    }

    /** WarpRectilinear and FixVignetteRadial as the specification writes them, for every colour; half of it on demand. */
    @Test
    void listThreeCorrectsTheLens() throws RefusedException {
        double[][] planes = {
            {1.001, 0.021, -0.004, 0.001, 1e-3, -2e-3},
            {1, 0.02, -0.004, 0.001, 1e-3, -2e-3},
            {0.999, 0.019, 0, 0, 0, 0}
        };
        double[] gain = {0.3, 0.1, 0, 0.02, 0.01};
        double cx = 0.52 * (WIDTH - 1);
        double cy = 0.47 * (HEIGHT - 1);
        double m = Math.hypot(Math.max(cx, WIDTH - 1 - cx), Math.max(cy, HEIGHT - 1 - cy));
        LensCorrection own = withListThree(list(vignette(gain, 0.41, 0.55), warp(planes, 0.52, 0.47)))
                .ownCorrection()
                .orElseThrow();
        LensMap map = new LensMap(new OpticsSettings(true, own, 0, 100, 100, 100), WIDTH, HEIGHT, true);
        LensMap half = new LensMap(new OpticsSettings(true, own, 0, 50, 100, 50), WIDTH, HEIGHT, true);
        double[] to = new double[2];
        for (int i = 0; i < 60; i++) {
            double x = i * 5.3 % WIDTH;
            double y = i * 3.7 % HEIGHT;
            double dx = (x - cx) / m;
            double dy = (y - cy) / m;
            double r2 = dx * dx + dy * dy;
            for (int c = 0; c < 3; c++) {
                double[] k = planes[c];
                double f = k[0] + k[1] * r2 + k[2] * r2 * r2 + k[3] * r2 * r2 * r2;
                map.map(x, y, c, to);
                assertThat(to[0])
                        .isCloseTo(cx + m * (f * dx + k[4] * 2 * dx * dy + k[5] * (r2 + 2 * dx * dx)), within(1e-9));
                assertThat(to[1])
                        .isCloseTo(cy + m * (f * dy + k[5] * 2 * dx * dy + k[4] * (r2 + 2 * dy * dy)), within(1e-9));
            }
            map.map(x, y, 1, to);
            double whole = to[0] - x;
            half.map(x, y, 1, to);
            assertThat(to[0] - x).isCloseTo(whole / 2, within(1e-9));
            // The light falls off about a centre of its own.
            double gx = 0.41 * (WIDTH - 1);
            double gy = 0.55 * (HEIGHT - 1);
            double mg = Math.hypot(Math.max(gx, WIDTH - 1 - gx), Math.max(gy, HEIGHT - 1 - gy));
            double g = 1;
            for (int k = 0; k < 5; k++) {
                g += gain[k] * Math.pow(Math.hypot(x - gx, y - gy) / mg, 2 * (k + 1));
            }
            assertThat(map.gainAt(x, y)).isCloseTo(g, within(1e-9));
            assertThat(half.gainAt(x, y)).isCloseTo((1 + g) / 2, within(1e-9));
        }
        ResolvedSettings settings = ResolvedSettings.of(
                        100, CAMERA.noiseAt(100), new DenoiseSettings(true, "Quick", 20, 0), CAMERA.pattern())
                .with(null, new OpticsSettings(true, own, 0, 100, 100, 100), null, null);
        assertThat(ResolvedSettings.ofJson(settings.toJson())).isEqualTo(settings);
    }

    /** One plane holds for all colours; what cannot be done or is damaged is no correction, and the frame is read all the same. */
    @Test
    void listThreeIsTakenWholeOrNotAtAll() throws RefusedException {
        double[][] one = {{1, 0.01, 0, 0, 0, 0}};
        assertThat(withListThree(list(warp(one, 0.5, 0.5)))
                        .ownCorrection()
                        .orElseThrow()
                        .fringes())
                .isFalse();
        assertThat(opened(scene(), tags -> {}).ownCorrection()).isEmpty();
        byte[] fisheye = opcode(2, false, out -> out.putInt(1));
        byte[] optional = opcode(14, true, out -> out.putInt(1));
        assertThat(withListThree(list(warp(one, 0.5, 0.5), fisheye)).ownCorrection())
                .isEmpty();
        assertThat(withListThree(list(optional, warp(one, 0.5, 0.5))).ownCorrection())
                .isPresent();
        byte[] damaged = list(warp(one, 0.5, 0.5));
        damaged[19] = 2;
        assertThat(withListThree(damaged).ownCorrection()).isEmpty();
        assertThat(withListThree(list(warp(one, 7, 0.5))).ownCorrection()).isEmpty();
    }
}
