package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatIllegalArgumentException;
import static org.assertj.core.api.Assertions.within;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.PlanesSource;
import org.rainsieve.frame.Region;
import org.rainsieve.optics.LensCorrection;
import org.rainsieve.optics.LensDatabase;
import org.rainsieve.optics.LensMap;
import org.rainsieve.optics.LensProfile;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.scene.SimulatedLens;

class GeometryTest {
    private static final String BODY = "Ondrel 24";
    private static final int WIDTH = 1500;
    private static final int HEIGHT = 1000;
    private static final int MARGIN = 150;
    private static final int PITCH = 50;

    @TempDir
    private Path folder;

    @Test
    void gridThroughTheDemosLensAndBackIsStraightAndWithoutFringes() throws IOException {
        SimulatedLens lens = SimulatedLens.ONDREL_24;
        LensCorrection correction = correction(lens);
        Planes drawn = new Planes(new Region(0, 0, WIDTH + 2 * MARGIN, HEIGHT + 2 * MARGIN), 3);
        for (int row = 0; row <= drawn.region().height() / PITCH; row++) {
            for (int column = 0; column <= drawn.region().width() / PITCH; column++) {
                spot(drawn, column * PITCH, row * PITCH);
            }
        }
        Planes taken = lens.photograph(drawn, WIDTH, HEIGHT, new SimulatedLens.Aim(MARGIN, MARGIN, 0));
        GeometryStep step = new GeometryStep(
                new PlanesSource(taken), new OpticsSettings(true, correction, 1, 100, 100, 100), CropSettings.WHOLE);
        Planes straight = new Planes(step.bounds(), 3);
        step.fill(straight);

        double worstBend = 0;
        double worstFringe = 0;
        double worstLight = 0;
        double bentBefore = 0;
        double scale = new LensMap(new OpticsSettings(true, correction, 1, 100, 100, 100), WIDTH, HEIGHT, true).scale();
        for (int row = 4; row < HEIGHT / PITCH - 3; row++) {
            for (int column = 4; column < WIDTH / PITCH - 3; column++) {
                // Where the spot is when the picture is straight and only enlarged about its centre.
                double x = (column * PITCH - WIDTH / 2.0 + 0.5) * scale + (WIDTH - 1) / 2.0;
                double y = (row * PITCH - HEIGHT / 2.0 + 0.5) * scale + (HEIGHT - 1) / 2.0;
                double[] green = centre(straight, 1, x, y);
                worstBend = Math.max(worstBend, Math.hypot(green[0] - x, green[1] - y));
                for (int c = 0; c < 3; c += 2) {
                    double[] other = centre(straight, c, x, y);
                    worstFringe = Math.max(worstFringe, Math.hypot(other[0] - green[0], other[1] - green[1]));
                }
                worstLight = Math.max(worstLight, Math.abs(green[2] / (scale * scale) / SPOT_LIGHT - 1));
            }
        }
        double[] corner = centre(taken, 1, 4 * PITCH, 4 * PITCH);
        bentBefore = Math.hypot(corner[0] - 4 * PITCH, corner[1] - 4 * PITCH);
        assertThat(bentBefore).as("the lens bends").isGreaterThan(2);
        assertThat(worstBend).as("px off").isLessThan(0.3);
        assertThat(worstFringe).as("px between colours").isLessThan(0.1);
        assertThat(worstLight).as("shading left").isLessThan(0.03);
    }

    @Test
    void straighteningTurnsAboutTheCentreAndHoldsNothingFromOutside() {
        Planes tilted = new Planes(new Region(0, 0, WIDTH, HEIGHT), 3);
        double angle = 3;
        for (int y = 0; y < HEIGHT; y++) {
            for (int x = 0; x < WIDTH; x++) {
                // A horizon that falls to the right is set straight by turning anticlockwise.
                double horizon = HEIGHT / 2.0 + Math.tan(Math.toRadians(angle)) * (x - WIDTH / 2.0);
                for (int c = 0; c < 3; c++) {
                    tilted.channel(c)[y * WIDTH + x] = (float) (0.2 + 0.6 / (1 + Math.exp(-(y - horizon))));
                }
            }
        }
        CropSettings crop = new CropSettings(true, 0, 0, 1, 1, -angle, "3:2").fitted(WIDTH, HEIGHT);
        GeometryStep step = new GeometryStep(new PlanesSource(tilted), OpticsSettings.OFF, crop);
        assertThat(step.width() / (double) step.height()).isCloseTo(1.5, within(0.003));
        assertThat(step.width()).isBetween(1350, 1420);
        double[] at = new double[2];
        for (int corner = 0; corner < 4; corner++) {
            step.map((corner & 1) * (step.width() - 1), (corner >> 1) * (step.height() - 1), 1, at);
            assertThat(at[0]).isBetween(-0.6, WIDTH - 0.4);
            assertThat(at[1]).isBetween(-0.6, HEIGHT - 0.4);
        }
        Planes out = new Planes(step.bounds(), 3);
        step.fill(out);
        for (int x = 5; x < step.width(); x += 100) {
            assertThat(crossing(out, x)).isCloseTo(crossing(out, step.width() / 2), within(0.05));
        }
    }

    @Test
    void aRegionIsTheSameAloneAsInTheWhole() throws IOException {
        Planes noise = new Planes(new Region(0, 0, 600, 400), 3);
        java.util.Random random = new java.util.Random(3);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < 600 * 400; i++) {
                noise.channel(c)[i] = random.nextFloat();
            }
        }
        GeometryStep step = new GeometryStep(
                new PlanesSource(noise),
                new OpticsSettings(true, correction(SimulatedLens.ONDREL_24), 1, 80, 100, 50),
                new CropSettings(true, 0.1, 0.1, 0.7, 0.8, 4, "free").fitted(600, 400));
        Planes whole = new Planes(step.bounds(), 3);
        step.fill(whole);
        Planes part = new Planes(new Region(step.width() / 3, step.height() / 2, 90, 70), 3);
        step.fill(part);
        for (int y = part.region().y(); y < part.region().bottom(); y++) {
            for (int x = part.region().x(); x < part.region().right(); x++) {
                assertThat(part.at(0, x, y)).isEqualTo(whole.at(0, x, y));
            }
        }
    }

    @Test
    void lensesAreMatchedByCameraNameAndFocalLength() throws IOException {
        LensDatabase database = database();
        assertThat(database.match(BODY, "Ondrel 24 mm f/2", 24)
                        .orElseThrow()
                        .lens()
                        .name())
                .isEqualTo("Ondrel 24 mm f/2");
        assertThat(database.match(BODY, "", 24)).isEmpty();
        assertThat(database.match(BODY, "Ondrel 99 mm f/8", 99)).isEmpty();
        List<LensDatabase.Candidate> ranked = database.candidates(BODY, "Ondrel 25 mm f/2", 24);
        assertThat(ranked.get(0).lens().name()).isEqualTo("Ondrel 24 mm f/2");
        assertThat(ranked.get(0).reason()).contains("name alike").contains("reaches 24 mm");
    }

    @Test
    void anExtenderMakesAnotherLens() {
        LensDatabase open = LensDatabase.load(List.of(Path.of("/usr/share/lensfun/version_1")));
        assertThat(open.problems()).isEmpty();
        int extended = 0;
        for (LensProfile lens : open.lenses()) {
            if (lens.model().contains("1.4x")) {
                // Cameras report the extender by its factor only.
                String reported = lens.model().replaceAll("(?i) *(extender|converter)", "");
                assertThat(open.candidates(BODY, reported, lens.shortestMm())
                                .get(0)
                                .lens()
                                .model())
                        .contains("1.4x");
                String bare = reported.replaceAll(" *\\+.*", "");
                assertThat(open.candidates(BODY, bare, lens.shortestMm() / 1.4))
                        .noneMatch(candidate -> candidate.lens().model().contains("1.4x"));
                extended++;
            }
        }
        assertThat(extended).isGreaterThan(5);
    }

    @Test
    void aCropOutsideTheFrameIsRefusedInWords() {
        assertThatIllegalArgumentException()
                .isThrownBy(() -> new CropSettings(true, 0.5, 0, 0.6, 1, 0, "free"))
                .withMessageContaining("inside the frame");
        assertThatIllegalArgumentException()
                .isThrownBy(() -> new CropSettings(true, 0, 0, 0.05, 0.05, 45, "free").fitted(100, 100))
                .withMessageContaining("Move it inwards");
    }

    private LensDatabase database() throws IOException {
        Files.writeString(folder.resolve("own.xml"), SimulatedLens.profiles());
        return LensDatabase.load(List.of(folder));
    }

    private LensCorrection correction(SimulatedLens lens) throws IOException {
        return database().lenses().stream()
                .filter(profile -> profile.name().equals(lens.name()))
                .findFirst()
                .orElseThrow()
                .at(lens.focalLengthMm(), lens.aperture(), FAR_M);
    }

    private static final double FAR_M = 1000;
    private static final double SPOT_SIGMA = 2;
    private static final double SPOT_LIGHT = 0.8 * 2 * Math.PI * SPOT_SIGMA * SPOT_SIGMA;

    private static void spot(Planes to, int x, int y) {
        for (int dy = -8; dy <= 8; dy++) {
            for (int dx = -8; dx <= 8; dx++) {
                if (to.region().contains(new Region(x + dx, y + dy, 1, 1))) {
                    for (int c = 0; c < 3; c++) {
                        to.channel(c)[to.index(x + dx, y + dy)] =
                                (float) (0.8 * Math.exp(-(dx * dx + dy * dy) / (2 * SPOT_SIGMA * SPOT_SIGMA)));
                    }
                }
            }
        }
    }

    /** Centre of light near a place, and all the light. */
    private static double[] centre(Planes from, int c, double x, double y) {
        double sum = 0;
        double sx = 0;
        double sy = 0;
        for (int py = (int) y - 12; py <= y + 12; py++) {
            for (int px = (int) x - 12; px <= x + 12; px++) {
                double v = from.at(c, px, py);
                sum += v;
                sx += v * px;
                sy += v * py;
            }
        }
        return new double[] {sx / sum, sy / sum, sum};
    }

    private static double crossing(Planes from, int x) {
        for (int y = 1; y < from.region().height(); y++) {
            double above = from.at(1, x, y - 1);
            double below = from.at(1, x, y);
            if (above < 0.5 && below >= 0.5) {
                return y - 1 + (0.5 - above) / (below - above);
            }
        }
        return Double.NaN;
    }
}
