package org.rainsieve.sharpen;

import java.util.List;
import org.rainsieve.network.ModelFiles;

/** The trained models that sharpen, oldest first; none is ever taken away. */
final class SharpenModels {
    static final List<String> RELEASED = List.of("sharpen-1");

    private SharpenModels() {}

    static String newest() {
        return hash(RELEASED.get(RELEASED.size() - 1));
    }

    private static String hash(String model) {
        return ModelFiles.hash(List.of(model));
    }

    /** @throws IllegalArgumentException in plain words when no model that ships has that hash */
    static String named(String hash) {
        return ModelFiles.named(hash, RELEASED, SharpenModels::hash, "choose to sharpen by plain rules");
    }
}
