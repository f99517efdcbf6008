package org.rainsieve.raw;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assertions.within;

import java.io.ByteArrayOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.Consumer;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.colour.CameraColour;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.OpenedFrame;
import tools.jackson.databind.json.JsonMapper;

/** Raw files of other makers, as a decoder tells them; the decoder is a shell that speaks its protocol. */
class MakersRawTest {
    private static final int LEFT = 20;
    private static final int TOP = 10;
    private static final int WIDTH = 360;
    private static final int HEIGHT = 240;

    @TempDir
    Path folder;

    /** Dcraw's four letters of a 2×2 pattern as its 32 bits: colours 0 red, 1 and 3 green, 2 blue. */
    private static long filters(CfaPattern pattern) {
        long bits = 0;
        for (int row = 0; row < 8; row++) {
            for (int column = 0; column < 2; column++) {
                int colour = pattern.colourAt(column, row);
                bits |= (long) (colour == 1 && row % 2 == 1 ? 3 : colour) << ((row << 1 & 14 | column) << 1);
            }
        }
        return bits;
    }

    private static Mosaic mosaic(SimulatedCamera camera) {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        camera.see(scene);
        NoiseModel law = camera.noiseAt(400);
        return camera.sensor().expose(scene, law.a().get(0), law.b().get(0), 1);
    }

    private static Map<String, Object> told(SimulatedCamera camera) {
        CameraColour colour = camera.colour();
        double[] gains = colour.gains();
        Map<String, Object> told = new TreeMap<>();
        told.put("make", "Ossel");
        told.put("model", "Mere 5");
        told.put("serial", "M5-0007");
        told.put("lens", "Mere 50 mm");
        told.put("iso", 102400);
        told.put("seconds", 0.005);
        told.put("aperture", 2.8);
        told.put("focalLengthMm", 50.0);
        told.put("timestamp", 1791062045L);
        told.put("rawWidth", WIDTH + LEFT);
        told.put("rawHeight", HEIGHT + TOP);
        told.put("left", LEFT);
        told.put("top", TOP);
        told.put("width", WIDTH);
        told.put("height", HEIGHT);
        told.put("flip", 6);
        told.put("filters", camera.pattern().isBayer() ? filters(camera.pattern()) : 9);
        told.put("colours", 3);
        told.put("colourNames", "RGBG");
        told.put("shots", 1);
        told.put("black", camera.black());
        told.put("white", camera.white());
        told.put("multipliers", new double[] {gains[0], gains[1], gains[2], 0});
        double[] m = colour.colour2() == null
                ? colour.colour1().m()
                : colour.colour2().m();
        told.put("fromXyz", new double[][] {{m[0], m[1], m[2]}, {m[3], m[4], m[5]}, {m[6], m[7], m[8]}});
        told.put("complaints", List.of());
        return told;
    }

    /** The mosaic behind a masked border whose black levels differ from place to place. */
    private static short[] withBorder(Mosaic mosaic, int black) {
        short[] samples = new short[(WIDTH + LEFT) * (HEIGHT + TOP)];
        for (int y = 0; y < HEIGHT + TOP; y++) {
            for (int x = 0; x < WIDTH + LEFT; x++) {
                boolean light = x >= LEFT && y >= TOP;
                int masked = black + (x & 1) + 2 * (y & 1) - 1;
                samples[y * (WIDTH + LEFT) + x] = (short) (light ? mosaic.sample(x - LEFT, y - TOP) : masked);
            }
        }
        return samples;
    }

    private FencedDecoder answering(Map<String, Object> told, short[] samples) throws IOException {
        told.put("bytes", samples == null ? 0 : 2 * samples.length);
        byte[] json = JsonMapper.builder().build().writeValueAsBytes(told);
        ByteArrayOutputStream answer = new ByteArrayOutputStream();
        DataOutputStream out = new DataOutputStream(answer);
        out.writeInt(json.length);
        out.write(json);
        if (samples != null) {
            ByteBuffer bytes = ByteBuffer.allocate(2 * samples.length).order(ByteOrder.LITTLE_ENDIAN);
            bytes.asShortBuffer().put(samples);
            out.write(bytes.array());
        }
        Path file = Files.write(folder.resolve("answer"), answer.toByteArray());
        return new FencedDecoder(
                List.of(
                        "/bin/sh",
                        "-c",
                        "/usr/bin/head -c " + (4 + file().length) + " > /dev/null; /bin/cat " + file
                                + "; /bin/sleep 20"),
                10_000);
    }

    private static byte[] file() {
        byte[] file = new byte[WIDTH * HEIGHT];
        System.arraycopy("FUJIFILMCCD-RAW".getBytes(StandardCharsets.US_ASCII), 0, file, 0, 15);
        return file;
    }

    @Test
    void mosaicColoursAndTags() throws Exception {
        for (SimulatedCamera camera : List.of(SimulatedCamera.ONDREL_24, SimulatedCamera.PILBO_S)) {
            Mosaic mosaic = mosaic(camera);
            try (FencedDecoder decoder = answering(told(camera), withBorder(mosaic, camera.black()))) {
                Path raw = Files.write(folder.resolve("a.raw"), file());
                OpenedFrame frame = RawOpener.open(raw, decoder).frame();
                assertThat(frame.mosaic().pattern()).isEqualTo(camera.pattern());
                for (int y = 0; y < HEIGHT; y++) {
                    for (int x = 0; x < WIDTH; x++) {
                        assertThat(frame.mosaic().sample(x, y)).isEqualTo(mosaic.sample(x, y));
                    }
                }
                // Black levels come from the border: one less, the same, one and two more than the decoder says.
                double range = camera.white() - camera.black();
                assertThat(frame.mosaic().at(0, 0))
                        .isCloseTo((float) ((mosaic.sample(0, 0) - camera.black() + 1) / range), within(1e-4f));
                assertThat(frame.mosaic().at(1, 1))
                        .isCloseTo((float) ((mosaic.sample(1, 1) - camera.black() - 2) / range), within(1e-4f));
                assertThat(frame.shot().camera()).isEqualTo("Ossel Mere 5");
                assertThat(frame.shot().serial()).isEqualTo("M5-0007");
                assertThat(frame.shot().iso()).isEqualTo(102400);
                assertThat(frame.shot().exposureSeconds()).isCloseTo(0.005, within(1e-6));
                assertThat(frame.shot().takenAt()).isEqualTo("2026-10-03T21:14:05");
                assertThat(frame.shot().orientation()).isEqualTo(6);
                double[] gains = frame.colour().gains();
                assertThat(gains).containsExactly(camera.colour().gains(), within(1e-4));
            }
        }
    }

    /** The phase of a 6×6 array is found wherever it begins, and refused where the light tells nothing. */
    @Test
    void sixBySixPhase() throws Exception {
        SimulatedCamera camera = SimulatedCamera.KESVIK_M;
        Mosaic mosaic = mosaic(camera);
        Map<String, Object> told = told(camera);
        for (int shift = 0; shift < 6; shift++) {
            told.put("left", LEFT - shift);
            told.put("top", TOP - shift / 2);
            try (FencedDecoder decoder = answering(told, withBorder(mosaic, camera.black()))) {
                Mosaic found = MakersRaw.of(file(), decoder).mosaic();
                assertThat(found.pattern()).isEqualTo(camera.pattern().shifted(-shift, -(shift / 2)));
            }
        }
        // The file's own directory counts where it has one, even under light that is not neutral.
        Map<String, Object> cast = told(camera);
        cast.put("multipliers", new double[] {1, 1, 1});
        byte[] declaring = file();
        ByteBuffer directory = ByteBuffer.wrap(declaring);
        directory.putInt(92, 200).putInt(200, 2).putShort(204, (short) 0x100).putShort(206, (short) 4);
        directory.putShort(212, (short) 0x131).putShort(214, (short) 36);
        byte[] colours = camera.pattern().shifted(-LEFT, -TOP).colours();
        for (int i = 0; i < 36; i++) {
            directory.put(216 + i, colours[35 - i]);
        }
        try (FencedDecoder decoder = answering(cast, withBorder(mosaic, camera.black()))) {
            assertThat(MakersRaw.of(declaring, decoder).mosaic().pattern()).isEqualTo(camera.pattern());
        }
        short[] flat = new short[(WIDTH + LEFT) * (HEIGHT + TOP)];
        for (int i = 0; i < flat.length; i++) {
            flat[i] = (short) (4000 + i * 31 % 17);
        }
        try (FencedDecoder decoder = answering(told, flat)) {
            assertThatThrownBy(() -> MakersRaw.of(file(), decoder))
                    .isInstanceOf(RefusedException.class)
                    .hasMessageContaining("could not be told from the picture");
        }
    }

    @Test
    void refusalsSayWhy() throws Exception {
        refused(told -> told.put("foveon", true), "layers");
        refused(told -> told.put("shots", 4), "multi-shot");
        refused(told -> told.put("complaints", List.of("Unexpected end of file")), "cut short or damaged");
        refused(told -> told.put("filters", 0), "monochrome");
        refused(told -> told.put("colourNames", "CMYG"), "2×2");
        refused(told -> told.put("fromXyz", new double[3][3]), "No colour matrix");
        refused(told -> told.put("white", 0), "no sense");
        refused(told -> told.put("width", 100_000), "no sense");
        refused(told -> told.put("rawWidth", 100_000), "broke down");
        refused(told -> told.put("error", "unknown file"), "no raw file that can be read");
        Map<String, Object> told = told(SimulatedCamera.ONDREL_24);
        try (FencedDecoder decoder = answering(told, null)) {
            assertThatThrownBy(() -> MakersRaw.of(file(), decoder)).hasMessageContaining("reduced already");
        }
        short[] cut = withBorder(mosaic(SimulatedCamera.ONDREL_24), 512);
        java.util.Arrays.fill(cut, cut.length / 2, cut.length, (short) 0);
        try (FencedDecoder decoder = answering(told(SimulatedCamera.ONDREL_24), cut)) {
            assertThatThrownBy(() -> MakersRaw.of(file(), decoder))
                    .hasMessageContaining("lower part of the picture is empty");
        }
    }

    private void refused(Consumer<Map<String, Object>> change, String reason) throws IOException {
        Map<String, Object> told = told(SimulatedCamera.ONDREL_24);
        short[] samples = withBorder(mosaic(SimulatedCamera.ONDREL_24), SimulatedCamera.ONDREL_24.black());
        change.accept(told);
        try (FencedDecoder decoder = answering(told, samples)) {
            assertThatThrownBy(() -> MakersRaw.of(file(), decoder))
                    .isInstanceOf(RefusedException.class)
                    .hasMessageContaining(reason);
        }
    }

    /** A decoder that hangs, dies or talks nonsense costs that one frame and nothing else. */
    @ParameterizedTest
    @CsvSource({
        "/bin/sleep 60, took longer than 0 s",
        "exit 3, broke down",
        "echo nonsense that is no answer, broke down",
        "printf \"\\000\\000\\000\\012no JSON!!!\"; /bin/cat > /dev/null, broke down",
        "/bin/cat /dev/zero, took longer than 0 s"
    })
    void brokenDecoder(String script, String reason) {
        try (FencedDecoder decoder = new FencedDecoder(List.of("/bin/sh", "-c", script), 700)) {
            for (int time = 0; time < 2; time++) {
                assertThatThrownBy(() -> decoder.decode(file()))
                        .isInstanceOf(RefusedException.class)
                        .hasMessageContaining(reason);
            }
        }
    }
}
