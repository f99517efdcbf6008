package org.rainsieve.web.run;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.web.shoot.ShootService;

/**
 * What a finished run tells in the morning.
 *
 * @param summary how many came back, in what time, how large
 * @param folder where the first of them lies; empty where none does
 * @param first its first return, to look through all from; null without one
 * @param next what is to be done next
 * @param samples a few returns where they are sharpest
 */
public record MorningPage(String summary, String folder, Long first, String next, List<Sample> samples) {
    private static final int MOST = 6;
    private static final int SAMPLE_PX = 130;

    /** A small part of a return, pixel for pixel. */
    public record Sample(long item, String name, int x, int y, int size) {}

    static MorningPage of(RunRow run, List<ItemRow> items, ShootService shoots) {
        List<ItemRow> returned = items.stream()
                .filter(item -> item.state().equals("returned") && item.form().linear() && item.settings() != null)
                .toList();
        List<Sample> samples = new ArrayList<>();
        // Spread over the run, not its first few.
        int step = Math.max(1, returned.size() / MOST);
        for (int i = 0; i < returned.size() && samples.size() < MOST; i += step) {
            sample(returned.get(i), shoots).ifPresent(samples::add);
        }
        Optional<ItemRow> any = items.stream()
                .filter(item -> item.state().equals("returned") && item.finalPath() != null)
                .findFirst();
        double seconds = run.seconds() == null ? 0 : run.seconds();
        return new MorningPage(
                String.format(
                        Locale.ROOT,
                        "%,d %s returned%s%s, %s of work, %,.0f MB",
                        run.returned(),
                        run.returned() == 1 ? "file" : "files",
                        run.failed() == 0 ? "" : String.format(Locale.ROOT, ", %,d failed", run.failed()),
                        run.discarded() == 0 ? "" : String.format(Locale.ROOT, ", %,d discarded", run.discarded()),
                        duration(seconds),
                        run.returnsBytes() / 1e6),
                any.map(item -> Path.of(item.finalPath()).getParent().toString())
                        .orElse(""),
                any.map(ItemRow::id).orElse(null),
                run.failed() > 0
                        ? "Look at what failed, below; then look through the returns."
                        : "Look through the returns: one key each for good, milder, its own settings.",
                samples);
    }

    private static Optional<Sample> sample(ItemRow item, ShootService shoots) {
        ResolvedSettings settings = ResolvedSettings.ofJson(item.settings());
        if (Steps.cropRendered(settings.crop(), settings.enlarge())
                || settings.enlarge().on()) {
            return Optional.empty();
        }
        int size = Math.min(SAMPLE_PX, Math.min(item.width(), item.height()));
        FocusMap.Place place = shoots.sharpest(item.frameId(), item.width(), item.height())
                .orElse(new FocusMap.Place(item.width() / 2, item.height() / 2));
        return Optional.of(new Sample(
                item.id(),
                item.name(),
                inside(place.x() - size / 2, item.width() - size),
                inside(place.y() - size / 2, item.height() - size),
                size));
    }

    private static int inside(int at, int most) {
        return Math.max(0, Math.min(most, at));
    }

    private static String duration(double seconds) {
        if (seconds < 90) {
            return String.format(Locale.ROOT, "%.0f s", Math.max(1, seconds));
        }
        return seconds < 5400
                ? String.format(Locale.ROOT, "%.0f min", seconds / 60)
                : String.format(Locale.ROOT, "%.1f h", seconds / 3600);
    }
}
