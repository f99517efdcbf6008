package org.rainsieve.denoise;

import java.util.List;
import java.util.Locale;

/** The denoise methods that can be chosen. */
public final class Methods {
    public static final String QUICK = "Quick";
    private static final List<String> PLANNED = List.of("Patch", "Learned");
    private static final DenoiseMethod QUICK_METHOD = new Quick();

    private Methods() {}

    public static List<String> names() {
        return List.of(QUICK);
    }

    /** @throws IllegalArgumentException naming a method that does not exist, or not yet */
    public static DenoiseMethod of(String name) {
        if (QUICK.equals(name)) {
            return QUICK_METHOD;
        }
        throw new IllegalArgumentException(
                PLANNED.contains(name)
                        ? "The method " + name + " does not exist yet. Choose " + QUICK + "."
                        : "There is no method called " + name + ". Choose " + QUICK + ".");
    }

    /** The method's own spelling for a name typed in any case; the name itself if there is none. */
    public static String spelled(String typed) {
        String lower = typed.toLowerCase(Locale.ROOT);
        for (String name : List.of(QUICK, PLANNED.get(0), PLANNED.get(1))) {
            if (name.toLowerCase(Locale.ROOT).equals(lower)) {
                return name;
            }
        }
        return typed;
    }
}
