package org.rainsieve.web.installation;

import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.access.AccessService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.run.RunService;
import org.rainsieve.web.run.WorkerRow;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;

/** How this installation is set up, and by which name each of it is changed. */
@Controller
@ConditionalOnWebApplication
class InstallationController {
    private final SieveProperties properties;
    private final AccessService access;
    private final RunService runs;
    private final LensService lenses;
    private final String address;

    InstallationController(
            SieveProperties properties,
            AccessService access,
            RunService runs,
            LensService lenses,
            @Value("${server.address:127.0.0.1}") String address) {
        this.properties = properties;
        this.access = access;
        this.runs = runs;
        this.lenses = lenses;
        this.address = address;
    }

    /** @param change what to set for it, and where */
    public record Line(String what, List<String> values, String change) {}

    @GetMapping("/set-up")
    String show(Model model, HttpServletRequest request) {
        List<Line> lines = new ArrayList<>();
        lines.add(new Line(
                "Frames may lie below",
                properties.roots().stream()
                        .map(InstallationController::withRoom)
                        .toList(),
                "SIEVE_ROOTS"));
        lines.add(new Line("Returns in a tree of their own", one(properties.returns()), "SIEVE_RETURNS"));
        lines.add(new Line("A catalogue's inbox", one(properties.inbox()), "SIEVE_INBOX"));
        lines.add(new Line(
                "Stays free on a disk that returns go to",
                List.of(String.format(Locale.ROOT, "%,d MB", properties.keepFreeMb())),
                "SIEVE_KEEP_FREE_MB"));
        List<WorkerRow> workers = runs.workers();
        List<String> each = new ArrayList<>();
        each.add(workers.size() + (workers.size() == 1 ? " worker, " : " workers, ")
                + workers.stream().filter(WorkerRow::busy).count() + " busy");
        workers.stream()
                .filter(worker -> worker.mostBytes() > 0)
                .sorted(Comparator.comparingLong(WorkerRow::id))
                .map(InstallationController::memory)
                .forEach(each::add);
        lines.add(new Line(
                "Workers",
                each,
                "./sieve worker starts one more; SIEVE_CORES and SIEVE_MEMORY_MB tell what one may use"));
        lines.add(new Line(
                "Quiet hours",
                List.of(properties.quiet() == null || properties.quiet().isBlank() ? "none" : properties.quiet()),
                "SIEVE_QUIET"));
        lines.add(new Line(
                "Small pictures take at most",
                List.of(String.format(Locale.ROOT, "%,d MB", properties.thumbnailMb())),
                "SIEVE_THUMBNAIL_MB"));
        lines.add(new Line(
                "Lens profiles",
                List.of(String.format(
                                Locale.ROOT,
                                "%,d lenses from ",
                                lenses.database().lenses().size())
                        + properties.lenses().stream().map(Path::toString).collect(Collectors.joining(", "))),
                "SIEVE_LENSES"));
        lines.add(new Line(
                "Answers on",
                List.of(address + (access.required() ? ", asks for the password" : ", without a password")),
                "SIEVE_ADDRESS, SIEVE_NAMES; ./sieve password"));
        lines.add(new Line(
                "Engine", List.of(ResolvedSettings.ENGINE), "each camera's page stays bound to what it began with"));
        model.addAttribute("lines", lines);
        model.addAttribute("signedIn", request.getUserPrincipal() != null);
        return "set-up";
    }

    private static String memory(WorkerRow worker) {
        return String.format(
                Locale.ROOT,
                "worker %d: %,d MB worked with or kept for the next look, %,d MB in use in all, of %,d MB",
                worker.id(),
                worker.workingBytes() >> 20,
                worker.heapBytes() >> 20,
                worker.mostBytes() >> 20);
    }

    private static List<String> one(Path path) {
        return List.of(path == null ? "none" : withRoom(path));
    }

    private static String withRoom(Path folder) {
        try {
            return String.format(
                    Locale.ROOT,
                    "%s, %,.0f GB free",
                    folder,
                    Files.getFileStore(folder).getUsableSpace() / 1e9);
        } catch (IOException e) {
            return folder + ": not there now";
        }
    }
}
