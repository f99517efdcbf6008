package org.rainsieve.pipeline;

import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.noise.DefectMap;
import org.rainsieve.noise.NoiseModel;
import tools.jackson.databind.json.JsonMapper;

/**
 * Everything a return is made from besides the original's pixels; embedded in the return, so that it can be made again
 * from itself. Values, never references.
 *
 * @param ei exposure index at which the amounts were looked up
 * @param defects hash of the body's defect map; empty without one
 * @param model SHA-256 of the trained model that the denoise method rests on; empty for methods without one
 */
public record ResolvedSettings(
        int schema, String engine, String model, double ei, NoiseModel noise, DenoiseSettings denoise, String defects) {
    public static final int SCHEMA = 2;
    public static final String ENGINE = "Rain Sieve 0.1.0";

    private static final JsonMapper JSON = JsonMapper.builder().build();

    public ResolvedSettings {
        model = model == null ? "" : model;
        defects = defects == null ? "" : defects;
    }

    public static ResolvedSettings of(double ei, NoiseModel noise, DenoiseSettings denoise) {
        return of(ei, noise, denoise, "", DefectMap.EMPTY);
    }

    /** @param modelName the model that the camera's page is bound to; empty for the newest */
    public static ResolvedSettings of(
            double ei, NoiseModel noise, DenoiseSettings denoise, String modelName, DefectMap defects) {
        String model = denoise.on() ? Methods.modelHash(denoise.method(), modelName) : "";
        return new ResolvedSettings(SCHEMA, ENGINE, model, ei, noise, denoise, defects.hash());
    }

    public String toJson() {
        return JSON.writeValueAsString(this);
    }

    public static ResolvedSettings ofJson(String json) {
        return JSON.readValue(json, ResolvedSettings.class);
    }
}
