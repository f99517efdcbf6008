package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatExceptionOfType;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedLens;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffReader;

class StepsTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final int WIDTH = 1200;
    private static final int HEIGHT = 640;

    private static final SharpenSettings SHARPEN = SharpenSettings.plain(new PointSpread(1.1, 0, 0, 0), 0.3, 70, 50, 3);
    private static final OpticsSettings OPTICS =
            new OpticsSettings(true, SimulatedLens.ONDREL_24.correction(), 1, 100, 100, 100);
    private static final CropSettings TURNED = new CropSettings(true, 0.1, 0.1, 0.8, 0.8, -2.5, "free");
    private static final CropSettings CUT = new CropSettings(true, 0.2, 0.1, 0.6, 0.6, 0, "free");
    private static final EnlargeSettings ENLARGE = new EnlargeSettings(
            true, EnlargeSettings.By.FACTOR, 1.5, 300, EnlargeSettings.Edges.NATURAL, false, 50, 20, "");

    private static final byte[] DNG = dng();

    @TempDir
    private Path folder;

    private static byte[] dng() {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 11).srgb();
        CAMERA.see(scene);
        NoiseModel noise = CAMERA.noiseAt(1600);
        return TestTools.dng(
                CAMERA.sensor().expose(scene, noise.a().get(0), noise.b().get(0), 5), CAMERA, 1600, true);
    }

    private static ResolvedSettings settings(String steps) {
        return ResolvedSettings.of(
                        1600, CAMERA.noiseAt(1600), new DenoiseSettings(true, "Quick", 20, 0), CAMERA.pattern())
                .with(
                        steps.contains("sharpen") ? SHARPEN : null,
                        steps.contains("optics") ? OPTICS : null,
                        steps.contains("turned") ? TURNED : steps.contains("cut") ? CUT : null,
                        steps.contains("enlarge") ? ENLARGE : null);
    }

    /** For every step, every pair and all of them: what the viewer pulls is what was written, value for value. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "sharpen",
                "optics",
                "turned",
                "cut",
                "enlarge",
                "sharpen optics",
                "sharpen turned",
                "sharpen cut",
                "sharpen enlarge",
                "optics turned",
                "optics cut",
                "optics enlarge",
                "turned enlarge",
                "cut enlarge",
                "sharpen optics turned enlarge"
            })
    void previewEqualsResult(String steps) throws IOException, RefusedException {
        Path file = folder.resolve("return.dng");
        TestTools.writeReturn(DNG, "frame.dng", settings(steps), file);
        // A cache of its own and so small that tiles are made again and again.
        PixelSource viewer = steps(steps, new WorkingMemory(40L << 20)).result();
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            assertThat(dng.width()).isEqualTo(viewer.width());
            assertThat(dng.height()).isEqualTo(viewer.height());
            for (Region region : new Region[] {
                new Region(viewer.width() - 70, viewer.height() - 60, 70, 60), new Region(370, 333, 160, 120)
            }) {
                Planes seen = new Planes(region, 3);
                viewer.fill(seen);
                Planes written = new Planes(region, 3);
                dng.fill(written);
                int differ = 0;
                for (int c = 0; c < 3; c++) {
                    for (int i = 0; i < seen.channel(c).length; i++) {
                        int difference = Math.abs((LinearDngWriter.sample(seen.channel(c)[i]) & 0xffff)
                                - (LinearDngWriter.sample(written.channel(c)[i]) & 0xffff));
                        assertThat(difference).isLessThanOrEqualTo(steps.contains("enlarge") ? 1 : 0);
                        differ += difference;
                    }
                }
                assertThat(differ).as("samples off by one").isLessThanOrEqualTo(seen.channel(0).length / 3333);
            }
        }
    }

    /** The tags tell where the pixels lie, by ExifTool. */
    @Test
    void tagsOfPlaceAreRight() throws IOException, RefusedException {
        assertThat(tags("cut")).containsExactly("0.1 0.2 0.7 0.8", "-", "1200 640");
        assertThat(tags("turned")).startsWith("-").doesNotContain("1200 640");
        assertThat(tags("cut enlarge")).containsExactly("-", "1080 576", "1080 576");
        assertThat(tags("enlarge")).containsExactly("-", "-", "1800 960");
    }

    private List<String> tags(String steps) throws IOException, RefusedException {
        Path file = folder.resolve(steps.replace(" ", "-") + ".dng");
        TestTools.writeReturn(DNG, "frame.dng", settings(steps), file);
        String out = TestTools.run(
                folder,
                "exiftool",
                "-n",
                "-f",
                "-s3",
                "-SubIFD:DefaultUserCrop",
                "-SubIFD:DefaultCropSize",
                "-SubIFD:ImageSize",
                file.toString());
        TiffDirectory image = TiffReader.read(Files.readAllBytes(file))
                .get(0)
                .subDirectories()
                .get(0);
        List<String> lines = out.lines().toList();
        return List.of(
                lines.get(0),
                lines.get(1),
                Math.round(image.number(Tag.IMAGE_WIDTH, 0)) + " " + Math.round(image.number(Tag.IMAGE_LENGTH, 0)));
    }

    /** LibRaw reads an enlarged, turned, corrected return sample for sample. */
    @Test
    void libRawReadsWhatWasWritten() throws IOException, RefusedException {
        Path file = folder.resolve("all.dng");
        TestTools.writeReturn(DNG, "frame.dng", settings("sharpen optics turned enlarge"), file);
        TestTools.Tiff16 seen = TestTools.libraw(folder, file);
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            assertThat(seen.width()).isEqualTo(dng.width());
            Planes written = new Planes(dng.bounds(), 3);
            dng.fill(written);
            for (int i = 0; i < seen.samples().length; i += 7) {
                int sample = LinearDngWriter.sample(written.channel(i % 3)[i / 3]) & 0xffff;
                assertThat(seen.samples()[i]).isEqualTo(Math.max(0, sample - LinearDngWriter.BLACK));
            }
        }
    }

    @Test
    void settingsComeBackFromTheReturn() {
        ResolvedSettings all = settings("sharpen optics turned enlarge");
        assertThat(ResolvedSettings.ofJson(all.toJson())).isEqualTo(all);
        String second = "{\"schema\":2,\"engine\":\"Rain Sieve 0.1.0\",\"model\":\"\",\"ei\":1600.0,\"noise\":"
                + "{\"a\":[1e-3,1e-3,1e-3],\"b\":[1e-5,1e-5,1e-5]},\"denoise\":{\"on\":true,\"method\":\"Quick\","
                + "\"grainKeptPercent\":20.0,\"colourNoiseKeptPercent\":0.0},\"defects\":\"\"}";
        ResolvedSettings older = ResolvedSettings.ofJson(second);
        assertThat(older.sharpen()).isEqualTo(SharpenSettings.OFF);
        String seventh = second.replace(
                "\"defects\":\"\"",
                "\"defects\":\"\",\"sharpen\":{\"on\":true,\"spread\":{\"softPx\":1.0,\"discPx\":0.0,\"linePx\":0.0,"
                        + "\"lineAngleDegrees\":0.0},\"cornersPx\":0.0,\"biteFinePercent\":50.0,"
                        + "\"biteCoarsePercent\":50.0,\"rimLimitPercent\":3.0}");
        assertThat(ResolvedSettings.ofJson(seventh).sharpen())
                .isEqualTo(SharpenSettings.plain(PointSpread.soft(1), 0, 50, 50, 3));
        assertThat(older.enlarge().on()).isFalse();
    }

    @Test
    void whatCannotBeMadeIsRefusedInWords() {
        ResolvedSettings huge = settings("")
                .with(
                        null,
                        null,
                        null,
                        new EnlargeSettings(
                                true,
                                EnlargeSettings.By.LONG_EDGE_PX,
                                90_000,
                                300,
                                EnlargeSettings.Edges.NATURAL,
                                false,
                                50,
                                0,
                                ""));
        assertThatExceptionOfType(RefusedException.class)
                .isThrownBy(() -> Steps.of(
                        TestTools.frame(DNG), "x", huge, DefectMap.EMPTY, new WorkingMemory(1 << 20), Cancel.NEVER))
                .withMessageContaining("6 times");
    }

    /** Sharpening shows in the finest detail, and its partner without it lies in the same place. */
    @Test
    void unsharpenedAndPlainLieInTheSameGeometry() throws RefusedException {
        WorkingMemory cache = new WorkingMemory(200L << 20);
        Steps steps = steps("sharpen optics turned", cache);
        Region middle = new Region(300, 300, 256, 256);
        Planes sharp = filled(steps.result(), middle);
        Planes soft = filled(steps("optics turned", cache).result(), middle);
        Planes plain = filled(steps.plain(), middle);
        assertThat(detail(sharp)).isGreaterThan(1.1 * detail(soft));
        assertThat(correlation(sharp, soft)).isGreaterThan(0.99);
        assertThat(correlation(plain, soft)).isGreaterThan(0.9);
    }

    private static Planes filled(PixelSource source, Region region) {
        Planes planes = new Planes(region, 3);
        source.fill(planes);
        return planes;
    }

    private static double detail(Planes p) {
        double sum = 0;
        for (int i = 1; i < p.channel(1).length; i++) {
            sum += Math.pow(p.channel(1)[i] - p.channel(1)[i - 1], 2);
        }
        return sum;
    }

    private static double correlation(Planes p, Planes q) {
        float[] a = p.channel(1);
        float[] b = q.channel(1);
        double meanA = mean(a);
        double meanB = mean(b);
        double ab = 0;
        double aa = 0;
        double bb = 0;
        for (int i = 0; i < a.length; i++) {
            ab += (a[i] - meanA) * (b[i] - meanB);
            aa += (a[i] - meanA) * (a[i] - meanA);
            bb += (b[i] - meanB) * (b[i] - meanB);
        }
        return ab / Math.sqrt(aa * bb);
    }

    private static double mean(float[] values) {
        double sum = 0;
        for (float value : values) {
            sum += value;
        }
        return sum / values.length;
    }

    private static Steps steps(String which, WorkingMemory cache) throws RefusedException {
        OpenedFrame frame = TestTools.frame(DNG);
        return Steps.of(frame, Sha256.of(DNG), settings(which), DefectMap.EMPTY, cache, Cancel.NEVER);
    }

    /** Settings go round whole; what a later version wrote is refused, in part as well, and so is what is none. */
    @Test
    void settingsAreReadInFullOrNotAtAll() {
        ResolvedSettings settings = ResolvedSettings.of(
                        1600,
                        NoiseModel.uniform(1e-3, 1e-5),
                        new DenoiseSettings(true, "Quick", 10, 0),
                        CfaPattern.RGGB)
                .with(SettledLaw.typical(1600))
                .with(SharpenSettings.OFF, null, null, null);
        assertThat(ResolvedSettings.ofJson(settings.toJson())).isEqualTo(settings);
        String json = settings.toJson();
        for (String other : new String[] {
            json.replace("\"schema\":" + ResolvedSettings.SCHEMA, "\"schema\":" + (ResolvedSettings.SCHEMA + 1)),
            json.replaceFirst("\\{", "{\"subject\":{\"grain\":5},"),
            "{",
            "[]",
            ""
        }) {
            assertThatThrownBy(() -> ResolvedSettings.ofJson(other)).isInstanceOf(UnreadableSettingsException.class);
        }
        assertThat(ResolvedSettings.ofJson(json.replace("\"schema\":" + ResolvedSettings.SCHEMA, "\"schema\":5"))
                        .noise())
                .isEqualTo(settings.noise());
    }
}
