package org.rainsieve.web.bench;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.Map;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * The step cards as a browser sends them. Only Denoise must be there; {@code more} says that the other cards are, too (a
 * switch that is off sends nothing).
 *
 * @param left of the crop, in % of the frame; the others likewise
 */
public record StepsForm(
        Boolean on,
        String method,
        Double grainKept,
        Double colourNoiseKept,
        Double detail,
        Boolean more,
        Boolean sharpen,
        Double soft,
        Double disc,
        Double line,
        Double angle,
        Double corners,
        Double fine,
        Double coarse,
        Double rim,
        Boolean optics,
        String lens,
        Double distortion,
        Double fringes,
        Double shading,
        Boolean crop,
        Double left,
        Double top,
        Double width,
        Double height,
        Double turn,
        String aspect) {

    /** A number as people write it, for the cards' fields. */
    public static String text(double value) {
        return new BigDecimal(value)
                .setScale(2, RoundingMode.HALF_UP)
                .stripTrailingZeros()
                .toPlainString();
    }

    /** What settings look like in the fields of the cards. */
    static Map<String, String> fields(DenoiseSettings denoise, SharpenSettings sharpen) {
        PointSpread spread = sharpen.spread();
        return Map.ofEntries(
                Map.entry("grainKept", text(denoise.grainKeptPercent())),
                Map.entry("colourNoiseKept", text(denoise.colourNoiseKeptPercent())),
                Map.entry("detail", text(denoise.detailPercent())),
                Map.entry("soft", text(spread.softPx())),
                Map.entry("disc", text(spread.discPx())),
                Map.entry("line", text(spread.linePx())),
                Map.entry("angle", text(spread.lineAngleDegrees())),
                Map.entry("corners", text(sharpen.cornersPx())),
                Map.entry("fine", text(sharpen.biteFinePercent())),
                Map.entry("coarse", text(sharpen.biteCoarsePercent())),
                Map.entry("rim", text(sharpen.rimLimitPercent())));
    }

    DenoiseSettings denoiseSettings() {
        return new DenoiseSettings(
                yes(on), method, number(grainKept), number(colourNoiseKept), detail == null ? 0.0 : detail);
    }

    SharpenSettings sharpenSettings() {
        return new SharpenSettings(
                yes(sharpen),
                new PointSpread(number(soft), number(disc), number(line), number(angle)),
                number(corners),
                number(fine),
                number(coarse),
                number(rim));
    }

    LensChoice lensChoice() {
        return new LensChoice(yes(optics), lens, number(distortion), number(fringes), number(shading));
    }

    CropSettings cropSettings() {
        return new CropSettings(
                yes(crop),
                number(left) / 100,
                number(top) / 100,
                number(width) / 100,
                number(height) / 100,
                number(turn),
                aspect);
    }

    boolean complete() {
        return yes(more);
    }

    private static boolean yes(Boolean value) {
        return Boolean.TRUE.equals(value);
    }

    /** A field that was emptied is no number, and said so by the settings that refuse it. */
    private static double number(Double value) {
        return value == null ? Double.NaN : value;
    }
}
