package org.rainsieve.web.installation;

import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.InvalidPathException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.access.AccessService;
import org.rainsieve.web.files.FolderService;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.run.WorkerRow;
import org.rainsieve.web.run.Workers;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.beans.factory.annotation.Value;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** How this installation is set up, and by which name each of it is changed. */
@Controller
@ConditionalOnWebApplication
class InstallationController {
    private final SieveProperties properties;
    private final AccessService access;
    private final Workers workers;
    private final LensService lenses;
    private final String address;
    private final String home;
    /** What the environment says, and the page cannot change. */
    private final Set<String> given;

    InstallationController(
            SieveProperties properties,
            AccessService access,
            Workers workers,
            LensService lenses,
            @Value("${server.address:127.0.0.1}") String address,
            @Value("${sieve.home:}") String home,
            @Value("${SIEVE_GIVEN:}") String given) {
        this.properties = properties;
        this.access = access;
        this.workers = workers;
        this.lenses = lenses;
        this.address = address;
        this.home = home;
        this.given = Set.of(given.strip().split("\\s+"));
    }

    /**
     * @param change what to set for it, and where
     * @param name under which the page sets it; empty for what it does not
     * @param kept what is set on the page
     * @param fixed whether the environment says it instead
     */
    public record Line(String what, List<String> values, String change, String name, String kept, boolean fixed) {
        /** Whether it is a folder, or several, to be chosen. */
        public boolean folders() {
            return SetUpFile.isFolder(name);
        }

        Line(String what, List<String> values, String change) {
            this(what, values, change, "", "", false);
        }
    }

    private Line line(String what, List<String> values, String name, Map<String, String> kept) {
        return new Line(what, values, name, name, kept.getOrDefault(name, ""), given.contains(name));
    }

    @GetMapping("/set-up")
    String show(Model model, HttpServletRequest request) {
        Map<String, String> kept = home.isEmpty() ? Map.of() : SetUpFile.read(Path.of(home));
        List<Line> lines = new ArrayList<>();
        lines.add(line(
                "Frames may lie below",
                properties.roots().stream()
                        .map(InstallationController::withRoom)
                        .toList(),
                "SIEVE_ROOTS",
                kept));
        lines.add(line("Returns in a tree of their own", one(properties.returns()), "SIEVE_RETURNS", kept));
        lines.add(line("A catalogue's inbox", one(properties.inbox()), "SIEVE_INBOX", kept));
        lines.add(line(
                "Quiet hours, in which no frame is begun",
                List.of(properties.quiet() == null || properties.quiet().isBlank() ? "none" : properties.quiet()),
                "SIEVE_QUIET",
                kept));
        lines.add(line("Cores for a worker", List.of(or(System.getenv("SIEVE_CORES"), "all")), "SIEVE_CORES", kept));
        lines.add(line(
                "Memory for a worker, MB",
                List.of(or(System.getenv("SIEVE_MEMORY_MB"), "1400")),
                "SIEVE_MEMORY_MB",
                kept));
        lines.add(line(
                "Stays free on a disk that returns go to, MB",
                List.of(String.format(Locale.ROOT, "%,d", properties.keepFreeMb())),
                "SIEVE_KEEP_FREE_MB",
                kept));
        lines.add(line(
                "Small pictures take at most, MB",
                List.of(String.format(Locale.ROOT, "%,d", properties.thumbnailMb())),
                "SIEVE_THUMBNAIL_MB",
                kept));
        List<WorkerRow> workers = this.workers.workers();
        List<String> each = new ArrayList<>();
        each.add(workers.size() + (workers.size() == 1 ? " worker, " : " workers, ")
                + workers.stream().filter(WorkerRow::busy).count() + " busy");
        workers.stream()
                .filter(worker -> worker.mostBytes() > 0)
                .sorted(Comparator.comparingLong(WorkerRow::id))
                .map(InstallationController::memory)
                .forEach(each::add);
        lines.add(new Line("Workers", each, "./sieve worker starts one more"));
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
        model.addAttribute("changeable", !home.isEmpty());
        model.addAttribute("passworded", access.required());
        model.addAttribute("signedIn", request.getUserPrincipal() != null);
        return "set-up";
    }

    private static String or(String value, String usual) {
        return value == null || value.isBlank() ? usual : value;
    }

    /** Kept for the next start. */
    @PostMapping("/set-up")
    String change(@RequestParam Map<String, String> values) {
        if (home.isEmpty()) {
            throw new NotPossibleException("This installation has no folder of its own to keep that in.");
        }
        Map<String, String> kept = new LinkedHashMap<>(SetUpFile.read(Path.of(home)));
        SetUpFile.NAMES.stream().filter(values::containsKey).forEach(name -> kept.put(name, values.get(name)));
        try {
            SetUpFile.write(Path.of(home), kept);
        } catch (IOException e) {
            throw new NotPossibleException("The set-up could not be written into " + home + ". Nothing was changed.");
        }
        return "redirect:/set-up?kept";
    }

    /**
     * Folders of the machine to choose from.
     *
     * @param up the folder above; empty for the uppermost
     */
    record Listed(String path, String up, List<String> folders) {}

    @GetMapping("/set-up/folders")
    @ResponseBody
    Listed folders(@RequestParam String path) {
        try {
            Path folder = Path.of(path).normalize();
            if (!folder.isAbsolute()) {
                throw new NotPossibleException("Write its whole path.");
            }
            Path above = folder.getParent();
            return new Listed(
                    folder.toString(), above == null ? "" : above.toString(), FolderService.namesBelow(folder));
        } catch (InvalidPathException e) {
            throw new NotPossibleException("That is no path.");
        }
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
