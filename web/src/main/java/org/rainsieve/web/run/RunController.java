package org.rainsieve.web.run;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.regex.Pattern;
import org.rainsieve.web.setup.LightThreads;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.MediaType;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;
import org.springframework.web.servlet.mvc.method.annotation.SseEmitter;

/** The pages Runs and Run, and the live events behind them. */
@Controller
@ConditionalOnWebApplication
class RunController {
    private static final long EVENT_MS = 500;
    private static final int ITEMS_PER_EVENT = 1000;
    private static final int AT_ONCE = 200;
    private static final Pattern TIME = Pattern.compile("\\d{4}-\\d\\d-\\d\\d \\d\\d:\\d\\d:\\d\\d(\\.\\d{1,6})?");

    private final Returns returns;
    private final RunService runs;
    private final RunStarter starter;
    private final Workers workers;
    private final ShootService shoots;
    private final ExecutorService events = LightThreads.executor("events");

    RunController(Returns returns, RunService runs, RunStarter starter, Workers workers, ShootService shoots) {
        this.returns = returns;
        this.runs = runs;
        this.starter = starter;
        this.workers = workers;
        this.shoots = shoots;
    }

    @PreDestroy
    void close() {
        events.shutdownNow();
    }

    @GetMapping("/runs")
    String list(Model model) {
        model.addAttribute("runs", runs.runs());
        return "runs";
    }

    @GetMapping("/runs/{id}")
    String one(@PathVariable long id, @RequestParam(defaultValue = "0") int from, Model model) {
        model.addAttribute("now", runs.now());
        RunRow run = runs.run(id);
        int first = Math.max(0, Math.min(from, run.items() - 1));
        model.addAttribute("run", run);
        List<ItemRow> items = runs.items(id, first, AT_ONCE);
        model.addAttribute("items", items);
        boolean over = !run.open() && run.returned() + run.failed() > 0;
        model.addAttribute("morning", over ? MorningPage.of(run, items, shoots) : null);
        model.addAttribute("from", first);
        model.addAttribute("previous", first > 0 ? Math.max(0, first - AT_ONCE) : null);
        model.addAttribute("next", first + AT_ONCE < run.items() ? first + AT_ONCE : null);
        List<String> steps = runs.stepsOf(id);
        model.addAttribute("steps", steps);
        model.addAttribute("inEditor", InEditor.words(steps));
        model.addAttribute("odd", runs.odd(id));
        model.addAttribute("evenness", runs.evenness(id));
        model.addAttribute("quiet", runs.quietInWords());
        model.addAttribute("others", runs.others(id));
        return "run";
    }

    @PostMapping("/runs/{id}/{action}")
    String act(@PathVariable long id, @PathVariable String action) {
        switch (action) {
            case "pause" -> runs.pause(id);
            case "resume" -> runs.resume(id);
            case "first" -> runs.first(id);
            case "stop" -> runs.stop(id);
            case "retry" -> runs.retryFailed(id);
            case "repeat" -> {
                return "redirect:/runs/" + starter.repeat(id);
            }
            case "repeat-now" -> {
                return "redirect:/runs/" + starter.repeatNow(id);
            }
            case "discard" -> returns.discard(id);
            case "bring-back" -> returns.bringBack(id);
            default -> throw new org.rainsieve.web.setup.NotFoundException("There is no such action.");
        }
        return "redirect:/runs/" + id;
    }

    /**
     * Server-sent events: the run's figures and the items that have changed, until nothing is left to do.
     *
     * @param since a time of the database that the page was made at
     */
    @GetMapping(path = "/runs/{id}/events", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter events(@PathVariable long id, @RequestParam(defaultValue = "1970-01-01 00:00:01") String since) {
        if (!TIME.matcher(since).matches()) {
            throw new NotPossibleException("This is no time. Load the page again.");
        }
        RunRow run = runs.run(id);
        SseEmitter emitter = new SseEmitter(0L);
        AtomicBoolean ended = new AtomicBoolean();
        emitter.onCompletion(() -> ended.set(true));
        emitter.onError(e -> ended.set(true));
        // The figures of a long run cost more and change less.
        long every = Math.max(EVENT_MS, run.items() / ITEMS_PER_EVENT * EVENT_MS);
        // A thread for each page: one that does not read what it is sent holds up nobody else.
        events.execute(() -> {
            String from = since;
            try {
                while (!ended.get()) {
                    from = send(id, from, emitter, () -> ended.set(true));
                    Thread.sleep(every);
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        });
        return emitter;
    }

    /** @return the time that the next event goes on from */
    private String send(long id, String since, SseEmitter emitter, Runnable stop) {
        try {
            RunService.Changes changes = runs.changes(id, since);
            RunRow run = changes.run();
            emitter.send(Map.of(
                    "run",
                    run,
                    "standing",
                    run.standing(),
                    "secondsLeft",
                    run.secondsLeft(),
                    "uncertainty",
                    run.uncertainty(),
                    "speed",
                    run.megapixelsPerSecond(),
                    "bytesInAll",
                    run.bytesInAll(),
                    "items",
                    changes.items()));
            if (!run.open() || run.state().equals("stopped") && run.taken() == 0) {
                emitter.complete();
                stop.run();
            }
            return changes.at();
        } catch (IOException | RuntimeException e) {
            emitter.completeWithError(e);
            stop.run();
            return since;
        }
    }

    /** What one worker does. */
    record Doing(String name, String doing) {}

    /** For the header: how many workers there are, and how many are busy; what each does. */
    @GetMapping("/workers")
    @ResponseBody
    Map<String, Object> workers() {
        List<WorkerRow> rows = workers.workers();
        return Map.of(
                "workers",
                rows.size(),
                "busy",
                rows.stream().filter(WorkerRow::busy).count(),
                "each",
                rows.stream()
                        .sorted(Comparator.comparingLong(WorkerRow::id))
                        .map(row -> new Doing("worker " + row.id(), row.doing()))
                        .toList());
    }
}
