package org.rainsieve.web.access;

import jakarta.servlet.http.HttpServletRequest;
import java.security.Principal;
import java.util.LinkedHashMap;
import java.util.Map;
import org.rainsieve.web.run.RunService;
import org.rainsieve.web.run.Workers;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.dao.DataAccessException;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The page to sign in on, and what this installation tells of its health. */
@Controller
@ConditionalOnWebApplication
class AccessController {
    private final AccessService access;
    private final RunService runs;
    private final Workers workers;

    AccessController(AccessService access, RunService runs, Workers workers) {
        this.access = access;
        this.runs = runs;
        this.workers = workers;
    }

    @GetMapping("/sign-in")
    String signIn(
            @RequestParam(required = false) String wrong,
            @RequestParam(defaultValue = "0") long wait,
            Model model,
            HttpServletRequest request) {
        Principal who = request.getUserPrincipal();
        if (!access.required() || who != null && access.isSignedIn(who.getName())) {
            return "redirect:/shoots";
        }
        model.addAttribute("wrong", wrong != null);
        model.addAttribute("wait", wait);
        return "sign-in";
    }

    @PostMapping("/password")
    String change(
            @RequestParam(defaultValue = "") String now,
            @RequestParam String next,
            @RequestParam String again,
            HttpServletRequest request) {
        if (!next.equals(again)) {
            throw new NotPossibleException("The two new passwords are not the same. Nothing was changed.");
        }
        try {
            access.change(now, next, request.getRemoteAddr());
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + " Nothing was changed.");
        }
        return "redirect:/set-up?password";
    }

    @GetMapping("/health")
    @ResponseBody
    ResponseEntity<Map<String, Object>> health() {
        Map<String, Object> told = new LinkedHashMap<>();
        try {
            int workers = this.workers.workers().size();
            told.put("state", workers > 0 ? "up" : "no worker");
            told.put("database", "up");
            told.put("workers", workers);
            return ResponseEntity.ok(told);
        } catch (DataAccessException e) {
            told.put("state", "down");
            told.put("database", "down");
            return ResponseEntity.status(503).body(told);
        }
    }

    /** One figure a line, as collectors of metrics read them. */
    @GetMapping(value = "/metrics", produces = "text/plain")
    @ResponseBody
    String metrics() {
        Runtime machine = Runtime.getRuntime();
        StringBuilder lines = new StringBuilder();
        runs.itemsByState()
                .forEach((state, count) -> lines.append("sieve_items{state=\"")
                        .append(state)
                        .append("\"} ")
                        .append(count)
                        .append('\n'));
        return lines.append("sieve_workers ")
                .append(this.workers.workers().size())
                .append("\nsieve_memory_used_bytes ")
                .append(machine.totalMemory() - machine.freeMemory())
                .append('\n')
                .toString();
    }
}
