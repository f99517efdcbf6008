package org.rainsieve.xmp;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.TestTools;

class XmpTest {
    @TempDir
    Path folder;

    private static String ofReturn(String original) {
        return ofReturn(original, "", false);
    }

    private static String ofReturn(String original, String sidecar, boolean edits) {
        return Xmp.ofReturn(
                List.of(original.getBytes(StandardCharsets.UTF_8), sidecar.getBytes(StandardCharsets.UTF_8)),
                edits,
                Map.of("OriginalSha256", "abc", "Settings", "{\"a\": \"<&>\"}"),
                "Kröte & Co.dng",
                "",
                "Rain Sieve",
                "2026-10-03T21:14:05Z");
    }

    private static String packet(String inside) {
        return "<x:xmpmeta xmlns:x='adobe:ns:meta/'><rdf:RDF xmlns:rdf='http://www.w3.org/1999/02/22-rdf-syntax-ns#'>"
                + "<rdf:Description rdf:about='' " + inside + "</rdf:RDF></x:xmpmeta>";
    }

    /** What a sidecar says of the rating goes before all the file says, in whatever namespace. */
    @Test
    void aSidecarsRatingIsTheOnlyOne() {
        String out = ofReturn(
                packet("xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='5'"
                        + " xmlns:MicrosoftPhoto='http://ns.microsoft.com/photo/1.0/' MicrosoftPhoto:Rating='99'/>"),
                packet("xmlns:xmp='http://ns.adobe.com/xap/1.0/'><xmp:Rating>1</xmp:Rating></rdf:Description>"),
                false);
        assertThat(Xmp.marks(out.getBytes(StandardCharsets.UTF_8)).rating()).isEqualTo(1);
        assertThat(out).doesNotContain("MicrosoftPhoto");
    }

    /** ExifTool reads the packet; rating, label and keywords go on, develop settings and the file's own history do not. */
    @Test
    void descriptionsAreCarriedAndDevelopSettingsAreNot() throws Exception {
        String out = ofReturn(packet("xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='3' xmp:Label='keep'"
                + " xmlns:crs='http://ns.adobe.com/camera-raw-settings/1.0/' crs:LuminanceSmoothing='25' crs:LensProfileEnable='1'"
                + " xmlns:xmpMM='http://ns.adobe.com/xap/1.0/mm/' xmpMM:DocumentID='old'"
                + " xmlns:dc='http://purl.org/dc/elements/1.1/'><dc:title><rdf:Alt><rdf:li xml:lang='x-default'>Regen</rdf:li>"
                + "</rdf:Alt></dc:title></rdf:Description>"));
        Files.writeString(folder.resolve("t.xmp"), out);
        String read = TestTools.run(folder, "exiftool", "-s", "-a", "t.xmp");
        assertThat(read)
                .containsPattern("Rating +: 3")
                .containsPattern("Label +: keep")
                .containsPattern("Title +: Regen")
                .containsPattern("DerivedFromFilePath +: Kröte & Co.dng")
                .containsPattern("HistorySoftwareAgent +: Rain Sieve")
                .doesNotContain("LuminanceSmoothing", "LensProfileEnable", "DocumentID                      : old");
        assertThat(Xmp.property(out.getBytes(StandardCharsets.UTF_8), "Settings"))
                .isEqualTo("{\"a\": \"<&>\"}");
    }

    /** A sidecar's word goes before the file's own; edits of exposure and colour go on by choice, others never. */
    @Test
    void sidecarAndEdits() throws Exception {
        String own = packet("xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmlns:dc='http://purl.org/dc/elements/1.1/'>"
                + "<xmp:Rating>1</xmp:Rating><dc:subject><rdf:Bag><rdf:li>old</rdf:li></rdf:Bag></dc:subject>"
                + "<dc:rights>kept</dc:rights></rdf:Description>");
        String beside = packet("xmlns:xmp='http://ns.adobe.com/xap/1.0/' xmp:Rating='4'"
                + " xmlns:crs='http://ns.adobe.com/camera-raw-settings/1.0/' crs:Exposure='1.25' crs:Temperature='4100'"
                + " crs:Sharpness='60' crs:LuminanceSmoothing='25' crs:VignetteAmount='10' crs:CropTop='0.2'"
                + " xmlns:dc='http://purl.org/dc/elements/1.1/'><dc:subject><rdf:Bag><rdf:li>toad</rdf:li></rdf:Bag></dc:subject>"
                + "<crs:ToneCurve><rdf:Seq><rdf:li>0, 0</rdf:li><rdf:li>255, 240</rdf:li></rdf:Seq></crs:ToneCurve>"
                + "</rdf:Description>");
        for (boolean edits : new boolean[] {false, true}) {
            Files.writeString(folder.resolve("e.xmp"), ofReturn(own, beside, edits));
            String read = TestTools.run(folder, "exiftool", "-s", "-a", "e.xmp");
            assertThat(read)
                    .containsPattern("Rating +: 4")
                    .containsPattern("Subject +: toad")
                    .containsPattern("Rights +: kept")
                    .doesNotContainPattern("Rating +: 1")
                    .doesNotContain(": old", "Sharpness", "LuminanceSmoothing", "VignetteAmount", "CropTop");
            if (edits) {
                assertThat(read)
                        .containsPattern("Exposure +: \\+?1.25")
                        .containsPattern("Temperature +: 4100")
                        .containsPattern("ToneCurve +: 0, 0");
            } else {
                assertThat(read).doesNotContain("Temperature", "ToneCurve", "1.25");
            }
        }
    }

    /** Entities and outside files are not read, whatever the packet asks for; our own packet is written all the same. */
    @Test
    void hostilePacketsCarryNothing() throws Exception {
        Path secret = Files.writeString(folder.resolve("secret.txt"), "not for packets");
        String bomb = "<!DOCTYPE x [<!ENTITY a 'aaaaaaaaaa'>"
                + "<!ENTITY b '&a;&a;&a;&a;&a;&a;&a;&a;&a;&a;'><!ENTITY c '&b;&b;&b;&b;&b;&b;&b;&b;&b;&b;'>]>";
        String outside = "<!DOCTYPE x [<!ENTITY f SYSTEM '" + secret.toUri() + "'>]>";
        String dc = "xmlns:dc='http://purl.org/dc/elements/1.1/'><dc:rights>";
        String[] hostile = {
            bomb + packet(dc + "&c;</dc:rights></rdf:Description>"),
            outside + packet(dc + "&f;</dc:rights></rdf:Description>"),
            packet(dc + "unclosed"),
            "\0\1\2 not xml at all",
            "<a>".repeat(20_000)
        };
        Assertions.assertTimeoutPreemptively(Duration.ofSeconds(20), () -> {
            for (String original : hostile) {
                String out = ofReturn(original);
                assertThat(out).doesNotContain("not for packets", "aaaaaaaaaaaaaaaaaaaa");
                assertThat(Xmp.property(out.getBytes(StandardCharsets.UTF_8), "OriginalSha256"))
                        .isEqualTo("abc");
                assertThat(Xmp.property(original.getBytes(StandardCharsets.UTF_8), "OriginalSha256"))
                        .isEmpty();
            }
        });
    }

    /** Depth that would take a reading thread down, and size beyond any program's, are refused like other broken packets. */
    @Test
    void deepAndHugePacketsAreLeftOut() {
        String deep = packet("/>" + "<a>".repeat(50_000) + "</a>".repeat(50_000));
        String huge = packet("xmlns:n='n' n:x='" + "x".repeat(17 << 20) + "'/>");
        for (String bad : new String[] {deep, huge}) {
            byte[] bytes = bad.getBytes(StandardCharsets.UTF_8);
            assertThat(Xmp.exposureStops(bytes)).isNaN();
            assertThat(Xmp.property(bytes, "Settings")).isEmpty();
            assertThat(ofReturn(bad)).contains("Settings").hasSizeLessThan(100_000);
        }
    }
}
