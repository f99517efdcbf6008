package org.rainsieve.web.shoot;

import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.OptionalDouble;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.ProposedPush;
import org.rainsieve.book.Strays;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.reading.Reading;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.springframework.stereotype.Service;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.json.JsonMapper;

/** The frames of a shoot with what the camera book makes of each: amounts in force, and strays with their reason. */
@Service
public class ContactSheet {
    private static final JsonMapper JSON = JsonMapper.builder()
            .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES) // what older versions did not write
            .build();

    private static final int MOST_KEPT = 20_000;

    /** A reading as it is stored and as it was understood: understanding it takes longer than comparing texts. */
    private record Understood(String stored, Reading reading) {}

    private final Map<Long, Understood> understood = new ConcurrentHashMap<>();
    private final ShootService shoots;
    private final BookService book;

    private final KnownLenses lenses;

    ContactSheet(ShootService shoots, BookService book, KnownLenses lenses) {
        this.lenses = lenses;
        this.shoots = shoots;
        this.book = book;
    }

    public List<FrameOnSheet> frames(long shootId) {
        InForce inForce = new InForce(book);
        List<FrameRow> rows = shoots.frames(shootId);
        Map<Long, Reading> readings = new HashMap<>();
        Map<String, List<Reading>> groups = new HashMap<>();
        for (FrameRow row : rows) {
            if ("ready".equals(row.state()) && row.reading() != null) {
                Reading reading = reading(row);
                readings.put(row.id(), reading);
                groups.computeIfAbsent(group(row), key -> new ArrayList<>()).add(reading);
            }
        }
        Map<String, Strays.Group> middles = new HashMap<>();
        groups.forEach((key, list) -> middles.put(key, Strays.Group.of(list)));
        Map<String, Boolean> missing = new HashMap<>();
        return rows.stream()
                .map(row -> onSheet(
                        row, readings.get(row.id()), middles.get(group(row)), lensReason(row, missing), inForce))
                .toList();
    }

    private Reading reading(FrameRow row) {
        Understood before = understood.get(row.id());
        if (before != null && before.stored.equals(row.reading())) {
            return before.reading;
        }
        if (understood.size() > MOST_KEPT) {
            understood.clear();
        }
        Reading reading = JSON.readValue(row.reading(), Reading.class);
        understood.put(row.id(), new Understood(row.reading(), reading));
        return reading;
    }

    /** A lens that Optics cannot work on; each is looked up once. */
    private String lensReason(FrameRow row, Map<String, Boolean> missing) {
        if (!"ready".equals(row.state())) {
            return "";
        }
        String reported = row.lens() == null ? "" : row.lens();
        boolean stray = missing.computeIfAbsent(
                row.camera() + "\n" + reported + "\n" + row.focalLengthMm(),
                key -> lenses.wantedAndMissing(row.camera(), reported, row.focalLengthMm()));
        return !stray
                ? ""
                : reported.isEmpty()
                        ? "lens not matched: the camera reports none, and Optics is on"
                        : "lens not matched: " + reported + " is not in the database, and Optics is on";
    }

    private static Double proposed(Reading reading, Strays.Group group) {
        OptionalDouble stops = ProposedPush.of(reading, group);
        return stops.isPresent() ? stops.getAsDouble() : null;
    }

    private static String group(FrameRow row) {
        return row.camera() + "\n" + row.iso();
    }

    private static FrameOnSheet onSheet(
            FrameRow row, Reading reading, Strays.Group group, String lensReason, InForce inForce) {
        if (!"ready".equals(row.state())) {
            return new FrameOnSheet(row, null, "", Double.NaN, "", null, null, FrameSteps.NONE, null);
        }
        FrameSteps steps = ShootService.steps(row.steps());
        DenoiseSettings settings = inForce.settings(row.camera(), row.ei(), steps);
        SharpenSettings sharpen = inForce.sharpen(row.camera(), row.ei(), steps);
        String amounts = (steps.followsRung() ? "" : "own: ")
                + inWords(settings)
                + (sharpen.idle() ? "" : " · sharpen")
                + (steps.crop().idle() ? "" : " · crop");
        if (reading == null) {
            return new FrameOnSheet(
                    row,
                    null,
                    "",
                    Double.NaN,
                    amounts,
                    settings,
                    sharpen,
                    steps,
                    null); // read before readings were kept
        }
        SettledLaw law = inForce.law(row.camera(), row.iso());
        boolean pushed = row.push() != null && row.push() != 0;
        boolean settled = row.verdict() != null || !steps.followsRung();
        List<String> reasons = settled
                ? new ArrayList<>()
                : new ArrayList<>(
                        Strays.reasons(reading, law, inForce.offLine(row.camera(), row.iso()), group, pushed));
        String works = Methods.within(settings.method(), law.law());
        if (row.verdict() == null
                && settings.on()
                && !works.equals(settings.method())
                && !inForce.pattern(row.camera()).equals(CfaPattern.NONE)) {
            reasons.add("its noise lies beyond what " + settings.method() + " was trained with: " + works
                    + " works instead");
        }
        // Own amounts say nothing of the lens.
        if (!lensReason.isEmpty() && row.verdict() == null) {
            reasons.add(lensReason);
        }
        String stray = String.join("; ", reasons);
        return new FrameOnSheet(
                row,
                reading,
                stray,
                Strays.noiseOff(reading, law.law()),
                amounts,
                settings,
                sharpen,
                steps,
                settled || pushed ? null : proposed(reading, group));
    }

    private static String inWords(DenoiseSettings settings) {
        if (!settings.on()) {
            return "denoise off";
        }
        return settings.method() + " · grain " + Math.round(settings.grainKeptPercent()) + " %";
    }
}
