package org.rainsieve.pipeline;

import java.lang.reflect.RecordComponent;
import java.util.Arrays;
import java.util.List;
import java.util.Set;
import java.util.stream.Collectors;
import org.rainsieve.book.Rung;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.mask.Mask;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.sharpen.SharpenSettings;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * Everything a return is made from besides the original's pixels; embedded in the return, so that it can be made again
 * from itself. Values, never references.
 *
 * @param ei exposure index at which the amounts were looked up
 * @param defects hash of the body's defect map; empty without one
 * @param crop not yet fitted to the frame
 * @param masks of the frame, none in returns of before
 * @param noiseFrom what the noise law rests on; null where that was not kept
 * @param model SHA-256 of the trained model that the denoise method rests on; empty for methods without one
 */
public record ResolvedSettings(
        int schema,
        String engine,
        String model,
        double ei,
        NoiseModel noise,
        DenoiseSettings denoise,
        String defects,
        SharpenSettings sharpen,
        OpticsSettings optics,
        CropSettings crop,
        EnlargeSettings enlarge,
        List<Mask> masks,
        NoiseOrigin noiseFrom) {
    public static final int SCHEMA = 9;
    public static final String ENGINE = "Rain Sieve 0.11.0";

    /** See {@link SettledLaw}. */
    public record NoiseOrigin(SettledLaw.Source source, double errorPercent) {}

    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final String UNREADABLE = "These settings cannot be read: they are damaged or not ours.";
    private static final Set<String> FIELDS = Arrays.stream(ResolvedSettings.class.getRecordComponents())
            .map(RecordComponent::getName)
            .collect(Collectors.toUnmodifiableSet());

    public ResolvedSettings {
        model = model == null ? "" : model;
        defects = defects == null ? "" : defects;
        // Returns of schema 2 and before knew no further steps.
        sharpen = sharpen == null ? SharpenSettings.OFF : sharpen;
        optics = optics == null ? OpticsSettings.OFF : optics;
        crop = crop == null ? CropSettings.WHOLE : crop;
        enlarge = enlarge == null ? EnlargeSettings.OFF : enlarge;
        masks = Mask.checked(masks, Mask.MOST + Rung.MOST_MASKS);
    }

    /** By how many stops a frame of that ISO is pushed; 0 where its ISO is not known. */
    public double pushStops(int iso) {
        return iso > 0 ? Math.log(ei / iso) / Math.log(2) : 0;
    }

    public static ResolvedSettings of(double ei, NoiseModel noise, DenoiseSettings denoise, CfaPattern pattern) {
        return of(ei, noise, denoise, "", DefectMap.EMPTY, pattern);
    }

    /**
     * @param wanted amounts and method; beyond the noise that a trained method was shown another one takes over
     * @param modelName the model that the camera's page is bound to; empty for the newest
     * @param pattern of the frame's mosaic
     */
    public static ResolvedSettings of(
            double ei,
            NoiseModel noise,
            DenoiseSettings wanted,
            String modelName,
            DefectMap defects,
            CfaPattern pattern) {
        DenoiseSettings denoise =
                pattern.equals(CfaPattern.NONE) ? wanted : wanted.withMethod(Methods.within(wanted.method(), noise));
        String model = denoise.on() ? Methods.modelHash(denoise.method(), modelName, pattern) : "";
        return new ResolvedSettings(
                SCHEMA, ENGINE, model, ei, noise, denoise, defects.hash(), null, null, null, null, null, null);
    }

    /** The same, telling what its noise law rests on. */
    public ResolvedSettings with(SettledLaw law) {
        return new ResolvedSettings(
                SCHEMA,
                engine,
                model,
                ei,
                noise,
                denoise,
                defects,
                sharpen,
                optics,
                crop,
                enlarge,
                masks,
                new NoiseOrigin(law.source(), law.errorPercent()));
    }

    /** Share of the noise's sd that Denoise leaves in, 0 to 1. */
    double grainKept() {
        return denoise.on() ? denoise.grainKeptPercent() / 100 : 1;
    }

    /**
     * The same with the steps after Denoise; null for one that is off. Where more noise is left, or more blur is told, than a learned method has seen,
     * the plain one takes over.
     */
    public ResolvedSettings with(
            SharpenSettings sharpening, OpticsSettings lens, CropSettings cropping, EnlargeSettings enlarging) {
        return new ResolvedSettings(
                SCHEMA,
                engine,
                model,
                ei,
                noise,
                denoise,
                defects,
                sharpening == null ? null : sharpening.within(noise, grainKept()),
                lens,
                cropping,
                enlarging == null ? null : enlarging.within(noise, grainKept()),
                masks,
                noiseFrom);
    }

    /** The same by another trained model of the denoise method, by its hash. */
    public ResolvedSettings withModel(String hash) {
        return new ResolvedSettings(
                schema, engine, hash, ei, noise, denoise, defects, sharpen, optics, crop, enlarge, masks, noiseFrom);
    }

    /** The same with the frame's masks. */
    public ResolvedSettings with(List<Mask> own) {
        return new ResolvedSettings(
                SCHEMA, engine, model, ei, noise, denoise, defects, sharpen, optics, crop, enlarge, own, noiseFrom);
    }

    /** Everything that was chosen. */
    private record Asked(
            String model,
            DenoiseSettings denoise,
            SharpenSettings sharpen,
            OpticsSettings optics,
            CropSettings crop,
            List<Mask> masks,
            EnlargeSettings enlarge) {}

    /**
     * Equal for settings that ask for the same. What was read of the noise does not count: the law of a camera settles a little with
     * every frame of it that is read.
     *
     * @param grain whether the grain kept counts, which an evened run decides by all its frames
     * @param enlarging whether enlarging counts, which every run decides anew
     */
    public String asked(boolean grain, boolean enlarging) {
        return JSON.writeValueAsString(new Asked(
                model,
                grain ? denoise : denoise.withGrainKept(0),
                sharpen,
                optics,
                crop,
                masks,
                enlarging ? enlarge : null));
    }

    public String toJson() {
        return JSON.writeValueAsString(this);
    }

    /** The same to be made by what is installed now. */
    public ResolvedSettings madeNow() {
        return new ResolvedSettings(
                SCHEMA, ENGINE, model, ei, noise, denoise, defects, sharpen, optics, crop, enlarge, masks, noiseFrom);
    }

    /**
     * @throws UnreadableSettingsException in plain words when they cannot be read, or hold what this version does not know: made from
     *     less than all of them a return would not be the same again
     */
    public static ResolvedSettings ofJson(String json) {
        try {
            JsonNode told = JSON.readTree(json);
            if (!told.isObject()) {
                throw new UnreadableSettingsException(UNREADABLE, null);
            }
            if (told.path("schema").asInt(0) > SCHEMA || !FIELDS.containsAll(told.propertyNames())) {
                throw new UnreadableSettingsException(
                        "These settings were made by a later version of Rain Sieve. Install that one, or a later one.",
                        null);
            }
            return JSON.treeToValue(told, ResolvedSettings.class);
        } catch (JacksonException e) {
            throw new UnreadableSettingsException(UNREADABLE, e);
        }
    }
}
