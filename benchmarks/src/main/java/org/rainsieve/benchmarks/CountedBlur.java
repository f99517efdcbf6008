package org.rainsieve.benchmarks;

import java.util.SplittableRandom;
import nu.pattern.OpenCV;
import org.opencv.core.Core;
import org.opencv.core.CvType;
import org.opencv.core.Mat;
import org.opencv.core.Point;
import org.opencv.imgproc.Imgproc;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.Chance;
import org.rainsieve.sharpen.PointSpread;

/** Pictures blurred by OpenCV with kernels that are counted from points of light: a judge that shares nothing with what it judges. */
final class CountedBlur {
    private static final int POINTS = 400_000;

    static {
        OpenCV.loadLocally();
    }

    private CountedBlur() {}

    static Planes of(Planes clean, PointSpread spread, SplittableRandom random) {
        Region r = clean.region();
        Planes soft = new Planes(r, 3);
        Mat kernel = kernel(spread, random);
        for (int c = 0; c < 3; c++) {
            Mat from = new Mat(r.height(), r.width(), CvType.CV_32F);
            from.put(0, 0, clean.channel(c));
            Mat to = new Mat();
            Imgproc.filter2D(from, to, -1, kernel, new Point(-1, -1), 0, Core.BORDER_REFLECT);
            to.get(0, 0, soft.channel(c));
        }
        return soft;
    }

    /** Where points of light fall, counted: no formula of a transfer function has a part in it. */
    private static Mat kernel(PointSpread spread, SplittableRandom random) {
        int half = 16;
        int side = 2 * half + 1;
        float[] counts = new float[side * side];
        double cos = Math.cos(Math.toRadians(spread.lineAngleDegrees()));
        double sin = Math.sin(Math.toRadians(spread.lineAngleDegrees()));
        for (int i = 0; i < POINTS; i++) {
            double along = spread.linePx() * (random.nextDouble() - 0.5);
            double r = spread.discPx() * Math.sqrt(random.nextDouble());
            double turn = 2 * Math.PI * random.nextDouble();
            double x = along * cos + r * Math.cos(turn) + spread.softPx() * Chance.normal(random);
            double y = -along * sin + r * Math.sin(turn) + spread.softPx() * Chance.normal(random);
            int px = (int) Math.round(x) + half;
            int py = (int) Math.round(y) + half;
            if (px >= 0 && py >= 0 && px < side && py < side) {
                counts[py * side + px] += 1f / POINTS;
            }
        }
        Mat kernel = new Mat(side, side, CvType.CV_32F);
        kernel.put(0, 0, counts);
        return kernel;
    }
}
