package org.rainsieve.web.book;

import java.util.ArrayList;
import java.util.List;
import org.rainsieve.book.Page;
import org.rainsieve.book.Rung;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.util.UriUtils;

/** The camera book on a plain form. */
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
            CfaPattern pattern = book.pattern(chosen);
            model.addAttribute(
                    "methods",
                    Methods.names().stream()
                            .filter(method -> Methods.suits(method, pattern))
                            .toList());
            BookService.PageInForce inForce = book.page(chosen);
            model.addAttribute("inForce", inForce);
            model.addAttribute("chart", book.noiseChart(chosen));
            model.addAttribute("ladder", new Ladder(inForce.page()));
            model.addAttribute("history", book.history(chosen));
        }
        return "book";
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
        try {
            for (int i = 0; i < ei.size(); i++) {
                if (ei.get(i).isBlank()) {
                    continue; // the empty row for a new rung, or one that was cleared
                }
                rungs.add(new Rung(
                        Integer.parseInt(ei.get(i).strip()),
                        new DenoiseSettings(
                                on.get(i).equals("on"),
                                method.get(i),
                                Double.parseDouble(grainKept.get(i).strip()),
                                Double.parseDouble(colourNoiseKept.get(i).strip()))));
            }
            book.save(new Page(camera, rungs), version, "rungs changed on the form");
        } catch (NumberFormatException e) {
            throw new NotPossibleException(
                    "One of the amounts is not a number. Nothing was saved; go back and correct it.");
        } catch (IndexOutOfBoundsException | IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was saved; go back and correct it.");
        }
        return "redirect:/book?camera=" + UriUtils.encode(camera, "UTF-8");
    }

    @PostMapping("/book/undo")
    String undo(@RequestParam long version) {
        return "redirect:/book?camera=" + UriUtils.encode(book.undo(version), "UTF-8");
    }
}
