package org.rainsieve.web.run;

import jakarta.annotation.PreDestroy;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.ScheduledFuture;
import java.util.concurrent.TimeUnit;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.delivery.DeliverySpace;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.web.setup.NotPossibleException;
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
    /** Of JPEGs whose quality nobody tells. (Common practice.) */
    private static final int JPEG_QUALITY = 60;

    private static final long EVENT_MS = 500;

    private final RunService runs;
    private final ScheduledExecutorService events = Executors.newScheduledThreadPool(1);

    RunController(RunService runs) {
        this.runs = runs;
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

    private static EnlargeSettings enlarge(
            String by, double value, double ppi, EnlargeSettings.Edges edges, boolean blockEdges, double outputBite) {
        try {
            return by.isEmpty()
                    ? EnlargeSettings.OFF
                    : new EnlargeSettings(
                            true,
                            EnlargeSettings.By.valueOf(by),
                            value,
                            ppi,
                            edges,
                            blockEdges,
                            JPEG_QUALITY,
                            outputBite);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". No run was started.");
        }
    }

    /** What a run with these options would need; asked whenever one of them changes. */
    @GetMapping("/shoots/{shoot}/forecast")
    @ResponseBody
    Forecast forecast(
            @PathVariable long shoot,
            @RequestParam(defaultValue = "") String enlargeBy,
            @RequestParam(defaultValue = "2") double enlargeValue,
            @RequestParam(defaultValue = "300") double ppi,
            @RequestParam(defaultValue = "DNG") Set<ReturnForm> forms) {
        return runs.forecast(
                shoot, enlarge(enlargeBy, enlargeValue, ppi, EnlargeSettings.Edges.NATURAL, false, 0), forms);
    }

    /** A form on which nothing is checked sends nothing; who does not ask for forms gets linear DNGs. */
    private static Set<ReturnForm> chosen(Set<ReturnForm> forms, boolean asked) {
        return forms != null ? forms : asked ? Set.of() : Set.of(ReturnForm.DNG);
    }

    /** An example of a name, asked for while a pattern is typed. */
    @GetMapping("/shoots/{shoot}/name")
    @ResponseBody
    Map<String, String> name(@PathVariable long shoot, @RequestParam String pattern) {
        return Map.of("name", runs.nameExample(shoot, pattern));
    }

    @PostMapping("/runs")
    String start(
            @RequestParam long shoot,
            @RequestParam(defaultValue = "beside") String destination,
            @RequestParam(defaultValue = "false") boolean evenGrain,
            @RequestParam(defaultValue = "") String enlargeBy,
            @RequestParam(defaultValue = "2") double enlargeValue,
            @RequestParam(defaultValue = "300") double ppi,
            @RequestParam(defaultValue = "NATURAL") EnlargeSettings.Edges edges,
            @RequestParam(defaultValue = "false") boolean blockEdges,
            @RequestParam(defaultValue = "0") double outputBite,
            @RequestParam(required = false) Set<ReturnForm> forms,
            @RequestParam(defaultValue = "false") boolean formsAsked,
            @RequestParam(defaultValue = "SRGB") DeliverySpace space,
            @RequestParam(defaultValue = "300") double deliveryPpi,
            @RequestParam(defaultValue = "90") int quality,
            @RequestParam(defaultValue = "0") int longEdge,
            @RequestParam(defaultValue = "") String naming) {
        EnlargeSettings enlarge = enlarge(enlargeBy, enlargeValue, ppi, edges, blockEdges, outputBite);
        DeliverySettings delivery;
        try {
            delivery = new DeliverySettings(DeliverySettings.Form.TIFF, space, deliveryPpi, true, quality, 0, longEdge);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". No run was started.");
        }
        return "redirect:/runs/"
                + runs.start(shoot, destination, evenGrain, enlarge, chosen(forms, formsAsked), delivery, naming);
    }

    @GetMapping("/runs/{id}")
    String one(@PathVariable long id, Model model) {
        model.addAttribute("run", runs.run(id));
        model.addAttribute("items", runs.items(id));
        model.addAttribute("steps", runs.stepsOf(id));
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
                return "redirect:/runs/" + runs.repeat(id);
            }
            case "discard" -> runs.discard(id);
            case "bring-back" -> runs.bringBack(id);
            default -> throw new org.rainsieve.web.setup.NotFoundException("There is no such action.");
        }
        return "redirect:/runs/" + id;
    }

    /** What the page shows of an item while the run goes on. */
    record ItemEvent(
            long id,
            String state,
            double progress,
            String returnName,
            Double noiseLeft,
            Long sizeBytes,
            Double seconds,
            String reason) {}

    /** Server-sent events: the run's figures and its items, twice a second until nothing is left to do. */
    @GetMapping(path = "/runs/{id}/events", produces = MediaType.TEXT_EVENT_STREAM_VALUE)
    SseEmitter events(@PathVariable long id) {
        runs.run(id);
        SseEmitter emitter = new SseEmitter(0L);
        ScheduledFuture<?>[] task = new ScheduledFuture<?>[1];
        Runnable stop = () -> {
            if (task[0] != null) {
                task[0].cancel(false);
            }
        };
        emitter.onCompletion(stop);
        emitter.onError(e -> stop.run());
        task[0] = events.scheduleWithFixedDelay(() -> send(id, emitter, stop), 0, EVENT_MS, TimeUnit.MILLISECONDS);
        return emitter;
    }

    private void send(long id, SseEmitter emitter, Runnable stop) {
        try {
            RunRow run = runs.run(id);
            List<ItemEvent> items = runs.items(id).stream()
                    .map(i -> new ItemEvent(
                            i.id(),
                            i.state(),
                            i.progress(),
                            i.returnName(),
                            i.noiseLeft(),
                            i.sizeBytes(),
                            i.seconds(),
                            i.reason()))
                    .toList();
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
                    "items",
                    items));
            if (!run.open() || run.state().equals("stopped") && run.taken() == 0) {
                emitter.complete();
                stop.run();
            }
        } catch (IOException | RuntimeException e) {
            emitter.completeWithError(e);
            stop.run();
        }
    }

    /** For the header: how many workers there are, and how many are busy. */
    @GetMapping("/workers")
    @ResponseBody
    Map<String, Object> workers() {
        List<WorkerRow> rows = runs.workers();
        return Map.of(
                "workers",
                rows.size(),
                "busy",
                rows.stream().filter(WorkerRow::busy).count());
    }
}
