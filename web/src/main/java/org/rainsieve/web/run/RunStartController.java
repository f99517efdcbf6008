package org.rainsieve.web.run;

import java.util.List;
import java.util.Map;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.ModelAttribute;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** Starting runs: what one would do, told while its choices are made, the choices that are kept, and the start itself. */
@Controller
@ConditionalOnWebApplication
class RunStartController {
    private final RunStarter starter;
    private final RunStarts starts;
    private final StandingOrders orders;
    private final WatchedOrders watched;

    RunStartController(RunStarter starter, RunStarts starts, StandingOrders orders, WatchedOrders watched) {
        this.watched = watched;
        this.starter = starter;
        this.starts = starts;
        this.orders = orders;
    }

    @PostMapping("/runs")
    String start(@ModelAttribute RunForm form) {
        return "redirect:/runs/" + starts.start(form);
    }

    /**
     * What a run with these choices would do.
     *
     * @param changed numbers of the shoot's frames that were changed since their returns
     * @param first name of the first return, {@code last} of the last one; empty when there is none
     */
    record Told(
            int frames,
            int files,
            int fresh,
            int again,
            int upToDate,
            int ownSize,
            List<String> tooLarge,
            ShootService.LeftOut leftOut,
            List<Long> changed,
            Forecast forecast,
            String to,
            String first,
            String last) {}

    @PostMapping("/shoots/{shoot}/plan")
    @ResponseBody
    Told plan(@PathVariable long shoot, @ModelAttribute RunForm form) {
        RunRequest request = form.request(shoot);
        RunPlanning.Plan plan = starter.plan(request);
        List<RunPlanning.Item> items = request.forms().isEmpty() ? List.of() : plan.items();
        RunPlanning.Item first = items.isEmpty() ? null : items.get(0);
        RunPlanning.Item last = items.isEmpty() ? null : items.get(items.size() - 1);
        return new Told(
                items.size(),
                items.isEmpty() ? 0 : plan.files(),
                plan.count(RunPlanning.Standing.NEW),
                plan.count(RunPlanning.Standing.CHANGED) + plan.count(RunPlanning.Standing.UP_TO_DATE),
                plan.upToDate(),
                plan.ownSize(),
                plan.tooLarge(),
                plan.leftOut(),
                plan.changed(),
                starter.forecast(request, plan),
                first == null ? "" : starter.folder(request, first),
                first == null ? "" : RunPlanning.name(request, first),
                last == null ? "" : RunPlanning.name(request, last));
    }

    @GetMapping("/orders")
    @ResponseBody
    List<StandingOrders.Order> orders() {
        return orders.all();
    }

    @PostMapping("/orders/{id}/forget")
    ResponseEntity<Void> forget(@PathVariable long id) {
        orders.forget(id);
        return ResponseEntity.noContent().build();
    }

    /** The standing order that a watched folder starts by itself; 0 for none. */
    @GetMapping("/shoots/{shoot}/order")
    @ResponseBody
    Map<String, Long> watchedOrder(@PathVariable long shoot) {
        return Map.of("order", watched.of(shoot).orElse(0L));
    }

    @PostMapping("/shoots/{shoot}/order")
    ResponseEntity<Void> watchedOrder(@PathVariable long shoot, @RequestParam(defaultValue = "0") long order) {
        watched.set(shoot, order == 0 ? null : order);
        return ResponseEntity.noContent().build();
    }

    /** An example of a name, asked for while a pattern is typed. */
    @GetMapping("/shoots/{shoot}/name")
    @ResponseBody
    Map<String, String> name(@PathVariable long shoot, @RequestParam String pattern) {
        return Map.of("name", starter.nameExample(shoot, pattern));
    }
}
