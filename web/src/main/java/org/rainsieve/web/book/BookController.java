package org.rainsieve.web.book;

import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.rainsieve.book.BookFile;
import org.rainsieve.book.Origin;
import org.rainsieve.book.Page;
import org.rainsieve.book.PageDifference;
import org.rainsieve.book.Rung;
import org.rainsieve.book.Starter;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpHeaders;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.util.UriUtils;

/** The camera book: a camera's page, its history, starters, and pages as files. */
@Controller
@ConditionalOnWebApplication
class BookController {
    private final BookService book;

    BookController(BookService book) {
        this.book = book;
    }

    @GetMapping("/book")
    String page(@RequestParam(required = false) String camera, Model model) {
        List<String> cameras = book.cameras();
        String chosen = camera != null && cameras.contains(camera) ? camera : cameras.isEmpty() ? null : cameras.get(0);
        model.addAttribute("cameras", cameras);
        model.addAttribute("camera", chosen);
        if (chosen != null) {
            BookService.PageInForce inForce = book.page(chosen);
            model.addAttribute("methods", methods(chosen));
            model.addAttribute("inForce", inForce);
            model.addAttribute(
                    "unseen",
                    inForce.page().rungs().stream()
                            .anyMatch(rung -> !rung.origin().lookedAt()));
            model.addAttribute("chart", book.noiseChart(chosen));
            model.addAttribute("ladder", new Ladder(inForce.page()));
            model.addAttribute(
                    "sharpenWords",
                    inForce.page().rungs().stream()
                            .collect(Collectors.toMap(Rung::ei, rung -> inShort(rung.sharpen()))));
            model.addAttribute(
                    "maskWords",
                    inForce.page().rungs().stream()
                            .collect(Collectors.toMap(
                                    Rung::ei,
                                    rung -> rung.masks().stream()
                                            .map(PageDifference::inWords)
                                            .toList())));
            model.addAttribute("history", book.history(chosen));
            model.addAttribute("canUndo", book.canUndo(inForce.version()));
            model.addAttribute("canRedo", book.canRedo(inForce.version()));
            model.addAttribute("starters", book.starters());
            model.addAttribute("defects", book.defects(chosen).orElse(null));
            model.addAttribute("apart", book.apart(chosen).orElse(null));
            model.addAttribute("models", Methods.models(book.pattern(chosen)));
            model.addAttribute("newestModel", Methods.newestModel(book.pattern(chosen)));
            model.addAttribute("mends", Methods.mends(Methods.newestModel(book.pattern(chosen))));
            model.addAttribute("noisiest", book.noisiest(chosen).orElse(null));
            model.addAttribute("engine", ResolvedSettings.ENGINE);
        }
        return "book";
    }

    private List<String> methods(String camera) {
        CfaPattern pattern = book.pattern(camera);
        return Methods.names().stream()
                .filter(method -> Methods.suits(method, pattern))
                .toList();
    }

    @PostMapping("/book")
    String save(
            @RequestParam String camera,
            @RequestParam long version,
            @RequestParam List<String> ei,
            @RequestParam List<String> on,
            @RequestParam List<String> method,
            @RequestParam List<String> grainKept,
            @RequestParam List<String> colourNoiseKept) {
        List<Rung> rungs = new ArrayList<>();
        BookService.PageInForce inForce = book.page(camera);
        try {
            for (int i = 0; i < ei.size(); i++) {
                if (ei.get(i).isBlank()) {
                    continue; // the empty row for a new rung, or one that was cleared
                }
                rungs.add(rung(
                        inForce.page(),
                        Integer.parseInt(ei.get(i).strip()),
                        new DenoiseSettings(
                                on.get(i).equals("on"),
                                method.get(i),
                                Double.parseDouble(grainKept.get(i).strip()),
                                Double.parseDouble(colourNoiseKept.get(i).strip()))));
            }
            book.save(inForce.page().withRungs(rungs), version, "rungs changed in the book");
        } catch (NumberFormatException e) {
            throw new NotPossibleException(
                    "One of the amounts is not a number. Nothing was saved; go back and correct it.");
        } catch (IndexOutOfBoundsException | IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was saved; go back and correct it.");
        }
        return toPage(camera);
    }

    /** A rung that was not changed keeps where its values come from; what the table does not show stays. */
    private static Rung rung(Page page, int ei, DenoiseSettings typed) {
        Rung before = page.rungs().stream()
                .filter(rung -> rung.ei() == ei)
                .findFirst()
                .orElse(null);
        DenoiseSettings settings = typed.withDetail(
                before == null ? page.at(ei).detailPercent() : before.denoise().detailPercent());
        return before != null && before.denoise().equals(settings)
                ? before
                : new Rung(
                        ei,
                        settings,
                        before == null ? page.sharpenAt(ei) : before.sharpen(),
                        before == null ? page.masksAt(ei) : before.masks(),
                        Origin.chosen("typed in the book"));
    }

    private static String toPage(String camera) {
        return "redirect:/book?camera=" + UriUtils.encode(camera, "UTF-8");
    }

    /** A column's worth. */
    private static String inShort(SharpenSettings sharpen) {
        if (!sharpen.on()) {
            return "off";
        }
        PointSpread spread = sharpen.spread();
        return String.format(Locale.ROOT, "%.0f %%", sharpen.biteFinePercent())
                + (spread.softPx() > 0 ? String.format(Locale.ROOT, ", soft %.1f px", spread.softPx()) : "")
                + (spread.discPx() > 0 ? String.format(Locale.ROOT, ", focus %.1f px", spread.discPx()) : "")
                + (spread.linePx() > 0 ? String.format(Locale.ROOT, ", moved %.0f px", spread.linePx()) : "");
    }

    @PostMapping("/book/undo")
    String undo(@RequestParam long version) {
        return toPage(book.undo(version));
    }

    @PostMapping("/book/redo")
    String redo(@RequestParam long version) {
        return toPage(book.redo(version));
    }

    @PostMapping("/book/back")
    String back(@RequestParam long version, @RequestParam long to) {
        return toPage(book.back(version, to));
    }

    @PostMapping("/book/looked-at")
    String lookedAt(@RequestParam String camera, @RequestParam long version) {
        book.lookedAt(camera, version);
        return toPage(camera);
    }

    @PostMapping("/book/bind")
    String bind(@RequestParam String camera, @RequestParam long version, @RequestParam String model) {
        book.bind(camera, version, model);
        return toPage(camera);
    }

    @PostMapping("/book/apart")
    String apart(@RequestParam String body, @RequestParam(defaultValue = "false") boolean apart) {
        book.setApart(body, apart);
        return "redirect:/book";
    }

    @PostMapping("/book/start")
    String start(@RequestParam String camera, @RequestParam long version, @RequestParam String starter) {
        book.start(camera, version, starter);
        return toPage(camera);
    }

    @PostMapping("/book/starters")
    String keepStarter(@RequestParam String camera, @RequestParam String name) {
        try {
            book.keepStarter(camera, name);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was saved.");
        }
        return toPage(camera);
    }

    @PostMapping("/book/starters/{id}/rename")
    String renameStarter(@PathVariable long id, @RequestParam String camera, @RequestParam String name) {
        try {
            book.renameStarter(id, name);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was changed.");
        }
        return toPage(camera);
    }

    @PostMapping("/book/starters/{id}/remove")
    String removeStarter(@PathVariable long id, @RequestParam String camera) {
        book.removeStarter(id);
        return toPage(camera);
    }

    @GetMapping("/book/starter-file")
    ResponseEntity<byte[]> starterFile(@RequestParam String name) {
        return file(name, BookFile.write(book.starter(name).starter()));
    }

    @GetMapping("/book/file")
    ResponseEntity<byte[]> pageFile(@RequestParam String camera) {
        return file(camera, BookFile.write(book.page(camera).page()));
    }

    private static ResponseEntity<byte[]> file(String name, String text) {
        return ResponseEntity.ok()
                .contentType(MediaType.APPLICATION_JSON)
                .header(
                        HttpHeaders.CONTENT_DISPOSITION,
                        ContentDisposition.attachment()
                                .filename(name.replaceAll("[^A-Za-z0-9 ._-]", "_") + ".json", StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(text.getBytes(StandardCharsets.UTF_8));
    }

    /** Shows what a file would change; nothing is changed yet. A file of another camera is said to be one. */
    @PostMapping("/book/import")
    String preview(@RequestParam String camera, @RequestParam String text, Model model) {
        if (text.contains("rain-sieve-starter")) {
            Starter starter = read(() -> BookFile.readStarter(text));
            book.keepStarter(starter);
            return toPage(camera);
        }
        Page page = read(() -> BookFile.readPage(text));
        BookService.PageInForce inForce = book.page(camera);
        model.addAttribute("camera", camera);
        model.addAttribute("version", inForce.version());
        model.addAttribute("other", page.camera().equals(camera) ? null : page.camera());
        model.addAttribute("lines", PageDifference.between(inForce.page(), imported(page, inForce.page())));
        model.addAttribute("text", text);
        return "book-import";
    }

    @PostMapping("/book/import/apply")
    String importPage(
            @RequestParam String camera,
            @RequestParam long version,
            @RequestParam String text,
            @RequestParam(defaultValue = "false") boolean otherCamera) {
        Page page = read(() -> BookFile.readPage(text));
        if (!page.camera().equals(camera) && !otherCamera) {
            throw new NotPossibleException("This page was written for " + page.camera() + ", not for " + camera
                    + ". Tick that it is meant for this camera all the same. Nothing was changed.");
        }
        book.save(
                imported(page, book.page(camera).page()),
                version,
                "imported" + (page.camera().equals(camera) ? "" : " from a page of " + page.camera()));
        return toPage(camera);
    }

    /** Rungs and offset come from the file; the versions that the page is bound to stay. */
    private static Page imported(Page file, Page standing) {
        return file.withCamera(standing.camera()).pinned(standing.engine(), standing.model());
    }

    /** Puts mine on top of a change made elsewhere, after both were shown. */
    @PostMapping("/book/settle")
    String settle(@RequestParam long version, @RequestParam String text) {
        Page page = read(() -> BookFile.readPage(text));
        book.save(page, version, "put on top of a change made elsewhere");
        return toPage(page.camera());
    }

    private interface Reader<T> {
        T read() throws RefusedException;
    }

    private static <T> T read(Reader<T> reader) {
        try {
            return reader.read();
        } catch (RefusedException e) {
            throw new NotPossibleException(e.getMessage());
        }
    }
}
