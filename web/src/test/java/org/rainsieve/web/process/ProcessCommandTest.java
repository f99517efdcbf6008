package org.rainsieve.web.process;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;
import static org.assertj.core.api.Assumptions.assumeThat;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.io.PrintStream;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opening.Glance;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.tiff.Tag;
import org.rainsieve.xmp.Xmp;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

class ProcessCommandTest {
    @TempDir
    Path folder;

    private final ByteArrayOutputStream out = new ByteArrayOutputStream();
    private final ByteArrayOutputStream err = new ByteArrayOutputStream();

    private int process(String... args) {
        return ProcessCommand.run(args, new PrintStream(out, true), new PrintStream(err, true));
    }

    private Path in(int frames) throws IOException {
        Path in = Files.createDirectories(folder.resolve("in"));
        for (int i = 0; i < frames; i++) {
            // Odd numbers carry no NoiseProfile, so the law is read from the pixels and pooled.
            Files.write(in.resolve("F_" + i + ".dng"), PlainFrames.frame(SimulatedCamera.ONDREL_24, 3200, 640, 480, i));
        }
        return in;
    }

    private static Map<String, String> hashes(Path folder) throws IOException {
        Map<String, String> hashes = new TreeMap<>();
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file :
                    files.filter(Files::isRegularFile).filter(Files::isReadable).toList()) {
                hashes.put(file.toString(), Sha256.of(file));
            }
        }
        return hashes;
    }

    private static ResolvedSettings settingsOf(Path file) throws Exception {
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            byte[] xmp = dng.main().field(Tag.XMP).orElseThrow().bytes();
            return ResolvedSettings.ofJson(Xmp.property(xmp, "Settings"));
        }
    }

    @Test
    void goodFramesGoThroughAndBadOnesAreNamed() throws Exception {
        Path in = in(2);
        byte[] good = Files.readAllBytes(in.resolve("F_0.dng"));
        Files.write(in.resolve("empty.dng"), new byte[0]);
        Files.writeString(in.resolve("renamed.dng"), "This was a letter.");
        Files.write(in.resolve("truncated.dng"), java.util.Arrays.copyOf(good, good.length - 5000));
        byte[] noSize = good.clone();
        int width = find(noSize, new byte[] {0, 1, 4, 0, 1, 0, 0, 0}); // ImageWidth, LONG, one value
        noSize[width + 8] = noSize[width + 9] = 0;
        Files.write(in.resolve("zero-size.dng"), noSize);
        Files.createDirectories(in.resolve("folder.dng"));
        Files.write(in.resolve("x".repeat(251) + ".dng"), good);
        Files.write(in.resolve("Kröte im Regen.dng"), good);
        Map<String, String> before = hashes(in);

        assertThat(process(in.toString(), "--to", folder.resolve("to").toString()))
                .isEqualTo(1);

        assertThat(out.toString().lines())
                .anyMatch(line -> line.startsWith("empty.dng  refused  The file is empty."))
                .anyMatch(line -> line.startsWith("renamed.dng  refused  This is a text file"))
                .anyMatch(line -> line.startsWith("truncated.dng  refused") && line.contains("cut short"))
                .anyMatch(line -> line.startsWith("zero-size.dng  refused") && line.contains("0 x "))
                .anyMatch(line -> line.startsWith("folder.dng  refused  This is a folder"))
                .anyMatch(line -> line.startsWith("xxx") && line.contains("failed") && line.contains("longer than"))
                .anyMatch(line -> line.matches("Kröte im Regen.dng  returned as Kröte im Regen-denoise.dng  [0-9.]+ s"))
                .anyMatch(line -> line.startsWith("F_1.dng  returned"))
                .hasSize(9);
        assertThat(hashes(in)).isEqualTo(before);
        try (Stream<Path> returns = Files.list(folder.resolve("to"))) {
            assertThat(returns.map(file -> file.getFileName().toString()))
                    .containsExactlyInAnyOrder("F_0-denoise.dng", "F_1-denoise.dng", "Kröte im Regen-denoise.dng");
        }
        // One body at one ISO: one law for all of them.
        assertThat(settingsOf(folder.resolve("to/F_0-denoise.dng")))
                .isEqualTo(settingsOf(folder.resolve("to/F_1-denoise.dng")));
    }

    private static int find(byte[] data, byte[] sought) {
        for (int i = 0; ; i++) {
            if (java.util.Arrays.equals(data, i, i + sought.length, sought, 0, sought.length)) {
                return i;
            }
        }
    }

    @Test
    void aFileThatMayNotBeReadIsNamed() throws IOException {
        Path in = in(1);
        Path closed = in.resolve("F_0.dng");
        Files.setPosixFilePermissions(closed, PosixFilePermissions.fromString("---------"));
        assumeThat(Files.isReadable(closed)).as("root may read everything").isFalse();
        assertThat(process(in.toString(), "--to", folder.resolve("to").toString()))
                .isEqualTo(1);
        assertThat(out.toString()).contains("F_0.dng  refused  Rain Sieve is not allowed to read this file");
    }

    @Test
    void optionsAndSettingsFilesAreFollowed() throws Exception {
        Path in = in(1);
        Path settings = Files.writeString(
                folder.resolve("page.json"),
                "{\"camera\": \"Ondrel 24\", \"rungs\": [{\"ei\": 1600, \"denoise\": {\"on\": true, \"method\": \"Quick\","
                        + " \"grainKeptPercent\": 40, \"colourNoiseKeptPercent\": 10}}, {\"ei\": 6400, \"denoise\": {\"on\": true,"
                        + " \"method\": \"Quick\", \"grainKeptPercent\": 20, \"colourNoiseKeptPercent\": 0}}]}");
        String to = folder.resolve("to").toString();
        assertThat(process(
                        in.toString(),
                        "--to",
                        to,
                        "--settings",
                        settings.toString(),
                        "--colour-noise-kept",
                        "3",
                        "--sharpen",
                        "off"))
                .isZero();
        ResolvedSettings first = settingsOf(folder.resolve("to/F_0-denoise.dng"));
        assertThat(first.denoise().grainKeptPercent()).isEqualTo(30, within(1e-9));
        assertThat(first.denoise().colourNoiseKeptPercent()).isEqualTo(3);
        // Again: a second version, the first one untouched.
        assertThat(process(in.toString(), "--to", to, "--grain-kept", "5", "--sharpen", "off"))
                .isZero();
        Path second = folder.resolve("to/F_0-denoise-2.dng");
        assertThat(settingsOf(second).denoise().grainKeptPercent()).isEqualTo(5);
        // What the file says of itself is what its name says.
        assertThat(Xmp.property(Glance.packet(second), "Version")).isEqualTo("2");
        assertThat(process(in.toString(), "--to", to, "--denoise", "off", "--sharpen", "off"))
                .isZero();
        assertThat(settingsOf(folder.resolve("to/F_0-linear.dng")).denoise().on())
                .isFalse();
        assertThat(settingsOf(folder.resolve("to/F_0-denoise.dng"))).isEqualTo(first);
    }

    /** Every step and form: as the pages have them, told line by line to scripts. */
    @Test
    void everyStepAndForm() throws Exception {
        Path in = in(1);
        Path to = folder.resolve("to");
        String[] command = ("--denoise Quick --grain-kept 20 --sharpen 60 --soft 0.8 --aspect 1:1 --enlarge 1.5"
                        + " --form dng,tiff,jpeg --quality 80 --long-edge 300 --json")
                .split(" ");
        List<String> args = new ArrayList<>(List.of(in.toString(), "--to", to.toString()));
        args.addAll(List.of(command));
        int code = process(args.toArray(new String[0]));
        assertThat(code).as("%s%s", out, err).isZero();
        String line = out.toString().strip();
        assertThat(line.lines()).hasSize(1);
        JsonNode told = JsonMapper.builder().build().readTree(line);
        assertThat(told.get("state").asString()).isEqualTo("returned");
        assertThat(told.get("returns")).hasSize(3);
        Path dng = to.resolve("F_0-denoise-sharpen-crop-enlarge.dng");
        ResolvedSettings made = settingsOf(dng);
        assertThat(made.denoise().method()).isEqualTo("Quick");
        assertThat(made.sharpen().biteFinePercent()).isEqualTo(60);
        assertThat(made.sharpen().spread().softPx()).isEqualTo(0.8);
        assertThat(made.enlarge().value()).isEqualTo(1.5);
        try (LinearDngFile file = LinearDngFile.open(dng)) {
            assertThat(file.width()).isEqualTo(720);
            assertThat(file.height()).isEqualTo(720);
        }
        var jpeg =
                ImageIO.read(to.resolve("F_0-denoise-sharpen-crop-enlarge.jpg").toFile());
        assertThat(jpeg.getWidth()).isEqualTo(300);
        assertThat(to.resolve("F_0-denoise-sharpen-crop-enlarge.tif")).exists();
        try (Stream<Path> left = Files.list(to)) {
            assertThat(left).hasSize(3);
        }
    }

    private static byte[] frameOfAWornSensor(int iso, int number) {
        SimulatedCamera camera = SimulatedCamera.ONDREL_24;
        Planes scene = new PlainScene(640, 480, number).srgb();
        camera.see(scene);
        NoiseModel law = camera.noiseAt(iso);
        Mosaic mosaic = camera.sensor().expose(scene, law.a().get(0), law.b().get(0), number);
        short[] samples = new short[640 * 480];
        for (int i = 0; i < samples.length; i++) {
            samples[i] = (short) (i % 9973 == 5000 ? mosaic.white() - 1 : mosaic.sample(i % 640, i / 640));
        }
        SimulatedCamera.Shot shot = new SimulatedCamera.Shot(iso, 0.01, 5, "", 380, "2026-10-03T21:00:00");
        return CfaDngWriter.write(
                mosaic.with(samples, null),
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                camera.tags(shot, true));
    }

    /** Frames of two ISOs come out with one grain; what three frames of a sensor show as hot is its defect, whatever is on it. */
    @Test
    void evenGrainAndPooledDefects() throws Exception {
        Path in = Files.createDirectories(folder.resolve("in"));
        for (int i = 0; i < 4; i++) {
            Files.write(in.resolve("F_" + i + ".dng"), frameOfAWornSensor(i < 3 ? 1600 : 6400, i));
        }
        Path to = folder.resolve("to");
        assertThat(process(
                        in.toString(), "--to", to.toString(), "--denoise", "Quick", "--sharpen", "off", "--even-grain"))
                .as("%s", err)
                .isZero();
        ResolvedSettings low = settingsOf(to.resolve("F_0-denoise.dng"));
        ResolvedSettings high = settingsOf(to.resolve("F_3-denoise.dng"));
        double sigmaLow = NoiseLaw.sigmaAsShown(low.noise(), 1) * low.denoise().grainKeptPercent();
        double sigmaHigh =
                NoiseLaw.sigmaAsShown(high.noise(), 1) * high.denoise().grainKeptPercent();
        assertThat(high.denoise().grainKeptPercent()).isLessThan(low.denoise().grainKeptPercent());
        assertThat(sigmaHigh).isCloseTo(sigmaLow, within(0.02 * sigmaLow));
        assertThat(low.defects())
                .as("the same sensor, whatever the ISO")
                .isEqualTo(high.defects())
                .isNotEqualTo(DefectMap.EMPTY.hash());
    }

    @Test
    void wrongCommandsAreRefusedByName() throws IOException {
        String in = in(1).toString();
        String to = folder.resolve("to").toString();
        assertThat(process(in, "--to", to, "--denoise", "Magic")).isEqualTo(2);
        assertThat(err.toString()).contains("There is no method called Magic");
        assertThat(process(in, "--to", to, "--grain-kept", "130")).isEqualTo(2);
        assertThat(process(in)).isEqualTo(2);
        assertThat(process(folder.resolve("missing").toString(), "--to", to)).isEqualTo(2);
        assertThat(process(in, "--to", to, "--sharpen", "on")).isEqualTo(2);
        assertThat(process(in, "--to", to, "--form", "dng,bmp")).isEqualTo(2);
        assertThat(process(in, "--to", to, "--order", "Nightly")).isEqualTo(2);
        assertThat(err.toString()).contains("There is no form bmp", "standing order");
        assertThat(process("--help")).isZero();
        assertThat(out.toString()).contains("--grain-kept PERCENT", "--to FOLDER", "exit code", "Learned, or off");
        assertThat(folder.resolve("to")).doesNotExist();
    }
}
