package org.rainsieve.denoise;

import java.util.List;
import java.util.Locale;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;

/** The denoise methods that can be chosen. */
public final class Methods {
    public static final String QUICK = "Quick";
    public static final String LEARNED = "Learned";
    private static final List<String> PLANNED = List.of("Patch");
    private static final DenoiseMethod QUICK_METHOD = new Quick();

    private Methods() {}

    public static List<String> names() {
        return List.of(QUICK, LEARNED);
    }

    /** @throws IllegalArgumentException naming a method that does not exist, or not yet, or lacks its model file */
    public static void check(String name) {
        if (LEARNED.equals(name) && !Learned.hasModel()) {
            throw new IllegalArgumentException(
                    "The model file of the method Learned is missing. Install Rain Sieve again, or choose " + QUICK
                            + ".");
        }
        if (!names().contains(name)) {
            throw new IllegalArgumentException(
                    PLANNED.contains(name)
                            ? "The method " + name + " does not exist yet. Choose " + String.join(" or ", names()) + "."
                            : "There is no method called " + name + ". Choose " + String.join(" or ", names()) + ".");
        }
    }

    /**
     * @throws IllegalArgumentException as {@link #check}
     * @throws IllegalStateException in plain words when a model file is broken
     */
    public static DenoiseMethod of(String name) {
        check(name);
        return LEARNED.equals(name) ? Learned.instance() : QUICK_METHOD;
    }

    /** Whether a method can work on mosaics of that pattern. */
    public static boolean suits(String name, CfaPattern pattern) {
        return !LEARNED.equals(name) || pattern.isBayer();
    }

    /** The best method there is for mosaics of that pattern. */
    public static String best(CfaPattern pattern) {
        return suits(LEARNED, pattern) && Learned.hasModel() ? LEARNED : QUICK;
    }

    /** @throws RefusedException in plain words when the method cannot be used on mosaics of that pattern */
    public static void checkUse(String name, CfaPattern pattern) throws RefusedException {
        if (!suits(name, pattern)) {
            throw new RefusedException(Learned.NOT_FOR_SIX);
        }
        try {
            of(name);
        } catch (IllegalArgumentException | IllegalStateException e) {
            throw new RefusedException(e.getMessage(), e);
        }
    }

    /** SHA-256 of the trained model that a method rests on; empty for methods without one. */
    public static String modelHash(String name) {
        return LEARNED.equals(name) ? Learned.modelHash() : "";
    }

    /** The method's own spelling for a name typed in any case; the name itself if there is none. */
    public static String spelled(String typed) {
        String lower = typed.toLowerCase(Locale.ROOT);
        for (String name : List.of(QUICK, LEARNED, PLANNED.get(0))) {
            if (name.toLowerCase(Locale.ROOT).equals(lower)) {
                return name;
            }
        }
        return typed;
    }
}
