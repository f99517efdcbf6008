package org.rainsieve.denoise;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.network.ModelFiles;

/** The trained models that denoise, from the first that was released: which there are, and what each is for. */
final class LearnedModels {
    /** Oldest first; none is ever taken away, so that a camera's next set matches its last. */
    static final List<String> RELEASED = List.of(
            "bayer-1",
            "bayer-2",
            "bayer-3",
            "bayer-4",
            "bayer-5",
            "bayer-6",
            "bayer-7",
            "six-1",
            "six-2",
            "picture-1",
            "picture-2");

    /** Models of two networks: the first, for little noise, works up to this a of green, the second beyond. */
    private static final Map<String, Pair> PAIRS = Map.of(
            "bayer-5", new Pair("bayer-5", 0.005, "bayer-4"),
            "bayer-6", new Pair("bayer-6", 0.005, "bayer-6-much"),
            "bayer-7", new Pair("bayer-7", 0.005, "bayer-7-much"));

    /** Which of two networks takes over at which a of green. */
    record Pair(String little, double upToA, String much) {}

    /** What a model is for; its name begins with it. */
    enum Form {
        BAYER(CfaPattern.RGGB),
        SIX(CfaPattern.SIX),
        PICTURE(CfaPattern.NONE);

        final CfaPattern pattern;

        Form(CfaPattern pattern) {
            this.pattern = pattern;
        }

        static Form of(String model) {
            return valueOf(model.substring(0, model.indexOf('-')).toUpperCase(Locale.ROOT));
        }

        boolean suits(CfaPattern other) {
            return switch (this) {
                case BAYER -> other.isBayer();
                case SIX -> other.isSixBySix();
                case PICTURE -> other.equals(pattern);
            };
        }
    }

    private LearnedModels() {}

    /** Looked up once, for it is asked for every frame of a shoot. */
    static boolean allPresent() {
        return Presence.ALL;
    }

    private static final class Presence {
        static final boolean ALL =
                RELEASED.stream().flatMap(model -> files(model).stream()).allMatch(ModelFiles::present);
    }

    /** Of one network twice where the model has but one. */
    static Pair networks(String model) {
        return PAIRS.getOrDefault(model, new Pair(model, 0, model));
    }

    private static List<String> files(String model) {
        Pair pair = PAIRS.get(model);
        return pair == null ? List.of(model) : List.of(pair.little, pair.much);
    }

    /** Whether a model is for mosaics of that pattern, or for pictures without one. */
    static boolean suits(String model, CfaPattern pattern) {
        return Form.of(model).suits(pattern);
    }

    /** The model that new pages of cameras with that pattern are bound to. */
    static String newest(CfaPattern pattern) {
        return RELEASED.stream()
                .filter(name -> suits(name, pattern))
                .reduce((older, newer) -> newer)
                .orElse(RELEASED.get(RELEASED.size() - 1));
    }

    static String hash(String model) {
        return ModelFiles.hash(files(model));
    }

    /** @throws IllegalArgumentException in plain words when no model that ships has that hash */
    static String named(String hash) {
        return ModelFiles.named(hash, RELEASED, LearnedModels::hash, "choose another model in the camera book");
    }
}
