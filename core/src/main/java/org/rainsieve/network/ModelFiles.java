package org.rainsieve.network;

import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.security.MessageDigest;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.function.UnaryOperator;
import org.rainsieve.file.Sha256;

/** The files of the trained networks that ship, by their names. */
public final class ModelFiles {
    /** Taken once: a run asks for them for every frame. */
    private static final Map<List<String>, String> HASHES = new ConcurrentHashMap<>();

    private ModelFiles() {}

    public static boolean present(String name) {
        return ModelFiles.class.getResource(path(name)) != null;
    }

    /**
     * @return in ONNX format
     * @throws IllegalArgumentException naming a file that does not ship
     */
    static byte[] read(String name) {
        try (InputStream in = ModelFiles.class.getResourceAsStream(path(name))) {
            if (in == null) {
                throw new IllegalArgumentException("There is no model called " + name);
            }
            return in.readAllBytes();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** SHA-256 of a model's files, one after another. */
    public static String hash(List<String> names) {
        return HASHES.computeIfAbsent(List.copyOf(names), wanted -> {
            MessageDigest digest = Sha256.digest();
            wanted.stream().map(ModelFiles::read).forEach(digest::update);
            return Sha256.hex(digest);
        });
    }

    /**
     * The model among some that has a hash.
     *
     * @param hashOf each of them
     * @param instead what can be done where it is missing, after "or"
     * @throws IllegalArgumentException in plain words when none has it
     */
    public static String named(String hash, List<String> models, UnaryOperator<String> hashOf, String instead) {
        return models.stream()
                .filter(model -> hashOf.apply(model).equals(hash))
                .findFirst()
                .orElseThrow(() -> new IllegalArgumentException(
                        "The model that these settings were made with is not part of this installation. Install the"
                                + " version of Rain Sieve that made them, or " + instead + "."));
    }

    private static String path(String name) {
        return "/org/rainsieve/network/" + name + ".onnx";
    }
}
