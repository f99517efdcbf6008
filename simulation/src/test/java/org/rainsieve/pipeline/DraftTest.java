package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;

import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;

class DraftTest {
    /** Against the means of the scene itself, by interpolation (factor 3) and by means of photosites (the others). */
    @ParameterizedTest
    @CsvSource({"false, 3", "false, 4", "false, 8", "true, 4", "true, 6", "true, 9"})
    void aDraftIsTheSceneReduced(boolean sixBySix, int factor) {
        SimulatedCamera camera = sixBySix ? SimulatedCamera.KESVIK_M : SimulatedCamera.ONDREL_24;
        Planes scene = new PlainScene(720, 504, 3).srgb();
        camera.see(scene);
        ReducedPicture wanted = new ReducedPicture(720, 504, 720 / factor);
        wanted.add(scene);
        Mosaic mosaic = camera.sensor().expose(scene, 0, 0, 5);
        ReducedPicture draft = Draft.of(mosaic, 720 / factor);
        assertThat(draft.width()).isEqualTo(720 / factor);
        assertThat(draft.height()).isEqualTo(504 / factor);
        assertThat(psnrDb(draft.render(camera.colour()), wanted.render(camera.colour())))
                .isGreaterThan(30);
    }

    private static double psnrDb(byte[] seen, byte[] truth) {
        double sum = 0;
        for (int i = 0; i < truth.length; i++) {
            double off = (seen[i] & 255) - (truth[i] & 255);
            sum += off * off;
        }
        return 10 * Math.log10(255.0 * 255 * truth.length / sum);
    }
}
