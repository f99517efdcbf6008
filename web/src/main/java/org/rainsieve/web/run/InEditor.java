package org.rainsieve.web.run;

import java.util.ArrayList;
import java.util.List;

/** What to leave off in the editor, told from the steps that really worked. */
final class InEditor {
    private static final List<String> WORDS = List.of("noise reduction", "sharpening", "lens correction");

    private InEditor() {}

    /** @param steps for Denoise, Sharpen and Optics {@code on}, {@code off} or a number of frames, as {@link RunService#stepsOf} */
    static String words(List<String> steps) {
        List<String> done = new ArrayList<>();
        List<String> open = new ArrayList<>();
        List<String> mixed = new ArrayList<>();
        for (int i = 0; i < WORDS.size(); i++) {
            switch (steps.get(i)) {
                case "on" -> done.add(WORDS.get(i));
                case "off" -> open.add(WORDS.get(i));
                default -> mixed.add(WORDS.get(i) + " for " + steps.get(i));
            }
        }
        StringBuilder words = new StringBuilder("In your editor: ");
        if (!done.isEmpty()) {
            words.append("leave ").append(listed(done)).append(" off, dealt with here");
        }
        if (!mixed.isEmpty()) {
            words.append(done.isEmpty() ? "" : "; ")
                    .append("leave off ")
                    .append(listed(mixed))
                    .append(" alone, where it was dealt with here");
        }
        if (!open.isEmpty()) {
            words.append(done.isEmpty() && mixed.isEmpty() ? "" : "; ")
                    .append(listed(open))
                    .append(open.size() == 1 ? " was" : " were")
                    .append(" left to you: off here");
        }
        return words.append(". The files say so.").toString();
    }

    private static String listed(List<String> words) {
        return words.size() == 1
                ? words.get(0)
                : String.join(", ", words.subList(0, words.size() - 1)) + " and " + words.get(words.size() - 1);
    }
}
