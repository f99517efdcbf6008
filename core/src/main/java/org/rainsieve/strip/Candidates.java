package org.rainsieve.strip;

import java.util.ArrayList;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

/** What a strip can set beside each other, the likeliest first; the rows beyond those shown are the untried ones. */
public final class Candidates {
    /** What the rows differ in. */
    public enum Of {
        METHODS,
        GRAIN,
        COLOUR,
        BLUR,
        BITE,
        EDGES,

        /** Trained models for denoising, of which a camera's page is bound to one. */
        MODELS
    }

    private static final int[] STEPS_PERCENT = {0, 15, 30, 50, 8, 22, 40, 65, 80, 100};
    private static final int[] BITES_PERCENT = {0, 30, 60, 100, 15, 45, 80};

    /** The same of the sharpening method that is not in force. */
    private static final int[] OTHERS_PERCENT = {60, 100, 30};

    private Candidates() {}

    /**
     * @param denoise what the frame takes now; all rows start from it where they do not differ
     * @param suggested what each method would begin with on this camera at this exposure index
     * @param equalNoise true for all methods at the grain kept that the frame takes now
     * @param blur as suggested by the reading; null where it could not be told
     * @param pattern of the sensor
     * @param bound the model that the camera's page is bound to; empty for none
     */
    public static List<Candidate> of(
            Of of,
            DenoiseSettings denoise,
            DenoiseSettings suggested,
            boolean equalNoise,
            SharpenSettings sharpen,
            SharpenSettings blur,
            EnlargeSettings enlarge,
            CfaPattern pattern,
            String bound) {
        Map<String, Candidate> rows = new LinkedHashMap<>();
        switch (of) {
            case METHODS -> {
                DenoiseSettings amounts = equalNoise ? denoise : suggested;
                List<String> methods = Methods.names().stream()
                        .filter(name -> Methods.suits(name, pattern))
                        .toList();
                for (String name : methods) {
                    add(rows, with(amounts, name, amounts.grainKeptPercent()), sharpen, enlarge);
                }
                if (!equalNoise) {
                    for (String name : methods) {
                        add(rows, with(amounts, name, amounts.grainKeptPercent() / 2), sharpen, enlarge);
                    }
                }
                add(rows, new DenoiseSettings(false, denoise.method(), 100, 100), sharpen, enlarge);
            }
            case GRAIN -> {
                for (int percent : STEPS_PERCENT) {
                    add(rows, with(denoise, denoise.method(), percent), sharpen, enlarge);
                }
            }
            case COLOUR -> {
                for (int percent : STEPS_PERCENT) {
                    DenoiseSettings row = new DenoiseSettings(
                            true, denoise.method(), denoise.grainKeptPercent(), percent, denoise.detailPercent());
                    add(rows, row, sharpen, enlarge);
                }
            }
            case BLUR -> {
                for (PointSpread spread : spreads(blur == null ? SharpenSettings.OFF.spread() : blur.spread())) {
                    add(rows, denoise, sharpen.with(spread), enlarge);
                }
                add(rows, denoise, SharpenSettings.OFF, enlarge);
            }
            case BITE -> {
                SharpenSettings from = sharpen.on() || blur == null ? sharpen : blur;
                SharpenSettings.Method other = from.method() == SharpenSettings.Method.LEARNED
                        ? SharpenSettings.Method.PLAIN
                        : SharpenSettings.Method.LEARNED;
                for (int percent : BITES_PERCENT) {
                    add(rows, denoise, from.withBite(percent), enlarge);
                }
                for (int percent : OTHERS_PERCENT) {
                    add(rows, denoise, from.with(other).withBite(percent), enlarge);
                }
            }
            case EDGES -> {
                EnlargeSettings size = enlarge.on() ? enlarge : EnlargeSettings.factor(2);
                for (EnlargeSettings.Edges edges : EnlargeSettings.Edges.OFFERED) {
                    add(rows, denoise, sharpen, size.with(edges, false));
                    if (pattern.equals(CfaPattern.NONE)) {
                        add(rows, denoise, sharpen, size.with(edges, true));
                    }
                }
            }
            case MODELS -> {
                DenoiseSettings learned = with(denoise, Methods.LEARNED, denoise.grainKeptPercent());
                for (String model : models(bound, pattern)) {
                    String words = model + " · " + words(learned, sharpen, enlarge);
                    rows.put(words, new Candidate(words, learned, sharpen, enlarge, model));
                }
            }
        }
        return new ArrayList<>(rows.values());
    }

    /** The one that is bound, then the others from the newest on. */
    private static List<String> models(String bound, CfaPattern pattern) {
        List<String> all = new ArrayList<>(Methods.models(pattern));
        Collections.reverse(all);
        if (all.remove(bound)) {
            all.add(0, bound);
        }
        return all;
    }

    private static DenoiseSettings with(DenoiseSettings from, String method, double grain) {
        return new DenoiseSettings(true, method, grain, from.colourNoiseKeptPercent(), from.detailPercent());
    }

    /** The blur as read, a disc of the same spread, then softer and sharper. */
    private static List<PointSpread> spreads(PointSpread read) {
        double soft = Math.max(
                0.5,
                Math.sqrt(read.softPx() * read.softPx()
                        + read.discPx() * read.discPx() / 4
                        + read.linePx() * read.linePx() / 12));
        List<PointSpread> all = new ArrayList<>();
        all.add(read);
        for (double factor : new double[] {1, 0.75, 1.3, 1.6}) {
            all.add(PointSpread.soft(Math.min(PointSpread.LARGEST_SOFT_PX, tenths(factor * soft))));
        }
        all.add(2, new PointSpread(0.5, Math.min(PointSpread.LARGEST_DISC_PX, tenths(2 * soft)), 0, 0));
        return all;
    }

    private static double tenths(double px) {
        return Math.round(px * 10) / 10.0;
    }

    private static void add(
            Map<String, Candidate> rows, DenoiseSettings denoise, SharpenSettings sharpen, EnlargeSettings enlarge) {
        String words = words(denoise, sharpen, enlarge);
        rows.putIfAbsent(words, new Candidate(words, denoise, sharpen, enlarge, ""));
    }

    /** The amounts in force, all of them, so that a row says what it is wherever it is met again. */
    static String words(DenoiseSettings denoise, SharpenSettings sharpen, EnlargeSettings enlarge) {
        StringBuilder words = new StringBuilder(
                denoise.on()
                        ? String.format(
                                Locale.ROOT,
                                "%s · grain %.0f %% · colour %.0f %%",
                                denoise.method(),
                                denoise.grainKeptPercent(),
                                denoise.colourNoiseKeptPercent())
                        : "Denoise off");
        if (denoise.on() && denoise.detailPercent() > 0) {
            words.append(String.format(Locale.ROOT, " · detail %.0f %%", denoise.detailPercent()));
        }
        PointSpread spread = sharpen.spread();
        words.append(
                sharpen.on()
                        ? String.format(
                                        Locale.ROOT,
                                        " · sharpened %s · soft %.1f px",
                                        sharpen.method().words(),
                                        spread.softPx())
                                + (spread.discPx() > 0
                                        ? String.format(Locale.ROOT, ", disc %.1f px", spread.discPx())
                                        : "")
                                + (spread.linePx() > 0
                                        ? String.format(
                                                Locale.ROOT,
                                                ", line %.0f px at %.0f°",
                                                spread.linePx(),
                                                spread.lineAngleDegrees())
                                        : "")
                                + String.format(
                                        Locale.ROOT,
                                        " · sharpness %.0f, %.0f %%",
                                        sharpen.biteFinePercent(),
                                        sharpen.biteCoarsePercent())
                        : " · Sharpen off");
        if (enlarge.on()) {
            words.append(" · edges ").append(enlarge.edges().name().toLowerCase(Locale.ROOT));
            words.append(enlarge.blockEdges() ? " · block edges removed" : "");
        }
        return words.toString();
    }
}
