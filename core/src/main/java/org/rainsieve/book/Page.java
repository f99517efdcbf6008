package org.rainsieve.book;

import java.util.Comparator;
import java.util.List;
import org.rainsieve.denoise.DenoiseSettings;

/** One camera's settings: its rungs in order of exposure index, at least one. */
public record Page(String camera, List<Rung> rungs) {
    public Page {
        if (rungs.isEmpty()) {
            throw new IllegalArgumentException("A page needs at least one rung");
        }
        rungs = rungs.stream().sorted(Comparator.comparingInt(Rung::ei)).toList();
        if (rungs.stream().map(Rung::ei).distinct().count() < rungs.size()) {
            throw new IllegalArgumentException("There are two rungs at one exposure index");
        }
    }

    /**
     * What a new camera begins with: less grain is left where there is more of it, and colour noise goes.
     *
     * @param method usually {@link org.rainsieve.denoise.Methods#best}
     */
    public static Page suggested(String camera, String method) {
        return new Page(
                camera,
                List.of(
                        new Rung(100, new DenoiseSettings(true, method, 40, 10)),
                        new Rung(1600, new DenoiseSettings(true, method, 30, 0)),
                        new Rung(25600, new DenoiseSettings(true, method, 15, 0))));
    }

    /**
     * Settings at an exposure index: amounts interpolated over log2(EI), constant beyond the ends; what cannot be
     * interpolated is taken from the nearer rung (the lower one exactly half way).
     */
    public DenoiseSettings at(double ei) {
        Rung below = rungs.get(0);
        Rung above = rungs.get(rungs.size() - 1);
        if (ei <= below.ei()) {
            return below.denoise();
        }
        if (ei >= above.ei()) {
            return above.denoise();
        }
        for (Rung rung : rungs) {
            if (rung.ei() <= ei) {
                below = rung;
            } else {
                above = rung;
                break;
            }
        }
        double share = Math.log(ei / below.ei()) / Math.log((double) above.ei() / below.ei());
        DenoiseSettings nearer = share <= 0.5 ? below.denoise() : above.denoise();
        return new DenoiseSettings(
                nearer.on(),
                nearer.method(),
                mix(below.denoise().grainKeptPercent(), above.denoise().grainKeptPercent(), share),
                mix(below.denoise().colourNoiseKeptPercent(), above.denoise().colourNoiseKeptPercent(), share));
    }

    private static double mix(double from, double to, double share) {
        return from + (to - from) * share;
    }
}
