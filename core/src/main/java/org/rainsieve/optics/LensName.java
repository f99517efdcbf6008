package org.rainsieve.optics;

import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** A lens's name taken apart: words, numbers, the focal lengths in it, and a built-in or added extender. */
record LensName(List<String> parts, double[] focalMm, double extender) {
    private static final List<String> ADAPTERS = List.of("adapter", "reducer", "booster", "extender", "converter");
    private static final Pattern PART = Pattern.compile("\\d+(?:\\.\\d+)?|[\\p{L}]+");
    private static final Pattern FOCAL = Pattern.compile("(\\d+(?:\\.\\d+)?)(?:\\s*-\\s*(\\d+(?:\\.\\d+)?))?\\s*mm");
    private static final Pattern EXTENDER = Pattern.compile(
            "(?:\\+|\\bx|extender|converter)\\s*(?:x?\\s*)?(1\\.[24]|1\\.7|2(?:\\.0)?)\\s*x?|(1\\.4|2\\.0)x");

    static LensName of(String name) {
        String plain = name.toLowerCase(Locale.ROOT).replace(',', '.').replaceAll("f/?\\s*(?=\\d)", "f/");
        List<String> parts = new ArrayList<>();
        Matcher part = PART.matcher(plain);
        while (part.find()) {
            String text = part.group();
            parts.add(Character.isDigit(text.charAt(0)) ? number(text) : text);
        }
        Matcher focal = FOCAL.matcher(plain);
        double[] range = {};
        if (focal.find()) {
            double from = Double.parseDouble(focal.group(1));
            range = new double[] {from, focal.group(2) == null ? from : Double.parseDouble(focal.group(2))};
        }
        Matcher extender = EXTENDER.matcher(plain);
        double times = 1;
        if (extender.find()) {
            times = Double.parseDouble(extender.group(1) != null ? extender.group(1) : extender.group(2));
        }
        return new LensName(parts, range, times);
    }

    boolean withAdapter() {
        return parts.stream().anyMatch(ADAPTERS::contains);
    }

    /** 4.0 and 4 are the same. */
    private static String number(String text) {
        double value = Double.parseDouble(text);
        return value == Math.rint(value) ? Long.toString((long) value) : Double.toString(value);
    }

    /** 0 for nothing in common to 1 for the same; numbers count twice, and a differing extender rules out. */
    double likeness(LensName other, Set<String> leftOut) {
        if (extender != other.extender) {
            return 0;
        }
        double shared = 0;
        double all = 0;
        List<String> rest = new ArrayList<>(other.parts);
        for (String part : parts) {
            if (!leftOut.contains(part)) {
                double weight = weight(part);
                all += weight;
                if (rest.remove(part)) {
                    shared += 2 * weight;
                }
            }
        }
        for (String part : other.parts) {
            all += leftOut.contains(part) ? 0 : weight(part);
        }
        return all == 0 ? 0 : shared / all;
    }

    private static double weight(String part) {
        return Character.isDigit(part.charAt(0)) ? 2 : 1;
    }
}
