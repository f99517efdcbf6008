package org.rainsieve.denoise;

import java.util.List;
import java.util.Locale;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Picture;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;

/** The denoise methods that can be chosen. */
public final class Methods {
    public static final String QUICK = "Quick";
    public static final String LEARNED = "Learned";
    public static final String PATCH = "Patch";
    private static final DenoiseMethod QUICK_METHOD = new Quick();
    private static final DenoiseMethod PATCH_METHOD = new Patch();

    private Methods() {}

    public static List<String> names() {
        return List.of(QUICK, PATCH, LEARNED);
    }

    /** @throws IllegalArgumentException naming a method that does not exist, or not yet, or lacks its model file */
    public static void check(String name) {
        if (LEARNED.equals(name) && !LearnedModels.allPresent()) {
            throw new IllegalArgumentException(
                    "The model file of the method Learned is missing. Install Rain Sieve again, or choose " + PATCH
                            + ".");
        }
        if (name == null || !names().contains(name)) {
            throw new IllegalArgumentException(
                    "There is no method called " + name + ". Choose " + String.join(", ", names()) + ".");
        }
    }

    /**
     * @throws IllegalArgumentException as {@link #check}
     * @throws IllegalStateException in plain words when a model file is broken
     */
    public static DenoiseMethod of(String name) {
        return of(name, "", CfaPattern.RGGB);
    }

    /**
     * The same with one of the models that were released.
     *
     * @param modelHash SHA-256 of the model file; empty for the newest for that pattern
     */
    public static DenoiseMethod of(String name, String modelHash, CfaPattern pattern) {
        check(name);
        if (!LEARNED.equals(name)) {
            return PATCH.equals(name) ? PATCH_METHOD : QUICK_METHOD;
        }
        return Learned.instance(modelHash.isEmpty() ? LearnedModels.newest(pattern) : LearnedModels.named(modelHash));
    }

    /**
     * The same for a picture in full colour.
     *
     * @param law of its noise, pixel by pixel
     */
    public static PictureMethod of(String name, String modelHash, Picture picture, NoiseModel law) {
        DenoiseMethod method = of(name, modelHash, CfaPattern.NONE);
        if (method instanceof Learned network) {
            return new PictureLearned(picture, law, network.ofPictures());
        }
        return method == PATCH_METHOD ? new PicturePatch(picture, law) : new PictureQuick(picture, law);
    }

    /** Names of the trained models for mosaics of that pattern, newest last. */
    public static List<String> models(CfaPattern pattern) {
        return LearnedModels.RELEASED.stream()
                .filter(name -> LearnedModels.suits(name, pattern))
                .toList();
    }

    /** What a model does better than the one before it, in a few words; empty where nothing is to be said. */
    public static String mends(String model) {
        return switch (model) {
            case "bayer-7" ->
                "dark places of sensors that cut noise at black, and frames whose noise was read a little wrong";
            case "six-2" -> "deep colours, dark places, much noise, and frames whose noise was read a little wrong";
            case "picture-2" -> "deep colours, dark places and much noise of rendered files";
            default -> "";
        };
    }

    public static String newestModel(CfaPattern pattern) {
        return LearnedModels.newest(pattern);
    }

    /** Whether a method can work on mosaics of that pattern, or on pictures in full colour. */
    public static boolean suits(String name, CfaPattern pattern) {
        return LEARNED.equals(name) ? !models(pattern).isEmpty() : names().contains(name);
    }

    /** Noise that trained methods have been shown, with some room at either end: a, and the largest b. */
    private static final double LEAST_LEARNED_A = 1e-5;

    private static final double MOST_LEARNED_A = 0.06;
    private static final double MOST_LEARNED_B = 8e-3;

    /**
     * The method that works on a mosaic of that noise: the one asked for, or {@link #PATCH} where a trained one never saw the like.
     */
    public static String within(String method, NoiseModel noise) {
        double a = noise.a().get(1);
        boolean seen = a >= LEAST_LEARNED_A && a <= MOST_LEARNED_A && noise.b().get(1) <= MOST_LEARNED_B;
        return LEARNED.equals(method) && !seen ? PATCH : method;
    }

    /** The best method there is for mosaics of that pattern. */
    public static String best(CfaPattern pattern) {
        return suits(LEARNED, pattern) && LearnedModels.allPresent() ? LEARNED : QUICK;
    }

    /** @throws RefusedException in plain words when the method cannot be used on mosaics of that pattern */
    public static void checkUse(String name, String modelHash, CfaPattern pattern) throws RefusedException {
        if (!suits(name, pattern)) {
            throw new RefusedException("The method " + name + " has not been trained for such files. Choose " + PATCH
                    + " or " + QUICK + " for them.");
        }
        try {
            of(name, modelHash, pattern);
        } catch (IllegalArgumentException | IllegalStateException e) {
            throw new RefusedException(e.getMessage(), e);
        }
    }

    /**
     * SHA-256 of the trained model that a method rests on; empty for methods without one.
     *
     * @param model name of the model; the newest for the pattern where it is empty or for another
     */
    public static String modelHash(String name, String model, CfaPattern pattern) {
        if (!LEARNED.equals(name)) {
            return "";
        }
        boolean fits = !model.isEmpty() && LearnedModels.suits(model, pattern);
        return LearnedModels.hash(fits ? model : LearnedModels.newest(pattern));
    }

    /** The method's own spelling for a name typed in any case; the name itself if there is none. */
    public static String spelled(String typed) {
        String lower = typed.toLowerCase(Locale.ROOT);
        for (String name : names()) {
            if (name.toLowerCase(Locale.ROOT).equals(lower)) {
                return name;
            }
        }
        return typed;
    }
}
