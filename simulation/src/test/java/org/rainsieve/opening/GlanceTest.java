package org.rainsieve.opening;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import javax.imageio.ImageIO;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.TestTools;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Thumbnail;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.tiff.Tag;
import org.rainsieve.tiff.TiffDirectory;
import org.rainsieve.tiff.TiffField;
import org.rainsieve.tiff.TiffType;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** What is told of a file before it is read, field by field as ExifTool reads the same file. */
class GlanceTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;

    @TempDir
    Path folder;

    private static String packet(int rating, String... words) {
        return "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                + "<rdf:Description rdf:about='' xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='" + rating
                + "' xmlns:dc='http://purl.org/dc/elements/1.1/'><dc:subject><rdf:Bag><rdf:li>"
                + String.join("</rdf:li><rdf:li>", words)
                + "</rdf:li></rdf:Bag></dc:subject></rdf:Description></rdf:RDF></x:xmpmeta>";
    }

    private byte[] dng() {
        TiffDirectory tags = CAMERA.tags(TestTools.shot(25600), true);
        byte[] packet = packet(3, "owl", "night & rain").replace("&", "&amp;").getBytes(StandardCharsets.UTF_8);
        tags.put(TiffField.ofBytes(Tag.XMP, TiffType.BYTE, packet));
        tags.put(TiffField.ofShorts(Tag.ORIENTATION, 8));
        TiffDirectory gps = new TiffDirectory();
        gps.put(TiffField.ofText(Tag.GPS_LATITUDE_REF, "S"));
        gps.put(TiffField.ofRationals(Tag.GPS_LATITUDE, TiffType.RATIONAL, 100, 33, 51, 30.25));
        gps.put(TiffField.ofText(Tag.GPS_LONGITUDE_REF, "E"));
        gps.put(TiffField.ofRationals(Tag.GPS_LONGITUDE, TiffType.RATIONAL, 100, 151, 12, 40.5));
        tags.setGps(gps);
        Planes scene = new PlainScene(240, 160, 1).srgb();
        CAMERA.see(scene);
        return CfaDngWriter.write(
                CAMERA.sensor().expose(scene, 1e-3, 1e-6, 1),
                CAMERA.black(),
                new CfaDngWriter.Form(ByteOrder.BIG_ENDIAN, 16, true, 64),
                tags);
    }

    private JsonNode exiftool(Path file) {
        return JsonMapper.builder()
                .build()
                .readTree(TestTools.run(folder, "exiftool", "-n", "-j", file.toString()))
                .get(0);
    }

    private Glance compared(Path file) throws RefusedException {
        Glance glance = Glance.of(file, null);
        JsonNode told = exiftool(file);
        assertThat(glance.shot().make()).isEqualTo(told.path("Make").asString(""));
        assertThat(glance.shot().model()).isEqualTo(told.path("Model").asString(""));
        assertThat(glance.shot().iso()).isEqualTo(told.path("ISO").asInt(0));
        assertThat(glance.shot().exposureSeconds())
                .isCloseTo(told.path("ExposureTime").asDouble(0), within(1e-6));
        assertThat(glance.shot().aperture()).isCloseTo(told.path("FNumber").asDouble(0), within(1e-3));
        assertThat(glance.shot().focalLengthMm())
                .isCloseTo(told.path("FocalLength").asDouble(0), within(1e-3));
        assertThat(glance.shot().lens()).isEqualTo(told.path("LensModel").asString(""));
        assertThat(glance.shot().serial()).isEqualTo(told.path("SerialNumber").asString(""));
        assertThat(glance.shot().orientation())
                .isEqualTo(told.path("Orientation").asInt(1));
        String time = told.path("SubSecDateTimeOriginal").asString("");
        assertThat(glance.shot().takenAt())
                .isEqualTo(time.substring(0, 10).replace(':', '-') + "T" + time.substring(11));
        return glance;
    }

    @Test
    void rawFiles() throws IOException, RefusedException {
        Path file = Files.write(folder.resolve("g.dng"), dng());
        Glance glance = compared(file);
        JsonNode told = exiftool(file);
        assertThat(glance.body()).isEqualTo("Ondrel 24");
        assertThat(glance.width()).isEqualTo(240);
        assertThat(glance.place()[0]).isCloseTo(told.path("GPSLatitude").asDouble(0), within(1e-6));
        assertThat(glance.place()[1]).isCloseTo(told.path("GPSLongitude").asDouble(0), within(1e-6));
        assertThat(glance.placeText()).isEqualTo("-33.858403, 151.211250");
        assertThat(glance.marks().rating()).isEqualTo(told.path("Rating").asInt());
        assertThat(glance.marks().keywords()).containsExactly("owl", "night & rain");
        assertThat(glance.own()).isFalse();
        // A sidecar is newer than what the camera wrote; hostile or broken ones say nothing.
        Files.writeString(folder.resolve("g.xmp"), packet(5, "barn"));
        assertThat(Glance.of(file, null).marks().rating()).isEqualTo(5);
        assertThat(Glance.of(file, null).marks().keywords()).containsExactly("barn");
        Files.writeString(
                folder.resolve("g.xmp"), "<!DOCTYPE x [<!ENTITY e SYSTEM 'file:///etc/passwd'>]>" + packet(1, "&e;"));
        assertThat(Glance.of(file, null).marks().rating()).isEqualTo(3);
    }

    /** Turned the right way up, from the JPEG that the file holds; a return of ours is told by what it says of itself. */
    @Test
    void previewsAndReturns() throws IOException, RefusedException {
        byte[] original = PlainFrames.frame(CAMERA, 1600, 900, 600, 3);
        Path file = folder.resolve("r.dng");
        TestTools.writeReturn(
                original,
                "o.dng",
                ResolvedSettings.of(
                        1600, CAMERA.noiseAt(1600), new DenoiseSettings(true, "Quick", 20, 0), CAMERA.pattern()),
                file);
        Glance glance = compared(file);
        assertThat(glance.own()).isTrue();
        assertThat(glance.body()).isEqualTo("Ondrel 24 (linear)");
        var upright = ImageIO.read(new ByteArrayInputStream(Thumbnail.ofPreview(glance.preview(), 1)));
        var turned = ImageIO.read(new ByteArrayInputStream(Thumbnail.ofPreview(glance.preview(), 6)));
        assertThat(upright.getWidth()).isBetween(256, 960);
        assertThat(turned.getWidth()).isEqualTo(upright.getHeight());
        assertThat(Thumbnail.ofPreview(new byte[] {1, 2, 3}, 1)).isNull();
    }

    /** Blocks, heaps, boxes and properties that end, loop or lie: something or nothing is told, and never worse. */
    @Test
    void damagedContainers() throws IOException {
        ByteBuffer heap = ByteBuffer.allocate(64).order(ByteOrder.LITTLE_ENDIAN);
        heap.put("II".getBytes()).putInt(26).put("HEAPCCDR".getBytes());
        // A heap in a heap in itself, and a directory beyond the end.
        heap.position(26);
        heap.putShort((short) 2)
                .putShort((short) 0x300a)
                .putInt(38)
                .putInt(0)
                .putShort((short) 0x080a)
                .putInt(1 << 30)
                .putInt(-5);
        heap.putInt(60, 0);
        ByteBuffer blocks = ByteBuffer.allocate(64);
        blocks.put("\0MRM".getBytes())
                .putInt(-1)
                .put("\0PRD".getBytes())
                .putInt(0)
                .put("\0TTW".getBytes())
                .putInt(-1);
        ByteBuffer boxes = ByteBuffer.allocate(64);
        boxes.putInt(0)
                .put("ftypcrx ".getBytes())
                .putInt(1)
                .put("moov".getBytes())
                .putLong(-1);
        ByteBuffer properties = ByteBuffer.allocate(128).order(ByteOrder.LITTLE_ENDIAN);
        properties.put("FOVb".getBytes()).position(40);
        properties
                .put("SECd".getBytes())
                .putInt(0)
                .putInt(Integer.MAX_VALUE)
                .putInt(40)
                .putInt(-1)
                .put("PROP".getBytes());
        properties.putInt(124, 40);
        for (ByteBuffer kind : new ByteBuffer[] {heap, blocks, boxes, properties}) {
            for (int length = kind.capacity(); length > 8; length -= 7) {
                Path file = Files.write(folder.resolve("d.bin"), java.util.Arrays.copyOf(kind.array(), length));
                try {
                    assertThat(Glance.of(file, null).body()).isEmpty();
                } catch (RefusedException e) {
                    assertThat(e.getMessage()).endsWith(".");
                }
            }
        }
    }
}
