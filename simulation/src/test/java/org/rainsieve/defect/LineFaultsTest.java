package org.rainsieve.defect;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.within;

import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.scene.SimulatedSensor;

/** Faulty rows, columns and banding. What a frame has is told by whoever put it in. */
class LineFaultsTest {
    private static final int W = 1800;
    private static final int H = 1400;
    private static final double A = 5e-4;
    private static final double B = 4e-6;
    private static final NoiseModel LAW = NoiseModel.uniform(A, B);
    private static final double[] GAINS = {2, 1, 1.6};

    /** A sky that grows lighter towards the horizon. */
    private static Planes sky() {
        Planes sky = new Planes(new Region(0, 0, W, H), 3);
        for (int i = 0; i < W * H; i++) {
            for (int c = 0; c < 3; c++) {
                sky.channel(c)[i] = (float) (0.004 + 0.01 * (i / W) / H * (c + 1));
            }
        }
        return sky;
    }

    private static Mosaic seen(Planes light, boolean bayer, double bandingSd) {
        return new SimulatedSensor(
                        bayer ? CfaPattern.RGGB : CfaPattern.SIX,
                        512,
                        16383,
                        new SimulatedSensor.Flaws(4, 0, 0, 0, bandingSd))
                .expose(light, A, B, 9);
    }

    /** All lines of 10 sd, and columns of one sd a photosite, from where they begin; a wire of light 1.8 px wide is none. */
    @ParameterizedTest
    @ValueSource(booleans = {true, false})
    void faultyLinesAreFoundAndNothingElse(boolean bayer) {
        Planes sky = sky();
        for (int y = 0; y < H; y++) {
            for (int x = 600; x < 612; x++) {
                double d = (x - 606) / 1.8;
                for (int c = 0; c < 3; c++) {
                    sky.channel(c)[y * W + x] += (float) (0.05 / GAINS[c] * Math.exp(-4 * Math.log(2) * d * d));
                }
            }
        }
        Mosaic mosaic = seen(sky, bayer, 0.3 * Math.sqrt(B));
        short[] samples = mosaic.samples();
        Set<Integer> columns = new TreeSet<>();
        Set<Integer> rows = new TreeSet<>();
        for (int k = 0; k < 20; k++) {
            int at = 30 + 67 * k;
            int from = 37 * k;
            double sd = Math.sqrt(A * 0.01 + B);
            int offset = (int) Math.round((k % 2 == 0 || k % 4 == 3 ? 10 : k % 3 == 0 ? -1 : 1) * sd * (16383 - 512));
            (k % 4 == 3 ? rows : columns).add(at);
            for (int i = from; i < (k % 4 == 3 ? W : H); i++) {
                samples[k % 4 == 3 ? at * W + i : i * W + at] += (short) offset;
            }
        }
        LineFaults found = LineFinder.find(mosaic.with(samples, new float[0], new float[0]), LAW, GAINS);
        assertThat(found.lines()).filteredOn(LineFaults.Line::column).allSatisfy(line -> {
            int k = (line.at() - 30) / 67;
            assertThat(line.from()).isCloseTo(37 * k, within(k % 4 == 1 ? 60 : 12));
            assertThat(line.to()).isGreaterThan(H - 90);
        });
        assertThat(at(found, true)).isEqualTo(columns);
        assertThat(at(found, false)).isEqualTo(rows);
        Mosaic repaired = found.repaired(mosaic.with(samples, new float[0], new float[0]));
        Mosaic sound = seen(sky, bayer, 0);
        for (LineFaults.Line line : found.lines()) {
            double off = IntStream.range(line.from() + 60, line.to())
                    .mapToDouble(i -> line.column()
                            ? repaired.at(line.at(), i) - sound.at(line.at(), i)
                            : repaired.at(i, line.at()) - sound.at(i, line.at()))
                    .average()
                    .orElse(Double.NaN);
            assertThat(Math.abs(off)).as("%s", line).isLessThan(0.35 * Math.sqrt(A * 0.01 + B));
        }
    }

    private static Set<Integer> at(LineFaults found, boolean column) {
        return found.lines().stream()
                .filter(line -> line.column() == column)
                .map(LineFaults.Line::at)
                .collect(Collectors.toCollection(TreeSet::new));
    }

    /** More than half of what is added to whole rows is taken out, and columns, which have none, are left alone. */
    @ParameterizedTest
    @ValueSource(booleans = {true, false})
    void bandingIsTakenOut(boolean bayer) {
        double added = 0.3 * Math.sqrt(B);
        Mosaic sound = seen(sky(), bayer, 0);
        Mosaic banded = seen(sky(), bayer, added);
        assertThat(LineFinder.find(sound, LAW, GAINS).rows()).isEmpty();
        LineFaults found = LineFinder.find(banded, LAW, GAINS);
        assertThat(found.lines()).isEmpty();
        assertThat(found.columns()).isEmpty();
        Mosaic evened = found.repaired(banded);
        assertThat(rowSd(banded, sound)).isCloseTo(added, within(0.1 * added));
        assertThat(rowSd(evened, sound)).isLessThan(0.45 * added);
        // Outside the picture it is mirrored, and what was added with it.
        Planes rim = new Planes(new Region(0, -6, W, 6), 1);
        evened.fill(rim);
        assertThat(rim.at(0, 100, -2)).isCloseTo(evened.at(100, evened.row(-2)), within(1e-6f));
    }

    /** Of what one mosaic has more than another, by rows. */
    private static double rowSd(Mosaic mosaic, Mosaic other) {
        double squares = 0;
        for (int y = 0; y < H; y++) {
            double sum = 0;
            for (int x = 0; x < W; x++) {
                sum += mosaic.at(x, y) - other.at(x, y);
            }
            squares += sum * sum / W / W;
        }
        return Math.sqrt(squares / H);
    }

    /** A picture of beams, rails and a wall has no faulty lines, and loses no more than read noise would hide. */
    @Test
    void noPictureIsTakenForAFault() {
        Planes rails = new Planes(new Region(0, 0, W, H), 3);
        for (int i = 0; i < W * H; i++) {
            int x = i % W;
            int y = i / W;
            double beams = 0.5 + 0.5 * Math.sin(2 * Math.PI * y / 14);
            double posts = x % 90 < 2 ? 1 : 0;
            for (int c = 0; c < 3; c++) {
                rails.channel(c)[i] = (float) ((0.05 + 0.02 * beams + 0.2 * posts) / GAINS[c]);
            }
        }
        for (int i = 0; i < W * H; i++) {
            for (int c = 0; c < 3; c++) {
                // A wall whose edge is as straight as the sensor's columns, from rim to rim.
                rails.channel(c)[i] *= i % W < 1000 ? 1 : 2;
            }
        }
        Mosaic mosaic = seen(rails, true, 0);
        LineFaults found = LineFinder.find(mosaic, LAW, GAINS);
        assertThat(found.lines()).isEmpty();
        for (float row : found.rows()) {
            assertThat(Math.abs(row)).isLessThanOrEqualTo((float) Math.sqrt(B));
        }
    }
}
