package org.rainsieve.learn;

import java.io.BufferedOutputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.SplittableRandom;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.reading.BlurEvidence;
import org.rainsieve.reading.Reading;
import org.rainsieve.scene.SimulatedSensor;
import org.rainsieve.sharpen.PointSpread;

/**
 * Writes examples for the reader of blur: what edges tell of frames whose blur is known. Usage: {@code BlurExamples PHOTOS FILE COUNT
 * SEED [validation]}. Pictures are blurred point by point, exposed on a simulated sensor and read as frames are. Each example is
 * {@link BlurEvidence#SIZE} floats, the number of the kind ({@link Kind}) and two floats: radius or length in px, direction in radians.
 */
public final class BlurExamples {
    /** What became of a picture; {@code MIXED}: one half this way, one half that way, as when things move apart. */
    enum Kind {
        SOFT,
        DISC,
        LINE,
        MIXED
    }

    private static final int SIDE_PX = 720;
    private static final double[] GAINS = {1, 1, 1};

    private BlurExamples() {}

    private record Blurred(Planes picture, Kind kind, double sizePx, double angle) {}

    public static void main(String[] args) throws IOException {
        boolean validation = args.length > 4;
        List<Photographs.Picture> pictures =
                Photographs.load(Path.of(args[0]), validation ? Train.VALIDATION : Train.TRAINING);
        SplittableRandom random = new SplittableRandom(Long.parseLong(args[3]));
        CleanPatches patches = new CleanPatches(pictures, SIDE_PX);
        int count = Integer.parseInt(args[2]);
        try (DataOutputStream out =
                new DataOutputStream(new BufferedOutputStream(Files.newOutputStream(Path.of(args[1]))))) {
            for (int written = 0; written < count; ) {
                Blurred blurred = blurred(patches.next(random, true).rgb(), random);
                float[] evidence = evidence(blurred.picture, random);
                if (evidence == null) {
                    continue;
                }
                for (float value : evidence) {
                    out.writeFloat(value);
                }
                out.writeByte(blurred.kind.ordinal());
                out.writeFloat((float) blurred.sizePx);
                out.writeFloat((float) blurred.angle);
                if (++written % 100 == 0) {
                    out.flush();
                    System.out.println(written + " of " + count);
                }
            }
        }
    }

    private static Blurred blurred(float[] rgb, SplittableRandom random) {
        double pick = random.nextDouble();
        Kind kind = pick < 0.35 ? Kind.SOFT : pick < 0.63 ? Kind.DISC : pick < 0.93 ? Kind.LINE : Kind.MIXED;
        PointSpread spread = spread(kind == Kind.MIXED ? Kind.LINE : kind, random);
        Planes picture = convolved(rgb, spread);
        if (kind == Kind.MIXED) {
            Planes other = convolved(rgb, spread(random.nextBoolean() ? Kind.SOFT : Kind.LINE, random));
            for (int c = 0; c < 3; c++) {
                System.arraycopy(
                        other.channel(c),
                        0,
                        picture.channel(c),
                        0,
                        SIDE_PX * (SIDE_PX / 4 + random.nextInt(SIDE_PX / 2)));
            }
        }
        return new Blurred(
                picture, kind, Math.max(spread.discPx(), spread.linePx()), Math.toRadians(spread.lineAngleDegrees()));
    }

    private static PointSpread spread(Kind kind, SplittableRandom random) {
        double lens = 0.3 + 0.6 * random.nextDouble();
        return switch (kind) {
            case DISC -> new PointSpread(lens, CleanPatches.logUniform(random, 1.5, 7), 0, 0);
            case LINE -> new PointSpread(lens, 0, CleanPatches.logUniform(random, 4, 24), 180 * random.nextDouble());
            default -> PointSpread.soft(CleanPatches.logUniform(random, 0.3, 3));
        };
    }

    private static Planes convolved(float[] rgb, PointSpread spread) {
        float[] kernel = SharpenSource.kernel(spread);
        Planes out = new Planes(new Region(0, 0, SIDE_PX, SIDE_PX), 3);
        int pixels = SIDE_PX * SIDE_PX;
        for (int c = 0; c < 3; c++) {
            float[] channel =
                    SharpenSource.convolved(Arrays.copyOfRange(rgb, c * pixels, (c + 1) * pixels), SIDE_PX, kernel);
            System.arraycopy(channel, 0, out.channel(c), 0, pixels);
        }
        return out;
    }

    private static float[] evidence(Planes picture, SplittableRandom random) {
        double a = CleanPatches.logUniform(random, 1e-4, 0.02);
        double b = CleanPatches.read(a, random);
        CfaPattern pattern = random.nextInt(5) == 0 ? CfaPattern.SIX : CfaPattern.RGGB;
        Mosaic mosaic = new SimulatedSensor(pattern, 512, 16_383).expose(picture, a, b, random.nextLong());
        return Reading.blurEvidence(mosaic, NoiseModel.uniform(a, b), GAINS);
    }
}
