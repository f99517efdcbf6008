package org.rainsieve.network;

import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** The trained models of one step that are one network each, oldest first; none is ever taken away. */
public final class ReleasedModels {
    private final List<String> names;
    private final String instead;
    private final Map<String, Network> loaded = new ConcurrentHashMap<>();

    /**
     * @param names of their files
     * @param instead what can be chosen where one is missing or broken, after "choose"
     */
    public ReleasedModels(List<String> names, String instead) {
        this.names = names;
        this.instead = instead;
    }

    /** @return SHA-256 of the newest */
    public String newest() {
        return hash(names.get(names.size() - 1));
    }

    private static String hash(String name) {
        return ModelFiles.hash(List.of(name));
    }

    /** @throws IllegalArgumentException in plain words when no model that ships has that hash */
    public String named(String hash) {
        return ModelFiles.named(hash, names, ReleasedModels::hash, "choose " + instead);
    }

    /**
     * The network of a model, loaded once.
     *
     * @throws IllegalArgumentException as {@link #named}
     * @throws IllegalStateException in plain words when its file is broken
     */
    public Network network(String hash) {
        return loaded.computeIfAbsent(named(hash), name -> Network.load(name, "Learned", instead));
    }
}
