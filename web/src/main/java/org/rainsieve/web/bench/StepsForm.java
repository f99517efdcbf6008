package org.rainsieve.web.bench;

import java.math.BigDecimal;
import java.math.RoundingMode;
import java.util.LinkedHashMap;
import java.util.Map;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;

/**
 * The step cards as a browser sends them. Only Denoise must be there; {@code more} says that the other cards are, too (a
 * switch that is off sends nothing).
 *
 * @param left of the crop, in % of the frame; the others likewise
 * @param shownFactor by which the picture is enlarged for looking at it; nothing is kept of that
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
        SharpenSettings.Method sharpenBy,
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
        String aspect,
        Double shownFactor,
        EnlargeSettings.Edges shownEdges) {

    /** A number as people write it, for the form's fields. */
    private static String text(double value) {
        return new BigDecimal(value)
                .setScale(2, RoundingMode.HALF_UP)
                .stripTrailingZeros()
                .toPlainString();
    }

    /** What settings look like in the fields of the form, by their names: text, or whether a box is ticked. */
    static Map<String, Object> fields(DenoiseSettings denoise, SharpenSettings sharpen) {
        PointSpread spread = sharpen.spread();
        Map<String, Object> fields = new LinkedHashMap<>();
        fields.put("on", denoise.on());
        fields.put("method", denoise.method());
        fields.put("grainKept", text(denoise.grainKeptPercent()));
        fields.put("colourNoiseKept", text(denoise.colourNoiseKeptPercent()));
        fields.put("detail", text(denoise.detailPercent()));
        fields.put("sharpen", sharpen.on());
        fields.put("soft", text(spread.softPx()));
        fields.put("disc", text(spread.discPx()));
        fields.put("line", text(spread.linePx()));
        fields.put("angle", text(spread.lineAngleDegrees()));
        fields.put("corners", text(sharpen.cornersPx()));
        fields.put("fine", text(sharpen.biteFinePercent()));
        fields.put("coarse", text(sharpen.biteCoarsePercent()));
        fields.put("rim", text(sharpen.rimLimitPercent()));
        fields.put("sharpenBy", sharpen.method().name());
        return fields;
    }

    static Map<String, Object> fields(
            DenoiseSettings denoise, SharpenSettings sharpen, LensChoice lens, CropSettings crop) {
        Map<String, Object> fields = fields(denoise, sharpen);
        fields.put("optics", lens.on());
        fields.put("lens", lens.profile());
        fields.put("distortion", text(lens.distortionPercent()));
        fields.put("fringes", text(lens.fringesPercent()));
        fields.put("shading", text(lens.shadingPercent()));
        fields.put("crop", crop.on());
        fields.put("left", text(crop.left() * 100));
        fields.put("top", text(crop.top() * 100));
        fields.put("width", text(crop.width() * 100));
        fields.put("height", text(crop.height() * 100));
        fields.put("turn", text(crop.turnDegrees()));
        fields.put("aspect", crop.aspect());
        return fields;
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
                number(rim),
                sharpenBy,
                "");
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

    /** Null for the picture at its own size. */
    EnlargeSettings shownEnlarged() {
        if (shownFactor == null || shownFactor <= 1) {
            return null;
        }
        return EnlargeSettings.factor(shownFactor).with(shownEdges, false);
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
