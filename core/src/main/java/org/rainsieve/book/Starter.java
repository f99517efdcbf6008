package org.rainsieve.book;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.noise.NoiseLaw;

/**
 * A named set of settings to begin rungs from, told by the noise that is to be left, so that it means the same on every
 * camera: noise sd at mid-grey before and after, both in % of mid-grey.
 *
 * @param points in order of the noise before; between them the noise left is interpolated over logarithms
 */
public record Starter(int schema, String name, List<Point> points) {
    public static final int SCHEMA = 1;

    /** The exposure indices that rungs are begun at: every second full stop. (Common practice.) */
    static final int[] BEGUN_AT = {100, 400, 1600, 6400, 25_600};

    private static final double MID_GREY = 0.18;

    /**
     * @param noisePercent noise sd of one photosite at mid-grey, in % of mid-grey
     * @param leftPercent what is left of it, in the same measure
     * @param colourNoiseKeptPercent share of the colour noise that stays
     */
    public record Point(double noisePercent, double leftPercent, double colourNoiseKeptPercent) {
        public Point {
            boolean sound = noisePercent > 0
                    && leftPercent > 0
                    && leftPercent <= noisePercent
                    && colourNoiseKeptPercent >= 0
                    && colourNoiseKeptPercent <= 100;
            if (!sound) {
                throw new IllegalArgumentException(
                        "A starter's noise left must lie between 0 and the noise before, colour noise kept between 0 and 100 %");
            }
        }
    }

    public Starter {
        if (schema > SCHEMA) {
            throw new IllegalArgumentException("This starter was written by a newer version of Rain Sieve");
        }
        schema = SCHEMA;
        if (name == null || name.isBlank() || name.length() > 60) {
            throw new IllegalArgumentException("A starter needs a name of at most 60 letters");
        }
        name = name.strip();
        if (points == null || points.isEmpty()) {
            throw new IllegalArgumentException("A starter needs at least one point");
        }
        points = points.stream()
                .sorted(Comparator.comparingDouble(Point::noisePercent))
                .toList();
    }

    /** The three that ship. How much may stay is common practice: feathers forgive less than a stage, faint stars need most. */
    public static List<Starter> shipped() {
        return List.of(
                new Starter(
                        SCHEMA,
                        "Fur and feather",
                        List.of(
                                new Point(1, 0.6, 10),
                                new Point(4, 1.6, 5),
                                new Point(10, 2.5, 0),
                                new Point(30, 4.5, 0))),
                new Starter(
                        SCHEMA,
                        "Stage and street",
                        List.of(
                                new Point(1, 0.85, 20),
                                new Point(4, 2.4, 10),
                                new Point(10, 4, 5),
                                new Point(30, 7.5, 0))),
                new Starter(
                        SCHEMA,
                        "Stars",
                        List.of(
                                new Point(1, 0.7, 40),
                                new Point(4, 2, 30),
                                new Point(10, 3.6, 20),
                                new Point(30, 8, 15))));
    }

    /** What a page's rungs leave on a camera of that law, as a starter for others. */
    public static Starter of(String name, Page page, NoiseLaw law) {
        List<Point> points = new ArrayList<>();
        for (Rung rung : page.rungs()) {
            DenoiseSettings settings = page.at(rung.ei());
            double noise = noisePercent(law, rung.ei());
            double kept = settings.on() ? settings.grainKeptPercent() / 100 : 1;
            points.add(new Point(
                    noise, Math.max(1e-3, kept) * noise, settings.on() ? settings.colourNoiseKeptPercent() : 100));
        }
        return new Starter(SCHEMA, name, points);
    }

    public Starter named(String other) {
        return new Starter(schema, other, points);
    }

    /**
     * Rungs for a camera.
     *
     * @param from what to say of their origin
     * @param lookedAt false for those that nobody asked for
     */
    public List<Rung> rungs(NoiseLaw law, String method, String from, boolean lookedAt) {
        List<Rung> rungs = new ArrayList<>();
        for (int ei : BEGUN_AT) {
            double noise = noisePercent(law, ei);
            double left = left(noise);
            long kept = Math.round(100 * left / noise);
            long colour = Math.round(colourKept(noise));
            rungs.add(new Rung(
                    ei,
                    new DenoiseSettings(true, method, kept, colour),
                    new Origin(
                            from,
                            String.format(
                                    Locale.ROOT,
                                    "noise is %.1f %% of mid-grey here; %s leaves %.1f %%, which is %d %% of it",
                                    noise,
                                    name,
                                    left,
                                    kept),
                            colour == 0
                                    ? "at this noise colour shows as blotches: none stays"
                                    : String.format(
                                            Locale.ROOT,
                                            "%d %% stays, so that small colours are not washed out with the noise",
                                            colour),
                            lookedAt)));
        }
        return rungs;
    }

    static double noisePercent(NoiseLaw law, double ei) {
        return 100 * law.sigma(ei) / MID_GREY;
    }

    private double left(double noise) {
        Point first = points.get(0);
        if (noise <= first.noisePercent()) {
            return noise * first.leftPercent() / first.noisePercent();
        }
        for (int i = 1; i < points.size(); i++) {
            Point above = points.get(i);
            if (noise <= above.noisePercent()) {
                Point below = points.get(i - 1);
                double share = share(below, above, noise);
                return below.leftPercent() * Math.pow(above.leftPercent() / below.leftPercent(), share);
            }
        }
        Point last = points.get(points.size() - 1);
        return noise * last.leftPercent() / last.noisePercent();
    }

    private double colourKept(double noise) {
        for (int i = 1; i < points.size(); i++) {
            Point below = points.get(i - 1);
            Point above = points.get(i);
            if (noise <= above.noisePercent()) {
                double share = Math.max(0, share(below, above, noise));
                return below.colourNoiseKeptPercent()
                        + share * (above.colourNoiseKeptPercent() - below.colourNoiseKeptPercent());
            }
        }
        return points.get(points.size() - 1).colourNoiseKeptPercent();
    }

    private static double share(Point below, Point above, double noise) {
        return above.noisePercent() == below.noisePercent()
                ? 1
                : Math.log(noise / below.noisePercent()) / Math.log(above.noisePercent() / below.noisePercent());
    }
}
