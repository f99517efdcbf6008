package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.TestTools;
import org.rainsieve.colour.Lab;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.dng.LinearDngWriter;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opening.OwnReturnException;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;

/** What a return promises, checked with our own reader, LibRaw 0.20.2, ExifTool 12.57 and libtiff. */
class ReturnTest {
    private static final int WIDTH = 1536;
    private static final int HEIGHT = 1090;
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;

    @TempDir
    static Path folder;

    private static PlainScene scene;
    private static byte[] original;
    private static OpenedFrame frame;

    @BeforeAll
    static void expose() throws IOException {
        scene = new PlainScene(WIDTH, HEIGHT, 3);
        Mosaic mosaic = expose(1600);
        var tags = CAMERA.tags(TestTools.shot(1600), true);
        String xmp =
                "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                        + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='4'"
                        + " xmlns:crs='http://ns.adobe.com/camera-raw-settings/1.0/' crs:Sharpness='40'"
                        + " xmlns:dc='http://purl.org/dc/elements/1.1/'><dc:subject><rdf:Bag><rdf:li>toad</rdf:li></rdf:Bag>"
                        + "</dc:subject></rdf:Description></rdf:RDF></x:xmpmeta>";
        tags.put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, xmp.getBytes()));
        SimulatedCamera.addPlace(tags, 47.125, -31.5);
        tags.put(TiffField.ofLongs(Tag.DEFAULT_CROP_ORIGIN, 8, 8));
        tags.put(TiffField.ofLongs(Tag.DEFAULT_CROP_SIZE, WIDTH - 16, HEIGHT - 16));
        original = org.rainsieve.scene.CfaDngWriter.write(
                mosaic,
                CAMERA.black(),
                new org.rainsieve.scene.CfaDngWriter.Form(ByteOrder.BIG_ENDIAN, 16, true, 256),
                tags);
        frame = TestTools.frame(original);
        Files.write(folder.resolve("original.dng"), original);
    }

    private static Mosaic expose(int iso) {
        return expose(CAMERA, iso);
    }

    private static Mosaic expose(SimulatedCamera camera, int iso) {
        Planes picture = new PlainScene(WIDTH, HEIGHT, 3).srgb();
        camera.see(picture);
        NoiseModel noise = camera.noiseAt(iso);
        return camera.sensor().expose(picture, noise.a().get(0), noise.b().get(0), 5);
    }

    private static final Map<String, SimulatedCamera> BODIES = Map.of("2x2", CAMERA, "6x6", SimulatedCamera.KESVIK_M);

    private static ResolvedSettings settings(double grain) {
        return ResolvedSettings.of(
                1600, CAMERA.noiseAt(1600), new DenoiseSettings(true, "Quick", grain, 0), CAMERA.pattern());
    }

    private static Path written(double grain) throws IOException, RefusedException {
        Path file = folder.resolve("return-" + (int) grain + ".dng");
        if (!Files.exists(file)) {
            TestTools.writeReturn(original, "original.dng", settings(grain), file);
        }
        return file;
    }

    private static DenoiseStep step(Mosaic mosaic, NoiseModel noise, double grain, WorkingMemory cache) {
        return step(CAMERA, mosaic, noise, grain, cache);
    }

    private static DenoiseStep step(
            SimulatedCamera camera, Mosaic mosaic, NoiseModel noise, double grain, WorkingMemory cache) {
        return step(camera, "Quick", mosaic, noise, grain, cache);
    }

    private static DenoiseStep step(
            SimulatedCamera camera, String method, Mosaic mosaic, NoiseModel noise, double grain, WorkingMemory cache) {
        return step(camera, method, mosaic, noise, grain, false, cache);
    }

    private static DenoiseStep step(
            SimulatedCamera camera,
            String method,
            Mosaic mosaic,
            NoiseModel noise,
            double grain,
            boolean forLooking,
            WorkingMemory cache) {
        DenoiseSettings denoise = new DenoiseSettings(true, method, grain, 0);
        return new DenoiseStep(
                "test",
                mosaic,
                noise,
                camera.colour().gains(),
                denoise,
                List.of(),
                "",
                DefectMap.EMPTY,
                forLooking,
                cache,
                Cancel.NEVER);
    }

    @Test
    void exifToolAndLibtiffFindNothingToSay() throws IOException, RefusedException {
        Path file = written(30);
        String after = TestTools.run(folder, "exiftool", "-validate", "-warning", "-a", file.toString());
        assertThat(after.trim()).matches("Validate +: OK");
        String tiff = TestTools.run(folder, "tiffinfo", file.toString());
        assertThat(tiff.lines().filter(line -> line.contains("Warning") || line.contains("rror")))
                .allMatch(
                        line -> line.contains("Unknown field with tag 5") || line.contains("Unknown field with tag 3"));
    }

    @Test
    void tagsAreCarriedDroppedAndRecomputed() throws IOException, RefusedException {
        Path file = written(30);
        String tags = TestTools.run(folder, "exiftool", "-s", "-G1", "-a", "-n", file.toString());
        assertThat(tags)
                .containsPattern("IFD0\\] +UniqueCameraModel +: Ondrel 24")
                .containsPattern("IFD0\\] +CameraSerialNumber +: OD24-00417")
                .containsPattern("IFD0\\] +OriginalRawFileName +: original.dng")
                .containsPattern("ExifIFD\\] +LensModel +: Ondrel 380 mm f/5")
                .containsPattern("ExifIFD\\] +OffsetTimeOriginal +: \\+01:00")
                .containsPattern("ExifIFD\\] +SubSecTimeOriginal +: 25")
                .containsPattern("GPS\\] +GPSLatitude +: 47.125")
                .containsPattern("SubIFD\\] +DefaultCropOrigin +: 8 8")
                .containsPattern("SubIFD\\] +BlackLevel +: 2048 2048 2048")
                .containsPattern("XMP-xmp\\] +Rating +: 4")
                .containsPattern("XMP-dc\\] +Subject +: toad")
                .containsPattern("XMP-xmpMM\\] +DerivedFromDocumentID +: sha256:" + Sha256.of(original))
                .doesNotContain("CFAPattern", "Sharpness                       : 40", "NewRawImageDigest");
        for (String tag : new String[] {"ColorMatrix1", "ColorMatrix2", "AsShotNeutral", "CalibrationIlluminant2"}) {
            String same = TestTools.run(folder, "exiftool", "-s3", "-" + tag, file.toString());
            assertThat(same).isEqualTo(TestTools.run(folder, "exiftool", "-s3", "-" + tag, "original.dng"));
        }
        double[] profile = Arrays.stream(
                        TestTools.run(folder, "exiftool", "-s3", "-n", "-NoiseProfile", file.toString())
                                .trim()
                                .split(" "))
                .mapToDouble(Double::parseDouble)
                .toArray();
        assertThat(profile).hasSize(6);
        // Grain kept 30 %: in green about a tenth of the original's variance is left.
        NoiseModel noise = CAMERA.noiseAt(1600);
        double left = (profile[2] * 0.18 + profile[3]) / noise.variance(1, 0.18);
        assertThat(left).isBetween(0.02, 0.25);
    }

    /** LibRaw's samples (its white set so that it scales by 1) are ours less the black level, below it 0; the raw digest is the MD5 of the samples. */
    @Test
    void librawReadsEverySample() throws Exception {
        Path file = written(30);
        TestTools.Tiff16 libraw = TestTools.libraw(folder, file);
        assertThat(libraw.width()).isEqualTo(WIDTH);
        assertThat(libraw.height()).isEqualTo(HEIGHT);
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            Planes planes = new Planes(dng.bounds(), 3);
            dng.fill(planes);
            ByteBuffer bytes = ByteBuffer.allocate(WIDTH * HEIGHT * 6).order(ByteOrder.LITTLE_ENDIAN);
            for (int i = 0; i < WIDTH * HEIGHT * 3; i++) {
                int sample = LinearDngWriter.sample(planes.channel(i % 3)[i / 3]) & 0xffff;
                bytes.putShort((short) sample);
                if (libraw.samples()[i] != Math.max(0, sample - LinearDngWriter.BLACK)) {
                    assertThat(libraw.samples()[i])
                            .as("sample %d", i)
                            .isEqualTo(Math.max(0, sample - LinearDngWriter.BLACK));
                }
            }
            byte[] digest = dng.main().field(Tag.RAW_IMAGE_DIGEST).orElseThrow().bytes();
            assertThat(digest).isEqualTo(MessageDigest.getInstance("MD5").digest(bytes.array()));
        }
    }

    @ParameterizedTest
    @CsvSource({"0, 0.65", "30, 0.80"})
    void sizeOnDisk(double grain, double share) throws IOException, RefusedException {
        try (LinearDngFile dng = LinearDngFile.open(written(grain))) {
            double packed =
                    Arrays.stream(dng.image().numbers(Tag.TILE_BYTE_COUNTS)).sum();
            assertThat(packed / (6.0 * WIDTH * HEIGHT)).isLessThanOrEqualTo(share);
        }
    }

    /** A chart through everything, developed by us and by LibRaw from the return. Mean CIEDE2000 1.0, neutrals 0.5. */
    @Test
    void coloursComeThrough() throws IOException, RefusedException {
        Path file = written(0);
        // With its usual adjustment of white: without it (-c 0) LibRaw 0.20 forgets to lower white by the black level
        // of
        // three-colour files and shows them 3 % darker.
        TestTools.run(folder, "dcraw_emu", "-4", "-T", "-w", "-o", "1", "-W", file.toString());
        TestTools.Tiff16 libraw = TestTools.tiff16(Path.of(file + ".tiff"));
        Files.delete(Path.of(file + ".tiff"));
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            double sumOurs = 0;
            double sumLibraw = 0;
            int fields = PlainScene.COLUMNS * PlainScene.ROWS;
            for (int f = 0; f < fields; f++) {
                Region field = scene.chartField(f).grow(-6);
                Planes planes = new Planes(field, 3);
                dng.fill(planes);
                double[] ours = new double[3];
                double[] theirs = new double[3];
                for (int c = 0; c < 3; c++) {
                    for (float value : planes.channel(c)) {
                        ours[c] += value / field.area();
                    }
                    for (int y = field.y(); y < field.bottom(); y++) {
                        for (int x = field.x(); x < field.right(); x++) {
                            theirs[c] += libraw.samples()[(y * WIDTH + x) * 3 + c] / 65535.0 / field.area();
                        }
                    }
                }
                Lab truth = PlainScene.chartLab(f);
                double differenceOurs =
                        truth.ciede2000(Lab.ofXyzD50(CAMERA.colour().toXyzD50().times(ours)));
                double differenceLibraw =
                        truth.ciede2000(Lab.ofXyzD50(RgbSpace.SRGB.toXyzD50().times(theirs)));
                if (f < PlainScene.COLUMNS) {
                    assertThat(differenceOurs).as("neutral %d", f).isLessThan(0.5);
                    assertThat(differenceLibraw).as("neutral %d, LibRaw", f).isLessThan(0.5);
                }
                sumOurs += differenceOurs / fields;
                sumLibraw += differenceLibraw / fields;
            }
            assertThat(sumOurs).isLessThan(1.0);
            assertThat(sumLibraw).isLessThan(1.0);
        }
    }

    /** The mean of a field without light moves by less than 2 % of the noise's sd, paired, at low and high ISO. */
    @ParameterizedTest
    @CsvSource({"2x2, Quick, 1600", "6x6, Quick, 12800", "2x2, Learned, 12800"})
    void shadowsKeepTheirMean(String body, String method, int iso) {
        SimulatedCamera camera = BODIES.get(body);
        Mosaic mosaic = expose(camera, iso);
        NoiseModel noise = camera.noiseAt(iso);
        Region black = scene.blackField().grow(-10);
        assertThat(black.area()).isGreaterThan(200 * 200);
        WorkingMemory cache = new WorkingMemory(256L << 20);
        Planes after = new Planes(black, 3);
        step(camera, method, mosaic, noise, 0, cache).fill(after);
        double[] sums = new double[3];
        long[] counts = new long[3];
        for (int y = black.y(); y < black.bottom(); y++) {
            for (int x = black.x(); x < black.right(); x++) {
                int c = mosaic.pattern().colourAt(x, y);
                sums[c] += after.at(c, x, y) - mosaic.at(x, y);
                counts[c]++;
            }
        }
        for (int c = 0; c < 3; c++) {
            assertThat(sums[c] / counts[c])
                    .as("colour %d", c)
                    .isCloseTo(0, within(0.02 * Math.sqrt(noise.b().get(c))));
        }
    }

    /** Clipped photosites are exactly at white; developed by LibRaw, original and return differ by at most 2 of 255. */
    @Test
    void clippedLampsStayClipped() throws IOException, RefusedException {
        Path file = written(30);
        for (Path dng : new Path[] {file, folder.resolve("original.dng")}) {
            TestTools.run(folder, "dcraw_emu", "-T", "-w", "-W", "-o", "1", dng.toString());
        }
        byte[] after = Files.readAllBytes(Path.of(file + ".tiff"));
        byte[] before = Files.readAllBytes(folder.resolve("original.dng.tiff"));
        assertThat(after.length).isEqualTo(before.length);
        int head = after.length - WIDTH * HEIGHT * 3;
        Region lamp = scene.lampField().grow(-10);
        Planes planes = new Planes(lamp, 3);
        step(frame.mosaic(), CAMERA.noiseAt(1600), 30, new WorkingMemory(256L << 20))
                .fill(planes);
        for (int y = lamp.y(); y < lamp.bottom(); y++) {
            for (int x = lamp.x(); x < lamp.right(); x++) {
                if (!frame.mosaic().clippedAt(x, y)) {
                    continue;
                }
                // Highlights: places whose demosaicing, LibRaw's or ours, sees clipped photosites only.
                boolean allAround = true;
                for (int k = 0; k < 121; k++) {
                    allAround &= frame.mosaic().clippedAt(x - 5 + k % 11, y - 5 + k / 11);
                }
                assertThat(planes.at(frame.mosaic().pattern().colourAt(x, y), x, y))
                        .isEqualTo(1f);
                for (int c = 0; allAround && c < 3; c++) {
                    int i = head + (y * WIDTH + x) * 3 + c;
                    assertThat(after[i] & 255).isCloseTo(before[i] & 255, within(2));
                }
            }
        }
    }

    /** What the viewer pulls is what was written, value for value, whatever region is asked for and in whatever order. */
    @Test
    void previewEqualsResult() throws IOException, RefusedException {
        WorkingMemory cache = new WorkingMemory(256L << 20);
        PixelSource viewer = Steps.of(frame, Sha256.of(original), settings(30), DefectMap.EMPTY, cache, Cancel.NEVER)
                .result();
        try (LinearDngFile dng = LinearDngFile.open(written(30))) {
            for (Region region : new Region[] {
                new Region(1000, 1000, 90, 90),
                new Region(0, 0, 300, 200),
                new Region(1019, 3, 11, 1087),
                new Region(1530, 1085, 6, 5)
            }) {
                Planes seen = new Planes(region, 3);
                viewer.fill(seen);
                Planes file = new Planes(region, 3);
                dng.fill(file);
                for (int c = 0; c < 3; c++) {
                    for (int i = 0; i < seen.channel(c).length; i++) {
                        assertThat(LinearDngWriter.sample(seen.channel(c)[i]))
                                .isEqualTo(LinearDngWriter.sample(file.channel(c)[i]));
                    }
                }
            }
        }
        assertThat(cache.made())
                .as("faulty lines, and canonical tiles, each made once")
                .isEqualTo(5);
    }

    /** One big region against many small: at most 1 of 65,535 for 99.99 % of samples and 4 anywhere; no seams. */
    @ParameterizedTest
    @CsvSource({"2x2, Quick", "6x6, Quick", "2x2, Learned", "6x6, Learned"})
    void tilesFitTogether(String body, String method) {
        SimulatedCamera camera = BODIES.get(body);
        Mosaic mosaic = expose(camera, 1600);
        NoiseModel noise = camera.noiseAt(1600);
        Planes whole = new Planes(mosaic.bounds(), 3);
        step(camera, method, mosaic, noise, 30, new WorkingMemory(256L << 20)).fill(whole);
        // The same crossing of four tiles, with the grid moved by cutting the mosaic: every other pixel is far from an
        // edge.
        int cut = 528;
        short[] samples = new short[(WIDTH - cut) * (HEIGHT - cut)];
        for (int y = 0; y < HEIGHT - cut; y++) {
            for (int x = 0; x < WIDTH - cut; x++) {
                samples[y * (WIDTH - cut) + x] = (short) mosaic.sample(x + cut, y + cut);
            }
        }
        Mosaic moved = new Mosaic(
                WIDTH - cut,
                HEIGHT - cut,
                samples,
                mosaic.pattern(),
                new float[] {camera.black()},
                1,
                1,
                camera.white());
        Region crossing = new Region(900, 900, 180, 130);
        Planes part = new Planes(new Region(900 - cut, 900 - cut, 180, 130), 3);
        step(camera, method, moved, noise, 30, new WorkingMemory(256L << 20)).fill(part);
        assertSame(whole, crossing, part, cut);
        // And in the smaller tiles that are made for looking.
        Planes seen = new Planes(crossing, 3);
        step(camera, method, mosaic, noise, 30, true, new WorkingMemory(256L << 20))
                .fill(seen);
        assertSame(whole, crossing, seen, 0);
    }

    private static void assertSame(Planes whole, Region place, Planes part, int cut) {
        int off = 0;
        for (int c = 0; c < 3; c++) {
            for (int y = place.y(); y < place.bottom(); y++) {
                for (int x = place.x(); x < place.right(); x++) {
                    int a = LinearDngWriter.sample(whole.at(c, x, y)) & 0xffff;
                    int b = LinearDngWriter.sample(part.at(c, x - cut, y - cut)) & 0xffff;
                    assertThat(Math.abs(a - b)).isLessThanOrEqualTo(4);
                    off += Math.abs(a - b) > 1 ? 1 : 0;
                }
            }
        }
        assertThat(off).isLessThanOrEqualTo((int) (place.area() * 3 / 10_000));
    }

    /** Grain kept is what is measured: the ratio of luminance sd after and before in a smooth field. */
    @ParameterizedTest
    @CsvSource({"Quick, 1600, 30", "Quick, 12800, 30", "Quick, 1600, 60", "Quick, 1600, 100", "Learned, 3200, 30"})
    void grainKeptIsNoiseLeft(String method, int iso, double grain) {
        Mosaic mosaic = expose(iso);
        WorkingMemory cache = new WorkingMemory(256L << 20);
        DenoiseStep step = step(CAMERA, method, mosaic, CAMERA.noiseAt(iso), grain, cache);
        ReturnMeasurement measurement = new ReturnMeasurement(CAMERA.colour().gains());
        for (int t = 0; t < 4; t++) {
            DenoisedTile tile = step.tile(t % 2, t / 2);
            Planes out = new Planes(tile.estimate().region(), 3);
            step.blend(tile, out);
            measurement.add(tile, out);
        }
        assertThat(measurement.noiseLeft() * 100).isCloseTo(grain, within(3.0));
        // The same by other means: deviations from the mean of 16² blocks of the smooth field, in green alone.
        Planes after = new Planes(scene.smoothField(), 3);
        Planes before = new Planes(scene.smoothField(), 3);
        step.fill(after);
        step.plain().fill(before);
        assertThat(blockSd(after) / blockSd(before) * 100).isCloseTo(grain, within(4.0));
    }

    private static double blockSd(Planes planes) {
        Region r = planes.region();
        double[] gains = CAMERA.colour().gains();
        double sum = 0;
        int n = 0;
        for (int y = 0; y + 16 <= r.height(); y += 16) {
            for (int x = 0; x + 16 <= r.width(); x += 16) {
                double[] grey = new double[256];
                double mean = 0;
                for (int i = 0; i < 256; i++) {
                    for (int c = 0; c < 3; c++) {
                        grey[i] += gains[c] * planes.at(c, r.x() + x + i % 16, r.y() + y + i / 16);
                    }
                    mean += grey[i] / 256;
                }
                for (double value : grey) {
                    sum += (value - mean) * (value - mean);
                    n++;
                }
            }
        }
        return Math.sqrt(sum / n);
    }

    @Test
    void ourReturnIsNotANewFrame() throws IOException, RefusedException {
        Path file = written(30);
        org.assertj.core.api.Assertions.assertThatThrownBy(() -> RawOpener.open(file))
                .isInstanceOf(OwnReturnException.class);
    }

    @Test
    void aReturnCarriesWhatMakesItAgain() throws IOException, RefusedException {
        try (LinearDngFile dng = LinearDngFile.open(written(30))) {
            byte[] xmp = dng.main().field(Tag.XMP).orElseThrow().bytes();
            ResolvedSettings carried = ResolvedSettings.ofJson(org.rainsieve.xmp.Xmp.property(xmp, "Settings"));
            assertThat(carried).isEqualTo(settings(30));
            Path again = folder.resolve("again.dng");
            TestTools.writeReturn(original, "original.dng", carried, again);
            try (LinearDngFile second = LinearDngFile.open(again)) {
                assertThat(second.main()
                                .field(Tag.RAW_IMAGE_DIGEST)
                                .orElseThrow()
                                .bytes())
                        .isEqualTo(dng.main()
                                .field(Tag.RAW_IMAGE_DIGEST)
                                .orElseThrow()
                                .bytes());
            }
        }
    }

    @Test
    void aDamagedReturnDoesNotVerify() throws IOException, RefusedException {
        byte[] bytes = Files.readAllBytes(written(30));
        for (int at : List.of(20_000, bytes.length / 2)) {
            byte[] damaged = bytes.clone();
            Arrays.fill(damaged, at, at + 4000, (byte) 0xff);
            Path file = Files.write(folder.resolve("damaged.dng"), damaged);
            org.assertj.core.api.Assertions.assertThatThrownBy(() -> ReturnVerifier.verify(file, WIDTH, HEIGHT, 1))
                    .isInstanceOf(IOException.class);
        }
    }
}
