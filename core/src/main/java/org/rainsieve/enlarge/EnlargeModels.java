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
        return RELEASED.stream()
                .filter(model -> hash(model).equals(hash))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException(
                        "The model that this enlargement was made with is not part of this installation. Install the"
                                + " version of Rain Sieve that made it, or choose natural edges."));
    }
}
