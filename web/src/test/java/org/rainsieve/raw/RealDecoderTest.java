package org.rainsieve.raw;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Arrays;
import java.util.SplittableRandom;
import org.junit.jupiter.api.Test;
import org.rainsieve.dng.DngReader;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.scene.PlainFrames;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.web.files.SharedDecoder;

/** The shipped decoder itself, LibRaw in its fence, on files that our own reader reads too. */
class RealDecoderTest {
    @Test
    void decodesAsOurReaderDoes() throws RefusedException {
        for (SimulatedCamera camera : new SimulatedCamera[] {SimulatedCamera.ONDREL_24, SimulatedCamera.PILBO_S}) {
            byte[] dng = PlainFrames.frame(camera, 1600, 640, 480, 5);
            Mosaic ours = DngReader.read(dng).mosaic();
            FencedDecoder.Decoded theirs = SharedDecoder.get().decode(dng);
            int width = theirs.told().path("rawWidth").asInt();
            int left = theirs.told().path("left").asInt();
            int top = theirs.told().path("top").asInt();
            assertThat(theirs.told().path("width").asInt()).isEqualTo(ours.width());
            for (int y = 0; y < ours.height(); y++) {
                for (int x = 0; x < ours.width(); x++) {
                    assertThat(theirs.samples()[(y + top) * width + x + left] & 0xffff)
                            .isEqualTo(ours.sample(x, y));
                }
            }
            // As LibRaw has no colour matrix for a made-up camera, the frame itself is refused with that reason.
            assertThatThrownBy(() -> MakersRaw.of(dng, SharedDecoder.get()))
                    .isInstanceOf(RefusedException.class)
                    .hasMessageContaining("No colour matrix is known");
        }
    }

    /** Whatever is damaged, the decoder answers or is replaced; the next file is decoded as ever. */
    @Test
    void damagedFilesHarmNothing() throws RefusedException {
        byte[] whole = PlainFrames.frame(SimulatedCamera.ONDREL_24, 1600, 640, 480, 5);
        SplittableRandom random = new SplittableRandom(8);
        for (int i = 0; i < 12; i++) {
            byte[] damaged = Arrays.copyOf(whole, i % 3 == 0 ? random.nextInt(10, whole.length) : whole.length);
            for (int k = 0; k < 20; k++) {
                damaged[random.nextInt(Math.min(2000, damaged.length))] = (byte) random.nextInt();
            }
            try {
                MakersRaw.of(damaged, SharedDecoder.get());
            } catch (RefusedException e) {
                assertThat(e.getMessage()).endsWith(".");
            }
        }
        assertThat(SharedDecoder.get().decode(whole).samples()).isNotEmpty();
    }
}
