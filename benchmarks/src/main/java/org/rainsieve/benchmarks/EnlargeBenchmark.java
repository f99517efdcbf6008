package org.rainsieve.benchmarks;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.SplittableRandom;
import java.util.function.ToDoubleBiFunction;
import javax.imageio.ImageIO;
import nu.pattern.OpenCV;
import org.opencv.core.CvType;
import org.opencv.core.Mat;
import org.opencv.core.Size;
import org.opencv.imgproc.Imgproc;
import org.rainsieve.colour.RgbSpace;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.enlarge.EnlargeSettings.Edges;
import org.rainsieve.enlarge.Enlarging;
import org.rainsieve.enlarge.NoiseLeft;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.quality.Psnr;
import org.rainsieve.quality.Reduction;
import org.rainsieve.quality.Ssim;
import org.rainsieve.scene.CameraJpeg;

/**
 * Pictures reduced, enlarged again, and compared in sRGB with what they were: reduced in light by boxes, clean, with a fifth of a
 * sensor's noise left in, and as JPEGs of quality 60. Last the luminance of ITU-R BT.601 after a cubic reduction (Keys 1981, a = −½,
 * spread by the factor) of the encoded picture, which is the protocol that published networks are compared by.
 */
final class EnlargeBenchmark {
    private static final int RIM = 8;
    private static final int JPEG_QUALITY = 60;
    private static final double GRAIN_KEPT = 0.2;
    private static final NoiseModel LAW = NoiseModel.uniform(0.008, 2e-4);
    private static final double[] EVEN = {1, 1, 1};

    private EnlargeBenchmark() {}

    /**
     * @param folder of pictures that no model was trained on
     * @param halved reduces them by two first, as photographs need that are soft or compressed at their own size
     */
    static void run(Path folder, boolean halved) throws IOException {
        OpenCV.loadLocally();
        List<Planes> truths = HeldPictures.middles(folder, halved ? 2 : 1);
        for (int factor : new int[] {2, 3, 4}) {
            table("x" + factor + ", clean", truths, truth -> Small.clean(Reduction.byBoxes(truth, factor)), factor);
        }
        table("x2, a fifth of the noise left in", truths, truth -> Small.grainy(Reduction.byBoxes(truth, 2)), 2);
        table("x2, JPEG quality " + JPEG_QUALITY, truths, truth -> Small.jpeg(Reduction.byBoxes(truth, 2)), 2);
        luminance(truths);
    }

    /** A picture to be enlarged and what is told of it. */
    private record Small(Planes picture, NoiseLeft left, boolean jpeg) {
        static Small clean(Planes picture) {
            return new Small(picture, NoiseLeft.NONE, false);
        }

        static Small grainy(Planes picture) {
            SplittableRandom random = new SplittableRandom(5);
            Planes out = new Planes(picture.region(), 3);
            for (int c = 0; c < 3; c++) {
                for (int i = 0; i < out.channel(c).length; i++) {
                    float x = picture.channel(c)[i];
                    double sd = GRAIN_KEPT * Math.sqrt(LAW.variance(c, x));
                    out.channel(c)[i] = (float) (x + sd * Chance.normal(random));
                }
            }
            return new Small(out, NoiseLeft.of(EVEN, LAW, GRAIN_KEPT), false);
        }

        static Small jpeg(Planes picture) {
            int w = picture.region().width();
            int h = picture.region().height();
            float[][] shown = new float[3][w * h];
            for (int c = 0; c < 3; c++) {
                for (int i = 0; i < w * h; i++) {
                    shown[c][i] = encoded(picture.channel(c)[i]);
                }
            }
            try {
                byte[] file = CameraJpeg.compressed(shown, w, h, JPEG_QUALITY / 100f);
                return new Small(
                        HeldPictures.linear(ImageIO.read(new ByteArrayInputStream(file)), 0, 0, w, h),
                        NoiseLeft.NONE,
                        true);
            } catch (IOException e) {
                throw new java.io.UncheckedIOException(e);
            }
        }

        Planes enlarged(Edges edges, double factor) {
            EnlargeSettings settings =
                    new EnlargeSettings(true, EnlargeSettings.By.FACTOR, factor, 300, edges, jpeg, JPEG_QUALITY, 0, "");
            Region r = picture.region();
            Enlarging enlarging = Enlarging.of(settings, r.width(), r.height(), left);
            Planes out = new Planes(new Region(0, 0, enlarging.width(), enlarging.height()), 3);
            enlarging.fill(picture, out);
            return out;
        }
    }

    private interface Reducing {
        Small of(Planes truth) throws IOException;
    }

    private static void table(String title, List<Planes> truths, Reducing reduction, int factor) throws IOException {
        Map<String, double[]> sums = new LinkedHashMap<>();
        double least = Double.POSITIVE_INFINITY;
        for (Planes truth : truths) {
            Small small = reduction.of(truth);
            Map<String, Planes> ways = new LinkedHashMap<>();
            ways.put("OpenCV cubic", openCv(small.picture, factor));
            for (Edges edges : Edges.values()) {
                ways.put(edges.name().toLowerCase(Locale.ROOT), small.enlarged(edges, factor));
            }
            Region inside = truth.region().grow(-RIM);
            ways.forEach((name, picture) -> {
                double[] sum = sums.computeIfAbsent(name, key -> new double[2]);
                sum[0] += Psnr.cpsnrDb(picture, truth, inside, EVEN) / truths.size();
                sum[1] += Ssim.ssim(picture, truth, inside, EVEN) / truths.size();
            });
            least = Math.min(
                    least,
                    Psnr.cpsnrDb(
                            Reduction.byBoxes(ways.get("learned"), factor),
                            small.picture,
                            small.picture.region().grow(-2),
                            EVEN));
        }
        System.out.printf(Locale.ROOT, "%s, %d pictures%n", title, truths.size());
        sums.forEach((name, sum) -> System.out.printf(Locale.ROOT, "  %-14s %.2f dB  %.4f%n", name, sum[0], sum[1]));
        System.out.printf(Locale.ROOT, "  learned, reduced again: %.1f dB at least%n", least);
    }

    private static void luminance(List<Planes> truths) {
        ToDoubleBiFunction<Planes, Planes> psnr = (picture, truth) -> {
            Region r = truth.region().grow(-RIM);
            double sum = 0;
            for (int y = r.y(); y < r.bottom(); y++) {
                for (int x = r.x(); x < r.right(); x++) {
                    double off = luma(picture, x, y) - luma(truth, x, y);
                    sum += off * off;
                }
            }
            return 10 * Math.log10(r.area() / sum);
        };
        double cubic = 0;
        double learned = 0;
        for (Planes truth : truths) {
            Small small = Small.clean(cubic(truth));
            cubic += psnr.applyAsDouble(openCv(small.picture, 2), truth) / truths.size();
            learned += psnr.applyAsDouble(small.enlarged(Edges.LEARNED, 2), truth) / truths.size();
        }
        System.out.printf(
                Locale.ROOT,
                "luminance after a cubic reduction, x2: OpenCV cubic %.2f dB, learned %.2f dB (%+.2f)%n",
                cubic,
                learned,
                learned - cubic);
    }

    private static double luma(Planes p, int x, int y) {
        return 0.257 * encoded(p.at(0, x, y)) + 0.504 * encoded(p.at(1, x, y)) + 0.098 * encoded(p.at(2, x, y));
    }

    private static float encoded(float light) {
        return (float) RgbSpace.encode(Math.max(0, Math.min(1, light)));
    }

    /** By two, of the encoded picture, one axis after the other. */
    private static Planes cubic(Planes large) {
        int w = large.region().width();
        int h = large.region().height();
        Planes small = new Planes(new Region(0, 0, w / 2, h / 2), 3);
        for (int c = 0; c < 3; c++) {
            float[] shown = new float[w * h];
            for (int i = 0; i < shown.length; i++) {
                shown[i] = encoded(large.channel(c)[i]);
            }
            float[] narrow = halved(shown, w, h, 1, w);
            float[] half = halved(narrow, h, w / 2, w / 2, 1);
            for (int i = 0; i < half.length; i++) {
                small.channel(c)[i] = (float) RgbSpace.decode(Math.max(0, Math.min(1, half[i])));
            }
        }
        return small;
    }

    /**
     * @param length of the axis that is halved
     * @param lines of that axis
     * @param step between its values; the other stride is that between lines
     */
    private static float[] halved(float[] values, int length, int lines, int step, int stride) {
        float[] out = new float[length / 2 * lines];
        int outStep = step == 1 ? 1 : step;
        int outStride = step == 1 ? length / 2 : 1;
        for (int line = 0; line < lines; line++) {
            for (int i = 0; i < length / 2; i++) {
                double sum = 0;
                double weights = 0;
                for (int k = 2 * i - 3; k <= 2 * i + 4; k++) {
                    double weight = keys((k - 2 * i - 0.5) / 2);
                    sum += weight * values[Math.max(0, Math.min(length - 1, k)) * step + line * stride];
                    weights += weight;
                }
                out[i * outStep + line * outStride] = (float) (sum / weights);
            }
        }
        return out;
    }

    private static double keys(double x) {
        double t = Math.abs(x);
        return t < 1 ? (1.5 * t - 2.5) * t * t + 1 : t < 2 ? ((-0.5 * t + 2.5) * t - 4) * t + 2 : 0;
    }

    private static Planes openCv(Planes small, int factor) {
        int w = small.region().width();
        int h = small.region().height();
        Planes out = new Planes(new Region(0, 0, w * factor, h * factor), 3);
        for (int c = 0; c < 3; c++) {
            float[] shown = new float[w * h];
            for (int i = 0; i < shown.length; i++) {
                shown[i] = encoded(small.channel(c)[i]);
            }
            Mat from = new Mat(h, w, CvType.CV_32F);
            from.put(0, 0, shown);
            Mat to = new Mat();
            Imgproc.resize(from, to, new Size(w * factor, h * factor), 0, 0, Imgproc.INTER_CUBIC);
            float[] large = out.channel(c);
            to.get(0, 0, large);
            for (int i = 0; i < large.length; i++) {
                large[i] = (float) RgbSpace.decode(Math.max(0, Math.min(1, large[i])));
            }
        }
        return out;
    }
}
