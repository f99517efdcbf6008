package org.rainsieve.web.bench;

import java.time.Duration;
import java.time.LocalDateTime;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.InForce;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Component;

/**
 * What a frame can be compared with on the bench: other methods, versions that were returned, frames of its burst, pictures of
 * the same name rendered elsewhere, of whatever size. Each is shown through the frame's own geometry, so that the same spot lies at
 * the same place.
 */
@Component
@ConditionalOnWebApplication
class Partners {
    /** Frames of one camera that follow each other within this belong to one burst. */
    private static final Duration APART = Duration.ofSeconds(1);

    private final ShootService shoots;
    private final BookService book;
    private final Returns returns;
    private final Cards cards;

    Partners(ShootService shoots, BookService book, Returns returns, Cards cards) {
        this.shoots = shoots;
        this.book = book;
        this.returns = returns;
        this.cards = cards;
    }

    /** @param value as it is asked for */
    public record Choice(String value, String words) {}

    List<Choice> choices(FrameForWork frame, List<FrameForWork> burst) {
        List<Choice> choices = new ArrayList<>();
        choices.add(new Choice("", "plain rendering"));
        if (!new InForce(book)
                .masks(frame.camera(), frame.ei(), ShootService.steps(frame.steps()))
                .isEmpty()) {
            choices.add(new Choice("masks", "without masks"));
        }
        choices.add(new Choice("saved", "as applied last"));
        Methods.names().stream()
                .filter(method -> Methods.suits(method, book.pattern(frame.camera())))
                .forEach(method -> choices.add(new Choice("method:" + method, method)));
        returns.versionsOf(frame.id())
                .forEach(row -> choices.add(new Choice("version:" + row.id(), "version " + row.version())));
        for (FrameForWork other : burst) {
            choices.add(new Choice("frame:" + other.id(), other.name()));
        }
        String stem = stem(frame.name());
        shoots.readyFrames(frame.shootId()).stream()
                .filter(other -> other.id() != frame.id() && stem(other.name()).equals(stem))
                .forEach(
                        other -> choices.add(new Choice("frame:" + other.id(), other.name() + ", rendered elsewhere")));
        return choices;
    }

    private static String stem(String name) {
        int dot = name.lastIndexOf('.');
        return dot < 0 ? name : name.substring(0, dot);
    }

    private static boolean sameSize(FrameForWork one, FrameForWork other) {
        return Objects.equals(one.width(), other.width()) && Objects.equals(one.height(), other.height());
    }

    /** @param shown how the frame itself is shown */
    Question.Subject of(FrameForWork frame, String partner, ResolvedSettings shown) {
        if (partner.equals("masks")) {
            return subject(frame, shown.with(List.of()));
        }
        if (partner.equals("saved")) {
            return subject(frame, placed(cards.inForce(frame), shown));
        }
        String[] parts = partner.split(":", 2);
        switch (parts[0]) {
            case "method" -> {
                DenoiseSettings now = shown.denoise();
                DenoiseSettings other = new DenoiseSettings(
                        true, parts[1], now.grainKeptPercent(), now.colourNoiseKeptPercent(), now.detailPercent());
                return subject(frame, cards.with(frame, shown, other, shown.sharpen()));
            }
            case "version" -> {
                String settings = returns.item(number(parts)).settings();
                return subject(frame, placed(ResolvedSettings.ofJson(settings), shown));
            }
            case "frame" -> {
                FrameForWork other = shoots.frame(number(parts));
                ResolvedSettings settings = cards.inForce(other);
                if (stem(other.name()).equals(stem(frame.name()))) {
                    // What was rendered elsewhere is looked at as it is.
                    DenoiseSettings off =
                            new DenoiseSettings(false, settings.denoise().method(), 100, 100);
                    settings = cards.with(other, settings, off, SharpenSettings.OFF);
                }
                String placed = placed(settings, shown).toJson();
                return sameSize(frame, other)
                        ? new Question.Subject(other.id(), placed)
                        : new Question.Subject(other.id(), placed, frame.width(), frame.height());
            }
            default -> throw new NotFoundException("There is no such picture to compare with.");
        }
    }

    private static Question.Subject subject(FrameForWork frame, ResolvedSettings settings) {
        return new Question.Subject(frame.id(), settings.toJson());
    }

    private static long number(String[] parts) {
        try {
            return Long.parseLong(parts[1]);
        } catch (NumberFormatException | ArrayIndexOutOfBoundsException e) {
            throw new NotFoundException("There is no such picture to compare with.");
        }
    }

    /** Through the geometry that the frame is shown with. */
    private static ResolvedSettings placed(ResolvedSettings settings, ResolvedSettings shown) {
        return settings.with(settings.sharpen(), shown.optics(), shown.crop(), shown.enlarge());
    }

    /** The other frames of its burst, in their order, as far as a run would take them. */
    List<FrameForWork> burst(FrameForWork frame) {
        return burst(frame, shoots.readyFrames(frame.shootId())).stream()
                .filter(f -> f.id() != frame.id())
                .toList();
    }

    /** All frames of its burst in their order, itself and those that were dropped among them. */
    List<FrameForWork> wholeBurst(FrameForWork frame) {
        List<FrameForWork> burst = burst(frame, shoots.readFrames(frame.shootId()));
        return burst.isEmpty() ? List.of(frame) : burst;
    }

    private static List<FrameForWork> burst(FrameForWork frame, List<FrameForWork> frames) {
        List<FrameForWork> burst = new ArrayList<>();
        boolean reached = false;
        FrameForWork last = null;
        List<FrameForWork> all = frames.stream()
                .filter(f -> f.takenAt() != null && Objects.equals(f.camera(), frame.camera()) && sameSize(f, frame))
                .sorted(Comparator.comparing(FrameForWork::takenAt))
                .toList();
        for (FrameForWork next : all) {
            if (last != null && apart(last, next)) {
                if (reached) {
                    break;
                }
                burst.clear();
            }
            burst.add(next);
            reached |= next.id() == frame.id();
            last = next;
        }
        return reached ? burst : List.of();
    }

    private static boolean apart(FrameForWork one, FrameForWork next) {
        try {
            return Duration.between(time(one), time(next)).compareTo(APART) > 0;
        } catch (java.time.format.DateTimeParseException e) {
            return true;
        }
    }

    private static LocalDateTime time(FrameForWork frame) {
        // One camera's clock: its offset from universal time is the same within a burst.
        return LocalDateTime.parse(frame.takenAt().replace(' ', 'T').replaceFirst("(Z|[+-]\\d\\d:?\\d\\d)$", ""));
    }
}
