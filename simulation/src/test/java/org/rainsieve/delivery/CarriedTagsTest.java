package org.rainsieve.delivery;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.TreeSet;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
import org.rainsieve.TestTools;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.dng.DngReader;
import org.rainsieve.dng.HandmadeDng;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.opening.Glance;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import org.rainsieve.tiff.TiffWriter;
import org.rainsieve.xmp.Xmp;

/**
 * What becomes of every tag of a DNG that has all there are, as another camera's converter would write it: ExifTool 12.57 lists
 * source and return, and the table in docs/returns.md tells which are carried, changed and left out. Nothing else may happen.
 */
class CarriedTagsTest {
    private static final int WIDTH = 320;
    private static final int HEIGHT = 240;

    @TempDir
    static Path folder;

    private static OpenedFrame frame;

    @BeforeAll
    static void write() throws IOException, RefusedException {
        byte[] dng = source();
        Files.write(folder.resolve("source.dng"), dng);
        frame = DngReader.read(dng);
        ResolvedSettings settings = ResolvedSettings.of(
                1600, NoiseModel.uniform(1e-4, 1e-6), new DenoiseSettings(false, "Quick", 0, 0), CfaPattern.RGGB);
        ReturnWriter.Order order = new ReturnWriter.Order(
                "source.dng",
                "ab".repeat(32),
                settings,
                DefectMap.EMPTY,
                1,
                false,
                new ReturnWriter.Carried(sidecar(), false, false));
        ReturnWriter.write(
                frame, order, folder.resolve("return.dng"), new WorkingMemory(1 << 26), Cancel.NEVER, share -> {});
        for (DeliverySettings.Form form : DeliverySettings.Form.values()) {
            Delivery.writeReturn(
                    folder.resolve("return.dng"),
                    frame.colour(),
                    new DeliverySettings(form, DeliverySpace.SRGB, 240, false, 90, 0, 0),
                    null,
                    folder.resolve("return." + form));
        }
    }

    /** UTF-16, as some programs write them: turned, moved, at another time, with another rating. */
    private static byte[] sidecar() {
        String xmp =
                "\uFEFF<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                        + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='2'"
                        + " xmlns:tiff='http://ns.adobe.com/tiff/1.0/' tiff:Orientation='6'"
                        + " xmlns:exif='http://ns.adobe.com/exif/1.0/' exif:GPSLatitude='47,7.5N' exif:GPSLongitude='9,30,36W'"
                        + " exif:GPSAltitude='1234/10' exif:DateTimeOriginal='2026-10-04T01:02:03.45+02:00'/></rdf:RDF></x:xmpmeta>";
        return xmp.getBytes(StandardCharsets.UTF_16LE);
    }

    private static byte[] source() {
        TiffDirectory main = SimulatedCamera.ONDREL_24.tags(TestTools.shot(1600), true);
        SimulatedCamera.addPlace(main, 10, 20);
        main.put(TiffField.ofText(Tag.DOCUMENT_NAME, "Sheet 12"));
        main.put(TiffField.ofText(Tag.IMAGE_DESCRIPTION, "A toad"));
        main.put(TiffField.ofText(Tag.ARTIST, "N. N."));
        main.put(TiffField.ofText(Tag.HOST_COMPUTER, "Bench 3"));
        main.put(TiffField.ofText(Tag.COPYRIGHT, "Nobody"));
        main.put(TiffField.ofShorts(Tag.RATING, 4));
        main.put(TiffField.ofShorts(Tag.RATING_PERCENT, 75));
        main.put(TiffField.ofBytes(Tag.IPTC, TiffType.UNDEFINED, iptc("Toad at the crossing")));
        main.put(TiffField.ofBytes(40091, TiffType.BYTE, "Title\0".getBytes(StandardCharsets.UTF_16LE))); // XPTitle
        main.put(TiffField.ofText(51081, "R12")); // ReelName
        main.put(TiffField.ofRationals(Tag.LENS_INFO, TiffType.RATIONAL, 10, 380, 380, 5, 5));
        main.put(TiffField.ofRationals(Tag.BASELINE_EXPOSURE, TiffType.SRATIONAL, 100, -0.22));
        main.put(TiffField.ofRationals(Tag.BASELINE_EXPOSURE_OFFSET, TiffType.SRATIONAL, 100, 0.1));
        main.put(TiffField.ofRationals(
                Tag.FORWARD_MATRIX_1,
                TiffType.SRATIONAL,
                10000,
                0.6,
                0.3,
                0.06422,
                0.2,
                0.9,
                -0.1,
                0.02,
                0.05,
                0.75521));
        main.put(TiffField.ofRationals(
                Tag.CAMERA_CALIBRATION_1, TiffType.SRATIONAL, 10000, 1.01, 0, 0, 0, 1, 0, 0, 0, 0.98));
        main.put(TiffField.ofText(Tag.PROFILE_NAME, "Plain"));
        main.put(floats(50940, 0, 0, 0.5f, 0.6f, 1, 1)); // ProfileToneCurve
        main.put(TiffField.ofLongs(50981, 1, 2, 1)); // ProfileLookTableDims
        main.put(floats(Tag.PROFILE_LOOK_TABLE_DATA, 0, 1, 1, 0, 1, 1));
        main.put(TiffField.ofShorts(Tag.MAKER_NOTE_SAFETY, 1));
        main.put(TiffField.ofBytes(Tag.DNG_PRIVATE_DATA, TiffType.BYTE, "Ondrel\0private".getBytes()));
        main.put(TiffField.ofBytes(
                Tag.ORIGINAL_RAW_FILE_NAME, TiffType.BYTE, "OND_0001.OND\0".getBytes(StandardCharsets.UTF_8)));
        main.put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, packet().getBytes(StandardCharsets.UTF_8)));
        TiffDirectory exif = main.exif().orElseThrow();
        exif.put(TiffField.ofBytes(
                Tag.MAKER_NOTE,
                TiffType.UNDEFINED,
                "Ondrel notes ".repeat(7_000).getBytes()));
        exif.put(TiffField.ofBytes(41730, TiffType.UNDEFINED, new byte[] {0, 2, 0, 2, 0, 1, 1, 2})); // CFAPattern
        exif.put(TiffField.ofShorts(Tag.COLOR_SPACE, 65535));
        exif.put(TiffField.ofLongs(Tag.PIXEL_X_DIMENSION, 4000));
        exif.put(TiffField.ofLongs(Tag.PIXEL_Y_DIMENSION, 3000));
        TiffDirectory rules = new TiffDirectory();
        rules.put(TiffField.ofText(Tag.INTEROPERABILITY_INDEX, "R03"));
        exif.setInteroperability(rules);
        TiffDirectory profile = new TiffDirectory();
        profile.put(TiffField.ofText(Tag.PROFILE_NAME, "Further"));
        profile.put(floats(50940, 0, 0, 1, 1));
        TiffWriter.Layout layout = TiffWriter.layOut(8, profile, ByteOrder.BIG_ENDIAN);
        main.blocks()
                .put(
                        Tag.EXTRA_CAMERA_PROFILES,
                        List.of(ByteBuffer.allocate(8 + layout.bytes().length)
                                .put("MMCR".getBytes())
                                .putInt((int) layout.firstDirectory())
                                .put(layout.bytes())
                                .array()));
        main.put(TiffField.ofLongs(Tag.NEW_SUBFILE_TYPE, 1));
        TiffDirectory raw = new TiffDirectory();
        main.subDirectories().add(raw);
        raw.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, WIDTH));
        raw.put(TiffField.ofLongs(Tag.IMAGE_LENGTH, HEIGHT));
        raw.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 16));
        raw.put(TiffField.ofShorts(Tag.SAMPLES_PER_PIXEL, 1));
        raw.put(TiffField.ofShorts(Tag.PLANAR_CONFIGURATION, 1));
        raw.put(TiffField.ofShorts(Tag.COMPRESSION, 1));
        raw.put(TiffField.ofShorts(Tag.PHOTOMETRIC, Tag.PHOTOMETRIC_CFA));
        raw.put(TiffField.ofLongs(Tag.ROWS_PER_STRIP, HEIGHT));
        raw.put(TiffField.ofShorts(Tag.CFA_REPEAT_DIM, 2, 2));
        raw.put(TiffField.ofBytes(Tag.CFA_PATTERN, TiffType.BYTE, new byte[] {0, 1, 1, 2}));
        raw.put(TiffField.ofShorts(Tag.BLACK_LEVEL, 512));
        raw.put(TiffField.ofShorts(Tag.WHITE_LEVEL, 16000));
        raw.put(TiffField.ofRationals(Tag.DEFAULT_CROP_ORIGIN, TiffType.RATIONAL, 1, 8, 6));
        raw.put(TiffField.ofRationals(Tag.DEFAULT_CROP_SIZE, TiffType.RATIONAL, 1, 300, 220));
        raw.put(TiffField.ofRationals(Tag.DEFAULT_SCALE, TiffType.RATIONAL, 1, 1, 1));
        raw.put(TiffField.ofRationals(Tag.BEST_QUALITY_SCALE, TiffType.RATIONAL, 1, 1));
        raw.put(TiffField.ofRationals(Tag.ANTI_ALIAS_STRENGTH, TiffType.RATIONAL, 10, 0.5));
        raw.put(TiffField.ofDoubles(Tag.RAW_TO_PREVIEW_GAIN, 1.25));
        raw.put(TiffField.ofBytes(Tag.OPCODE_LIST_3, TiffType.UNDEFINED, opcodes()));
        raw.put(TiffField.ofBytes(Tag.PROFILE_GAIN_TABLE_MAP, TiffType.UNDEFINED, gainTable()));
        raw.put(TiffField.ofText(65001, "a maker's word"));
        raw.put(TiffField.ofLongs(65002, 4711));
        byte[] samples = new byte[2 * WIDTH * HEIGHT];
        Arrays.fill(samples, (byte) 0x12);
        return HandmadeDng.of(main, raw, ByteOrder.BIG_ENDIAN, List.of(samples));
    }

    /** WarpRectilinear, FixVignetteRadial about another centre, and an optional one that nobody knows. */
    private static byte[] opcodes() {
        ByteBuffer out = ByteBuffer.allocate(4 + 16 + 68 + 16 + 56 + 16 + 4).putInt(3);
        out.putInt(1).putInt(0x01030000).putInt(0).putInt(68).putInt(1);
        for (double k : new double[] {1, 0.02, 0, 0, 0, 0, 0.5, 0.48}) {
            out.putDouble(k);
        }
        out.putInt(3).putInt(0x01030000).putInt(0).putInt(56);
        for (double k : new double[] {0.2, 0, 0, 0, 0, 0.45, 0.5}) {
            out.putDouble(k);
        }
        return out.putInt(99).putInt(0x01070000).putInt(1).putInt(4).putInt(7).array();
    }

    /** One point, one gain of 1.5; in the file's byte order, which is big-endian here. */
    private static byte[] gainTable() {
        return ByteBuffer.allocate(68)
                .putInt(1)
                .putInt(1)
                .putDouble(1)
                .putDouble(1)
                .putDouble(0.25)
                .putDouble(0.5)
                .putInt(1)
                .putFloat(0.2f)
                .putFloat(0.2f)
                .putFloat(0.2f)
                .putFloat(0.2f)
                .putFloat(0.2f)
                .putFloat(1.5f)
                .array();
    }

    private static TiffField floats(int tag, float... values) {
        ByteBuffer out = ByteBuffer.allocate(4 * values.length);
        for (float value : values) {
            out.putFloat(value);
        }
        return new TiffField(tag, TiffType.FLOAT, values.length, out.array(), ByteOrder.BIG_ENDIAN);
    }

    /** IIM 2:05, the title (IPTC-NAA Information Interchange Model 4). */
    private static byte[] iptc(String title) {
        byte[] text = title.getBytes(StandardCharsets.US_ASCII);
        return ByteBuffer.allocate(5 + text.length)
                .put(new byte[] {0x1c, 2, 5})
                .putShort((short) text.length)
                .put(text)
                .array();
    }

    private static String packet() {
        return "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='5' xmp:Label='keep'"
                + " xmlns:xmpMM='http://ns.adobe.com/xap/1.0/mm/' xmpMM:DocumentID='xmp.did:1' xmpMM:OriginalDocumentID='xmp.did:0'"
                + " xmlns:stEvt='http://ns.adobe.com/xap/1.0/sType/ResourceEvent#'"
                + " xmlns:dc='http://purl.org/dc/elements/1.1/'>"
                + "<dc:subject><rdf:Bag><rdf:li>toad</rdf:li><rdf:li>rain</rdf:li></rdf:Bag></dc:subject>"
                + "<dc:title><rdf:Alt><rdf:li xml:lang='x-default'>A title</rdf:li></rdf:Alt></dc:title>"
                + "<xmpMM:History><rdf:Seq><rdf:li rdf:parseType='Resource'><stEvt:action>converted</stEvt:action>"
                + "<stEvt:softwareAgent>Ondrel Box</stEvt:softwareAgent></rdf:li></rdf:Seq></xmpMM:History>"
                + "</rdf:Description></rdf:RDF></x:xmpmeta>";
    }

    private static Map<String, String> tags(String file) {
        String told = TestTools.run(
                folder,
                "exiftool",
                "-G1",
                "-a",
                "-u",
                "-U",
                "-s",
                "-n",
                "-t",
                "-sep",
                "|",
                "--ExifTool:all",
                "--System:all",
                "--File:all",
                "--Composite:all",
                file);
        Map<String, String> tags = new TreeMap<>();
        for (String line : told.lines().toList()) {
            String[] parts = line.split("\t", 3);
            if (parts.length == 3) {
                tags.merge(parts[0] + ":" + parts[1], parts[2], (a, b) -> a.equals(b) ? a : a + " / " + b);
            }
        }
        return tags;
    }

    /** Tag names of ExifTool by what the table of the docs says becomes of them. */
    private static Map<String, TreeSet<String>> told() throws IOException {
        Map<String, TreeSet<String>> told = new LinkedHashMap<>();
        for (String fate : List.of("carried", "changed", "left out")) {
            told.put(fate, new TreeSet<>());
        }
        for (String line : Files.readAllLines(Path.of("../docs/returns.md"))) {
            String[] cells = line.split("\\|");
            if (cells.length >= 4 && told.containsKey(cells[1].strip())) {
                for (String name : cells[3].replace("`", "").split(",")) {
                    told.get(cells[1].strip()).add(name.strip());
                }
            }
        }
        return told;
    }

    /** A push that is noted stands in the maker's baseline exposure, and nothing else of the file is another; ExifTool and LibRaw read it. */
    @Test
    void aPushIsNotedAsBrightnessAndMovesNoPixel() throws IOException, RefusedException {
        ResolvedSettings pushed = ResolvedSettings.of(
                6400, NoiseModel.uniform(1e-4, 1e-6), new DenoiseSettings(false, "Quick", 0, 0), CfaPattern.RGGB);
        for (boolean noted : new boolean[] {false, true}) {
            ReturnWriter.write(
                    frame,
                    new ReturnWriter.Order(
                            "source.dng",
                            "ab".repeat(32),
                            pushed,
                            DefectMap.EMPTY,
                            1,
                            false,
                            new ReturnWriter.Carried(new byte[0], false, noted)),
                    folder.resolve(noted ? "noted.dng" : "silent.dng"),
                    new WorkingMemory(1 << 26),
                    Cancel.NEVER,
                    share -> {});
        }
        Map<String, String> silent = tags("silent.dng");
        Map<String, String> noted = tags("noted.dng");
        assertThat(silent).containsEntry("IFD0:BaselineExposure", "-0.22");
        assertThat(noted).containsEntry("IFD0:BaselineExposure", "1.78");
        // The built-in previews are as bright as is asked for.
        silent.keySet()
                .removeIf(
                        tag -> tag.matches(
                                ".*(:BaselineExposure|Preview.*|Thumbnail.*|Offsets?|ByteCounts|Date|When|DocumentID|InstanceID)"));
        assertThat(noted).containsAllEntriesOf(silent);
        assertThat(pixels("noted.dng")).isEqualTo(pixels("silent.dng"));
    }

    /** As LibRaw decodes them; a portable pixmap, which holds no time of writing. */
    private static byte[] pixels(String file) throws IOException {
        TestTools.run(folder, "dcraw_emu", "-4", "-o", "0", "-r", "1", "1", "1", "1", file);
        return Files.readAllBytes(folder.resolve(file + ".ppm"));
    }

    @Test
    void everyTagIsCarriedChangedOrLeftOutAsTheTableSays() throws IOException {
        Map<String, String> before = tags("source.dng");
        Map<String, String> after = tags("return.dng");
        Map<String, TreeSet<String>> told = told();
        List<String> wrong = new ArrayList<>();
        before.forEach((tag, value) -> {
            String name = tag.substring(tag.indexOf(':') + 1);
            String now = after.get(tag);
            if (now == null) {
                // A few stand in another directory than they did; that of the preview tells of itself.
                now = after.entrySet().stream()
                        .filter(e ->
                                e.getKey().endsWith(":" + name) && !e.getKey().startsWith("SubIFD1"))
                        .map(Map.Entry::getValue)
                        .findFirst()
                        .orElse(null);
            }
            String fate = now == null ? "left out" : now.equals(value) ? "carried" : "changed";
            if (!told.get(fate).contains(name)
                    && !(fate.equals("carried") && told.get("changed").contains(name))) {
                wrong.add(tag + " is " + fate + ": " + value + (now == null ? "" : " -> " + now));
            }
        });
        assertThat(wrong).isEmpty();
    }

    /** TIFF and JPEG tell the same of the picture, their own size and colours, and all that EXIF requires; nothing is odd to ExifTool. */
    @ParameterizedTest
    @EnumSource(DeliverySettings.Form.class)
    void developedReturnsTellWhatTheLinearOneTells(DeliverySettings.Form form) {
        Map<String, String> tags = tags("return." + form);
        assertThat(tags)
                .containsEntry("IFD0:Orientation", "6")
                .containsEntry("IFD0:DocumentName", "Sheet 12")
                .containsEntry("IFD0:HostComputer", "Bench 3")
                .containsEntry("IFD0:Rating", "2")
                .containsEntry("IFD0:XPTitle", "Title")
                .containsEntry("IFD0:Software", ResolvedSettings.ENGINE)
                .containsEntry("ExifIFD:DateTimeOriginal", "2026:10:04 01:02:03")
                .containsEntry("ExifIFD:OffsetTimeOriginal", "+02:00")
                .containsEntry("ExifIFD:SerialNumber", "OD24-00417")
                .containsEntry("ExifIFD:LensInfo", "380 380 5 5")
                .containsEntry("ExifIFD:CFAPattern", "2 2 0 1 1 2")
                .containsEntry("ExifIFD:ExifImageWidth", "300")
                .containsEntry("ExifIFD:ExifImageHeight", "220")
                .containsEntry("ExifIFD:ColorSpace", "1")
                .containsEntry("GPS:GPSLatitude", "47.125")
                .containsEntry("GPS:GPSAltitude", "123.4")
                .containsEntry("IPTC:ObjectName", "Toad at the crossing")
                .containsEntry("XMP-dc:Title", "A title")
                .containsEntry("XMP-dc:Subject", "toad|rain")
                .containsEntry("XMP-xmp:Rating", "2")
                .containsEntry("XMP-aux:Firmware", "Ondrel 24 1.02");
        // A maker's note of 90,000 bytes has no room in a JPEG.
        assertThat(tags.containsKey("ExifIFD:MakerNoteUnknownText")).isEqualTo(form == DeliverySettings.Form.TIFF);
        assertThat(tags.get("InteropIFD:InteropIndex")).isEqualTo(form == DeliverySettings.Form.JPEG ? "R98" : null);
        String said = TestTools.run(folder, "exiftool", "-validate", "-warning", "-error", "-a", "return." + form);
        assertThat(said.lines().filter(line -> !line.contains("Validate") && !line.contains("[minor]")))
                .isEmpty();
    }

    private static Path made(String name, CropSettings crop, OpticsSettings optics, EnlargeSettings enlarge)
            throws IOException, RefusedException {
        ResolvedSettings settings = ResolvedSettings.of(
                        1600,
                        NoiseModel.uniform(1e-4, 1e-6),
                        new DenoiseSettings(false, "Quick", 0, 0),
                        CfaPattern.RGGB)
                .with(null, optics, crop, enlarge);
        Path file = folder.resolve(name);
        ReturnWriter.write(
                frame,
                ReturnWriter.Order.of("source.dng", "ef".repeat(32), settings),
                file,
                new WorkingMemory(1 << 26),
                Cancel.NEVER,
                share -> {});
        return file;
    }

    /** A return that is enlarged to a print keeps what its file says of the lens in shares of the picture, and tells the print's resolution. */
    @Test
    void enlargedReturnsKeepTheirLens() throws IOException, RefusedException {
        EnlargeSettings print = new EnlargeSettings(
                true, EnlargeSettings.By.PRINT_CM, 8, 254, EnlargeSettings.Edges.NATURAL, false, 50, 0, "");
        Path file = made("print.dng", null, null, print);
        assertThat(tags("print.dng"))
                .containsEntry("IFD0:XResolution", "254")
                .containsEntry("SubIFD:ImageWidth", "800");
        assertThat(tags("print.dng").get("SubIFD:OpcodeList3")).isNotNull();
        try (LinearDngFile dng = LinearDngFile.open(file)) {
            byte[] list = dng.image().field(Tag.OPCODE_LIST_3).orElseThrow().bytes();
            // The two that are told in shares, byte for byte.
            assertThat(list)
                    .isEqualTo(ByteBuffer.allocate(160)
                            .putInt(2)
                            .put(opcodes(), 4, 156)
                            .array());
        }
        Path copy = folder.resolve("print.jpg");
        Delivery.writeReturn(
                file,
                frame.colour(),
                new DeliverySettings(DeliverySettings.Form.JPEG, DeliverySpace.SRGB, 240, false, 90, 0, 0).atPpi(254),
                null,
                copy);
        assertThat(tags("print.jpg")).containsEntry("IFD0:XResolution", "254").containsEntry("JFIF:XResolution", "254");
    }

    /** One that is straightened has the file's own correction carried out first, as if it had been chosen, and says so. */
    @Test
    void straightenedReturnsCarryTheirLensOut() throws IOException, RefusedException {
        CropSettings turned = new CropSettings(true, 0.1, 0.1, 0.8, 0.8, 2, "free");
        Path plain = made("turned.dng", turned, null, null);
        Path asked = made(
                "asked.dng", turned, OpticsSettings.full(frame.ownCorrection().orElseThrow()), null);
        assertThat(tags("turned.dng")).doesNotContainKey("SubIFD:OpcodeList3");
        try (LinearDngFile one = LinearDngFile.open(plain);
                LinearDngFile other = LinearDngFile.open(asked)) {
            assertThat(Xmp.property(one.main().field(Tag.XMP).orElseThrow().bytes(), "LensCorrection"))
                    .startsWith("Done");
            for (int i = 0; i < one.tiles(); i++) {
                assertThat(one.tile(i)).isEqualTo(other.tile(i));
            }
        }
        assertThat(frame.remarks()).singleElement().asString().contains("Opcode 99 of list 3");
    }

    /** XMP that is larger than a segment goes into an extension (its specification, part 3), which we and ExifTool join again. */
    @Test
    void largeXmpIsExtended() throws IOException, RefusedException {
        String long1 = "wet ".repeat(20_000);
        String packet = packet().replace(
                        "</rdf:Description>",
                        "<dc:description><rdf:Alt><rdf:li xml:lang='x-default'>" + long1
                                + "</rdf:li></rdf:Alt></dc:description></rdf:Description>");
        frame.main().put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, packet.getBytes(StandardCharsets.UTF_8)));
        ResolvedSettings settings = ResolvedSettings.of(
                1600, NoiseModel.uniform(1e-4, 1e-6), new DenoiseSettings(false, "Quick", 0, 0), CfaPattern.RGGB);
        Path linear = folder.resolve("long.dng");
        ReturnWriter.write(
                frame,
                ReturnWriter.Order.of("source.dng", "cd".repeat(32), settings),
                linear,
                new WorkingMemory(1 << 26),
                Cancel.NEVER,
                share -> {});
        Path jpeg = folder.resolve("long.jpg");
        Delivery.writeReturn(
                linear,
                frame.colour(),
                new DeliverySettings(DeliverySettings.Form.JPEG, DeliverySpace.SRGB, 240, false, 90, 0, 0),
                null,
                jpeg);
        Map<String, String> tags = tags("long.jpg");
        assertThat(tags).containsEntry("XMP-dc:Title", "A title").containsEntry("XMP-xmp:Rating", "5");
        assertThat(tags.get("XMP-dc:Description")).hasSize(long1.strip().length());
        byte[] joined = Glance.packet(jpeg);
        assertThat(Xmp.property(joined, "OriginalSha256")).isEqualTo("cd".repeat(32));
        assertThat(ResolvedSettings.ofJson(Xmp.property(joined, "Settings"))).isEqualTo(settings);
    }
}
