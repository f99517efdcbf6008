package org.rainsieve.tiff;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.TestTools;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.jpeg.HuffmanTable;

class TiffTest {
    @TempDir
    Path folder;

    private static byte[] file(ByteOrder order, TiffDirectory main) {
        TiffWriter.Layout layout = TiffWriter.layOut(8, main, order);
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        bytes.writeBytes(TiffWriter.header(order, layout.firstDirectory()));
        bytes.writeBytes(layout.bytes());
        return bytes.toByteArray();
    }

    private static TiffDirectory everyType() {
        TiffDirectory main = new TiffDirectory();
        main.put(TiffField.ofText(Tag.MAKE, "Ondrel"));
        main.put(TiffField.ofShorts(Tag.BITS_PER_SAMPLE, 16, 16, 65535));
        main.put(TiffField.ofLongs(Tag.WHITE_LEVEL, 4_000_000_000L, 7));
        main.put(TiffField.ofRationals(Tag.F_NUMBER, TiffType.RATIONAL, 10, 5.6));
        main.put(TiffField.ofRationals(Tag.BASELINE_EXPOSURE, TiffType.SRATIONAL, 100, -0.35));
        main.put(TiffField.ofDoubles(Tag.NOISE_PROFILE, 2.5e-4, -1e-7));
        main.put(TiffField.ofBytes(Tag.DNG_VERSION, TiffType.BYTE, new byte[] {1, 4, 0, 0}));
        main.put(TiffField.ofBytes(50000, TiffType.SBYTE, new byte[] {-5}));
        TiffDirectory exif = new TiffDirectory();
        exif.put(TiffField.ofShorts(Tag.ISO_SPEED, 12800));
        main.setExif(exif);
        TiffDirectory below = new TiffDirectory();
        below.put(TiffField.ofLongs(Tag.IMAGE_WIDTH, 6016));
        main.subDirectories().add(below);
        return main;
    }

    @ParameterizedTest
    @ValueSource(booleans = {false, true})
    void everyTypeComesBackInBothByteOrders(boolean big) throws RefusedException {
        byte[] bytes = file(big ? ByteOrder.BIG_ENDIAN : ByteOrder.LITTLE_ENDIAN, everyType());
        TiffDirectory read = TiffReader.read(bytes).get(0);
        assertThat(read.text(Tag.MAKE)).isEqualTo("Ondrel");
        assertThat(read.numbers(Tag.BITS_PER_SAMPLE)).containsExactly(16, 16, 65535);
        assertThat(read.numbers(Tag.WHITE_LEVEL)).containsExactly(4e9, 7);
        assertThat(read.real(Tag.F_NUMBER, 0)).isEqualTo(5.6);
        assertThat(read.real(Tag.BASELINE_EXPOSURE, 0)).isEqualTo(-0.35);
        assertThat(read.numbers(Tag.NOISE_PROFILE)).containsExactly(2.5e-4, -1e-7);
        assertThat(read.number(50000, 0)).isEqualTo(-5);
        assertThat(read.exif().orElseThrow().number(Tag.ISO_SPEED, 0)).isEqualTo(12800);
        assertThat(read.subDirectories().get(0).number(Tag.IMAGE_WIDTH, 0)).isEqualTo(6016);
        assertThat(read.number(Tag.ORIENTATION, 9)).as("not there").isEqualTo(9);
        assertThat(read.numbers(Tag.ORIENTATION)).isEmpty();
    }

    /** ExifTool 12.57 reads what we laid out. */
    @ParameterizedTest
    @ValueSource(booleans = {false, true})
    void exifToolReadsTheSame(boolean big) throws Exception {
        Files.write(folder.resolve("t.tif"), file(big ? ByteOrder.BIG_ENDIAN : ByteOrder.LITTLE_ENDIAN, everyType()));
        String said = TestTools.run(
                folder, "exiftool", "-s3", "-n", "-Make", "-FNumber", "-BaselineExposure", "-ISO", "t.tif");
        assertThat(said.lines()).containsExactly("Ondrel", "5.6", "-0.35", "12800");
    }

    @Test
    void aDirectoryThatPointsToItselfIsReadOnce() throws RefusedException {
        byte[] bytes = file(ByteOrder.LITTLE_ENDIAN, everyType());
        ByteBuffer buffer = ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN);
        int first = buffer.getInt(4);
        int fields = buffer.getShort(first);
        buffer.putInt(first + 2 + 12 * fields, first);
        List<TiffDirectory> chain = TiffReader.read(bytes);
        assertThat(chain).hasSize(1);
    }

    @Test
    void fieldsOutsideTheFileAreLeftOut() throws RefusedException {
        byte[] bytes = file(ByteOrder.LITTLE_ENDIAN, everyType());
        ByteBuffer buffer = ByteBuffer.wrap(bytes).order(ByteOrder.LITTLE_ENDIAN);
        int first = buffer.getInt(4);
        for (int i = 0; i < buffer.getShort(first); i++) {
            if ((buffer.getShort(first + 2 + 12 * i) & 0xffff) == Tag.MAKE) {
                buffer.putInt(first + 2 + 12 * i + 4, 0x7fffffff); // two thousand million letters
            }
        }
        TiffDirectory read = TiffReader.read(bytes).get(0);
        assertThat(read.has(Tag.MAKE)).isFalse();
        assertThat(read.has(Tag.WHITE_LEVEL)).isTrue();
    }

    @Test
    void whatIsNoTiffIsRefused() {
        for (byte[] bytes :
                new byte[][] {{}, {'I', 'I'}, "MM\0*\0\0\0\0".getBytes(), "II*\0\377\377\377\377".getBytes()}) {
            assertThatThrownBy(() -> TiffReader.read(bytes)).isInstanceOf(RefusedException.class);
        }
    }

    /** Counts like Fibonacci's numbers ask for codes of 40 bits; T.81 allows 16 (figure K.3), and they must stay a code. */
    @Test
    void huffmanCodesStayShortAndComplete() {
        long[] counts = new long[257];
        long a = 1;
        long b = 1;
        for (int i = 0; i < 40; i++) {
            counts[i] = a;
            long next = a + b;
            a = b;
            b = next;
        }
        HuffmanTable table = HuffmanTable.optimal(counts);
        double kraft = 0;
        for (int i = 0; i < 40; i++) {
            assertThat(table.lengths()[i]).isBetween(1, 16);
            kraft += Math.pow(2, -table.lengths()[i]);
            assertThat(table.codes()[i]).as("never all ones").isNotEqualTo((1 << table.lengths()[i]) - 1);
        }
        assertThat(kraft).isLessThan(1);
        assertThat(table.lengths()[39]).isLessThan(table.lengths()[0]);
    }
}
