package org.rainsieve.optics;

import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.function.ToDoubleFunction;

/**
 * One lens of a database in lensfun's format: what was measured at some focal lengths, apertures and distances, and the
 * rules of lensfun 0.3 by which values in between are found.
 */
public record LensProfile(
        String maker,
        String model,
        List<String> mounts,
        double cropFactor,
        double aspectRatio,
        double centreX,
        double centreY,
        double shortestMm,
        double longestMm,
        List<Terms> distortions,
        List<Terms> fringes,
        List<Shade> shades) {

    /** Distances of which nothing is known count as far. */
    public static final double FAR_M = 1000;

    /** Terms of a model at one focal length. Fringes: vr, vb, cr, cb, br, bb. */
    record Terms(String model, double focalMm, double... values) {}

    record Shade(double focalMm, double aperture, double distanceM, double... values) {
        boolean isOfSameSetting(Shade other) {
            return focalMm == other.focalMm && aperture == other.aperture && distanceM == other.distanceM;
        }
    }

    public String name() {
        return model.toLowerCase().startsWith(maker.toLowerCase()) ? model : maker + " " + model;
    }

    /** Whether that focal length is one of this lens's. */
    public boolean reaches(double focalMm) {
        return focalMm >= shortestMm * 0.98 && focalMm <= longestMm * 1.02;
    }

    /** What the lens does at one setting; aperture and distance may be NaN. */
    public LensCorrection at(double focalMm, double aperture, double distanceM) {
        String model = distortions.isEmpty() ? "none" : distortions.get(0).model();
        List<Terms> known =
                distortions.stream().filter(d -> d.model().equals(model)).toList();
        int count = known.isEmpty() ? 0 : known.get(0).values().length;
        List<Double> bend = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            bend.add(interpolate(known, focalMm, i, true));
        }
        double[] fringe = {1, 1, 0, 0, 0, 0};
        for (int i = 0; i < fringe.length && !fringes.isEmpty(); i++) {
            fringe[i] = interpolate(fringes, focalMm, i, i >= 2);
        }
        return new LensCorrection(
                name(),
                model,
                bend,
                List.of(fringe[0], fringe[2], fringe[4]),
                List.of(fringe[1], fringe[3], fringe[5]),
                shading(focalMm, aperture, Double.isNaN(distanceM) ? FAR_M : distanceM),
                cropFactor,
                aspectRatio,
                centreX,
                centreY);
    }

    /**
     * Hermite interpolation between the two nearest focal lengths on either side, as lensfun has it: terms that grow with
     * the focal length are scaled by it meanwhile.
     */
    private static double interpolate(List<Terms> known, double focal, int term, boolean scaled) {
        Terms[] near = new Terms[4];
        for (Terms terms : known) {
            if (terms.focalMm() == focal) {
                return terms.values()[term];
            }
            if (terms.focalMm() < focal) {
                if (near[1] == null || terms.focalMm() > near[1].focalMm()) {
                    near[0] = near[1];
                    near[1] = terms;
                } else if (near[0] == null || terms.focalMm() > near[0].focalMm()) {
                    near[0] = terms;
                }
            } else if (near[2] == null || terms.focalMm() < near[2].focalMm()) {
                near[3] = near[2];
                near[2] = terms;
            } else if (near[3] == null || terms.focalMm() < near[3].focalMm()) {
                near[3] = terms;
            }
        }
        if (near[1] == null || near[2] == null) {
            return (near[1] == null ? near[2] : near[1]).values()[term];
        }
        ToDoubleFunction<Terms> value = terms -> terms.values()[term] * (scaled ? terms.focalMm() : 1);
        double from = value.applyAsDouble(near[1]);
        double to = value.applyAsDouble(near[2]);
        double slopeFrom = near[0] == null ? to - from : (to - value.applyAsDouble(near[0])) / 2;
        double slopeTo = near[3] == null ? to - from : (value.applyAsDouble(near[3]) - from) / 2;
        double t = (focal - near[1].focalMm()) / (near[2].focalMm() - near[1].focalMm());
        double t2 = t * t;
        double t3 = t2 * t;
        double mixed = (2 * t3 - 3 * t2 + 1) * from
                + (t3 - 2 * t2 + t) * slopeFrom
                + (3 * t2 - 2 * t3) * to
                + (t3 - t2) * slopeTo;
        return mixed / (scaled ? focal : 1);
    }

    /** Weighted by distance in focal length, aperture and distance to the power of −3.5, as lensfun has it. */
    private List<Double> shading(double focal, double aperture, double distance) {
        if (shades.isEmpty() || Double.isNaN(aperture)) {
            return LensCorrection.NO_SHADING;
        }
        double[] sum = new double[3];
        double total = 0;
        double nearest = Double.MAX_VALUE;
        double range = longestMm - shortestMm;
        for (Shade shade : shades) {
            double df = (shade.focalMm() - focal) / (range == 0 ? 1 : range);
            double da = 4 / shade.aperture() - 4 / aperture;
            double dd = 0.1 / shade.distanceM() - 0.1 / distance;
            double away = Math.sqrt(df * df + da * da + dd * dd);
            if (away < 1e-4) {
                return Arrays.stream(shade.values()).boxed().toList();
            }
            nearest = Math.min(nearest, away);
            double weight = Math.pow(away, -3.5);
            for (int i = 0; i < 3; i++) {
                sum[i] += weight * shade.values()[i];
            }
            total += weight;
        }
        return nearest > 1 ? LensCorrection.NO_SHADING : List.of(sum[0] / total, sum[1] / total, sum[2] / total);
    }
}
