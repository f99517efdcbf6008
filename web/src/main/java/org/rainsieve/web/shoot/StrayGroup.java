package org.rainsieve.web.shoot;

import java.util.ArrayList;
import java.util.Comparator;
import java.util.DoubleSummaryStatistics;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.regex.MatchResult;
import java.util.regex.Pattern;
import java.util.stream.Collectors;

/**
 * Frames that stand out for one reason, to be decided on together.
 *
 * @param reason in words; numbers that differ from frame to frame stand as a range
 * @param denoisedBefore whether it is that noise was taken out of them before
 */
public record StrayGroup(String reason, List<FrameOnSheet> frames, boolean denoisedBefore) {
    private static final Pattern NUMBER = Pattern.compile("\\d[\\d,]*(?:\\.\\d+)?");

    /** The largest groups first. */
    static List<StrayGroup> of(List<FrameOnSheet> strays) {
        Map<String, List<FrameOnSheet>> byKind = new LinkedHashMap<>();
        for (FrameOnSheet on : strays) {
            byKind.computeIfAbsent(NUMBER.matcher(on.stray()).replaceAll("#"), kind -> new ArrayList<>())
                    .add(on);
        }
        return byKind.values().stream()
                .map(frames -> new StrayGroup(
                        reason(frames.stream().map(FrameOnSheet::stray).toList()),
                        frames,
                        frames.stream()
                                .allMatch(on ->
                                        on.reading() != null && on.reading().denoisedBefore())))
                .sorted(Comparator.comparingInt((StrayGroup group) -> -group.frames.size()))
                .toList();
    }

    /** Sentences that differ only in their numbers, as one. */
    static String reason(List<String> sentences) {
        List<List<String>> numbers = sentences.stream()
                .map(sentence -> NUMBER.matcher(sentence)
                        .results()
                        .map(MatchResult::group)
                        .toList())
                .toList();
        int[] at = {0};
        return NUMBER.matcher(sentences.get(0)).replaceAll(match -> {
            int place = at[0]++;
            List<String> values = numbers.stream()
                    .map(list -> list.get(place))
                    .sorted(Comparator.comparingDouble(value -> Double.parseDouble(value.replace(",", ""))))
                    .toList();
            String least = values.get(0);
            String most = values.get(values.size() - 1);
            return least.equals(most) ? least : least + " to " + most;
        });
    }

    /** What their brightness proposes to push them by, in words; empty where that is not their reason, or leaves no room. */
    public String push() {
        DoubleSummaryStatistics stops = frames.stream()
                .filter(on -> on.proposedPush() != null)
                .mapToDouble(FrameOnSheet::proposedPush)
                .summaryStatistics();
        if (stops.getCount() < frames.size()) {
            return "";
        }
        return stops.getMin() == stops.getMax()
                ? String.format(Locale.ROOT, "%.1f stops", stops.getMin())
                : String.format(Locale.ROOT, "%.1f to %.1f stops", stops.getMin(), stops.getMax());
    }

    /** As a form sends them. */
    public String ids() {
        return frames.stream().map(on -> Long.toString(on.row().id())).collect(Collectors.joining(","));
    }
}
