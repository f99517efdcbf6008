package org.rainsieve.strip;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.List;
import java.util.stream.IntStream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.rainsieve.TestTools;
import org.rainsieve.book.Page;
import org.rainsieve.book.Rung;
import org.rainsieve.book.SameLook;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;

class StripTest {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final int WIDTH = 1800;
    private static final int HEIGHT = 1200;
    private static final int ISO = 3200;
    private static final NoiseModel LAW = CAMERA.noiseAt(ISO);
    private static final DenoiseSettings NOW = new DenoiseSettings(true, "Quick", 30, 5);

    private static PlainScene scene;
    private static OpenedFrame frame;
    private static List<SpotFinder.Found> spots;

    @BeforeAll
    static void expose() {
        scene = new PlainScene(WIDTH, HEIGHT, 7);
        Planes seen = new PlainScene(WIDTH, HEIGHT, 7).srgb();
        CAMERA.see(seen);
        frame = TestTools.frame(TestTools.dng(
                CAMERA.sensor().expose(seen, LAW.a().get(0), LAW.b().get(0), 5), CAMERA, ISO, true));
        spots = SpotFinder.find(frame.capture(), LAW, CAMERA.colour().gains(), new Region(0, 0, WIDTH, HEIGHT));
    }

    private static Region spot(Spot.Kind kind) {
        return spots.stream()
                .filter(found -> found.kind() == kind)
                .findFirst()
                .orElseThrow()
                .region();
    }

    /** Sd of the clean scene's greens about their local means. */
    private static double texture(Region r) {
        double sum = 0;
        double mean = 0;
        for (int y = r.y(); y < r.bottom() - 1; y++) {
            for (int x = r.x(); x < r.right() - 1; x++) {
                double d = scene.srgb().at(1, x + 1, y + 1) - scene.srgb().at(1, x, y);
                sum += d * d;
                mean += scene.srgb().at(1, x, y);
            }
        }
        return Math.sqrt(sum * r.area()) / mean;
    }

    /** Against the clean scene: the smooth spot has next to no texture, the fine one the most, the dark one little light. */
    @Test
    void spotsAreWhatTheySay() {
        assertThat(spots)
                .extracting(SpotFinder.Found::kind)
                .containsExactly(Spot.Kind.SMOOTH, Spot.Kind.FINE, Spot.Kind.DARK);
        double[] textures = new double[(WIDTH / 100 - 4) * (HEIGHT / 100 - 2)];
        for (int i = 0; i < textures.length; i++) {
            int columns = WIDTH / 100 - 4;
            textures[i] =
                    texture(new Region(i % columns * 100, i / columns * 100, SpotFinder.WIDTH, SpotFinder.HEIGHT));
        }
        java.util.Arrays.sort(textures);
        assertThat(texture(spot(Spot.Kind.SMOOTH))).isLessThan(textures[textures.length / 4]);
        assertThat(texture(spot(Spot.Kind.FINE))).isGreaterThan(textures[textures.length * 8 / 10]);
        Region dark = spot(Spot.Kind.DARK);
        double light = 0;
        for (int y = dark.y(); y < dark.bottom(); y++) {
            for (int x = dark.x(); x < dark.right(); x++) {
                light += scene.srgb().at(1, x, y) / dark.area();
            }
        }
        double all = 0;
        for (float value : scene.srgb().channel(1)) {
            all += value / WIDTH / HEIGHT;
        }
        assertThat(light).isLessThan(0.8 * all);
        for (SpotFinder.Found found : spots) {
            assertThat(found.region().x() / DenoiseStep.TILE)
                    .isEqualTo((found.region().right() - 1) / DenoiseStep.TILE);
        }
        Region crop = new Region(900, 500, 700, 600);
        assertThat(SpotFinder.find(frame.capture(), LAW, CAMERA.colour().gains(), crop))
                .allMatch(found -> crop.contains(found.region()));
    }

    private static CellFigures figures(Candidate candidate, Region region, WorkingMemory cache)
            throws RefusedException {
        Steps steps = steps(candidate, cache, true);
        return CellFigures.of(
                steps,
                steps(candidate, cache, false).atOwnSize(),
                region,
                region,
                LAW,
                CAMERA.colour().gains());
    }

    private static Steps steps(Candidate candidate, WorkingMemory cache, boolean sharpen) throws RefusedException {
        return Steps.of(
                frame,
                "strip",
                ResolvedSettings.of(ISO, LAW, candidate.denoise(), CAMERA.pattern())
                        .with(sharpen ? candidate.sharpen() : null, null, null, candidate.enlarge()),
                DefectMap.EMPTY,
                cache,
                Cancel.NEVER);
    }

    private static List<Candidate> candidates(Candidates.Of of, boolean equalNoise) {
        return Candidates.of(
                of,
                NOW,
                new DenoiseSettings(true, "Quick", 20, 0),
                equalNoise,
                SharpenSettings.OFF,
                SharpenSettings.plain(PointSpread.soft(1.2), 0, 50, 50, 3),
                EnlargeSettings.OFF,
                CAMERA.pattern(),
                "bayer-5");
    }

    /** All at equal noise left: measured within 3 points of what is asked, whatever the method; a strip makes only its tiles. */
    @Test
    void equalNoiseIsEqual() throws RefusedException {
        WorkingMemory cache = new WorkingMemory(200L << 20);
        List<Candidate> rows = candidates(Candidates.Of.METHODS, true);
        assertThat(rows).hasSize(4);
        for (Candidate row : rows.subList(0, 3)) {
            assertThat(row.denoise().grainKeptPercent()).isEqualTo(30);
            CellFigures figures = figures(row, spot(Spot.Kind.SMOOTH), cache);
            assertThat(figures.noiseLeftPercent()).as(row.words()).isCloseTo(30, within(3.0));
        }
        Region smooth = spot(Spot.Kind.SMOOTH);
        Region close = new Region(smooth.x() + 100, smooth.y() + 60, 87, 35);
        assertThat(figures(rows.get(0), close, cache).noiseLeftPercent())
                .as("at 400 %")
                .isCloseTo(30, within(3.0));
        assertThat(cache.made()).as("faulty lines, and a tile for each method").isEqualTo(4);
        CellFigures off = figures(rows.get(3), spot(Spot.Kind.SMOOTH), cache);
        assertThat(off.noiseLeftPercent()).isCloseTo(100, within(0.1));
    }

    /** Every list begins with what is likely, has no row twice, and says the amounts in force. */
    @Test
    void candidatesDifferAndSaySo() throws RefusedException {
        for (Candidates.Of of : Candidates.Of.values()) {
            List<Candidate> rows = candidates(of, false);
            assertThat(rows).as(of.name()).hasSizeGreaterThanOrEqualTo(2).doesNotHaveDuplicates();
            assertThat(rows.stream().map(Candidate::words))
                    .doesNotHaveDuplicates()
                    .allMatch(words -> words.contains("%") || words.contains("off"));
        }
        WorkingMemory cache = new WorkingMemory(200L << 20);
        List<Candidate> bites = candidates(Candidates.Of.BITE, false);
        assertThat(figures(bites.get(0), spot(Spot.Kind.FINE), cache).overshootPercent())
                .isZero();
        assertThat(figures(bites.get(3), spot(Spot.Kind.FINE), cache).overshootPercent())
                .as("full bite within its rim limit")
                .isBetween(0.1, 4.0);
        for (Candidate row : candidates(Candidates.Of.EDGES, false)) {
            assertThat(row.enlarge().on()).isTrue();
            Region fine = spot(Spot.Kind.FINE);
            CellFigures figures = CellFigures.of(
                    steps(row, cache, true),
                    steps(row, cache, false).atOwnSize(),
                    new Region(2 * fine.x(), 2 * fine.y(), fine.width(), fine.height()),
                    fine,
                    LAW,
                    CAMERA.colour().gains());
            assertThat(figures.overshootPercent()).as(row.words()).isBetween(0.0, 12.0);
        }
    }

    /** Grain kept at the other rungs leaves the same noise at mid-grey; where there is less, all of it stays. */
    @Test
    void sameLookLeavesTheSameNoise() {
        Page page = new Page(
                CAMERA.model(),
                List.of(
                        new Rung(100, NOW),
                        new Rung(3200, NOW),
                        new Rung(12_800, new DenoiseSettings(true, "Patch", 9, 9))));
        NoiseLaw law = NoiseLaw.fit(IntStream.of(100, 400, 1600, 6400, 25_600)
                .mapToObj(iso -> new NoiseLaw.AtIso(iso, CAMERA.noiseAt(iso)))
                .toList());
        Page after = SameLook.of(page, 3200, new DenoiseSettings(true, "Learned", 25, 0), SharpenSettings.OFF, law);
        assertThat(after.rungs()).allMatch(rung -> rung.denoise().method().equals("Learned"));
        double here = NoiseLaw.sigma(CAMERA.noiseAt(3200)) * 25;
        double above = NoiseLaw.sigma(CAMERA.noiseAt(12_800))
                * after.rungs().get(2).denoise().grainKeptPercent();
        assertThat(above).isCloseTo(here, within(0.05 * here));
        assertThat(after.rungs().get(0).denoise().grainKeptPercent()).isEqualTo(100);
    }
}
