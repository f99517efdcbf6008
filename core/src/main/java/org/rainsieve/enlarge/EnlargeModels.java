package org.rainsieve.enlarge;

import java.util.List;
import org.rainsieve.network.ModelFiles;

/** The trained models that enlarge, oldest first; none is ever taken away. */
final class EnlargeModels {
    static final List<String> RELEASED = List.of("enlarge-1");

    private EnlargeModels() {}

    static String newest() {
        return hash(RELEASED.get(RELEASED.size() - 1));
    }

    private static String hash(String model) {
        return ModelFiles.hash(List.of(model));
    }

    /** @throws IllegalArgumentException in plain words when no model that ships has that hash */
    static String named(String hash) {
        return ModelFiles.named(hash, RELEASED, EnlargeModels::hash, "choose natural edges");
    }
}
