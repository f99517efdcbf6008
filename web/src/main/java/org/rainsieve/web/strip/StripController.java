package org.rainsieve.web.strip;

import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.rainsieve.strip.Candidates;
import org.rainsieve.web.bench.FrameChanges;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ProofLooks;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The page Strip, and the cells that it streams in. */
@Controller
@ConditionalOnWebApplication
class StripController {
    private static final String NO_CAMERA = "This frame is not read yet. Wait until it is, then open its strip.";

    private final StripService strips;
    private final ShootService shoots;
    private final ProofLooks proofs;
    private final BookService book;
    private final FrameChanges changes;

    StripController(
            StripService strips, ShootService shoots, ProofLooks proofs, BookService book, FrameChanges changes) {
        this.strips = strips;
        this.shoots = shoots;
        this.proofs = proofs;
        this.book = book;
        this.changes = changes;
    }

    @GetMapping("/frames/{id}/strip")
    String show(@PathVariable long id, Model model) {
        FrameForWork frame = shoots.frame(id);
        if (frame.camera() == null || frame.width() == null) {
            throw new NotPossibleException(NO_CAMERA);
        }
        BookService.PageInForce page = book.page(frame.camera());
        model.addAttribute("frame", frame);
        model.addAttribute("shoot", shoots.shoot(frame.shootId()));
        model.addAttribute("proof", proofs.of(frame.shootId()).isPresent());
        model.addAttribute("version", page.version());
        model.addAttribute("targets", changes.targets(frame, page.page()));
        return "strip";
    }

    @PostMapping("/frames/{id}/strip")
    @ResponseBody
    StripService.Shown begin(
            @PathVariable long id,
            @RequestParam String of,
            @RequestParam(defaultValue = "false") boolean equalNoise,
            @RequestParam(defaultValue = "false") boolean blind,
            @RequestParam(defaultValue = "2") double factor)
            throws InterruptedException {
        Candidates.Of rows;
        try {
            rows = Candidates.Of.valueOf(of.toUpperCase(Locale.ROOT));
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException("A strip shows methods, grain, colour, blur, bite, edges or models.");
        }
        return strips.begin(id, rows, equalNoise, blind, factor);
    }

    @GetMapping("/strips/{token}/cells/{row}/{spot}")
    ResponseEntity<byte[]> cell(
            @PathVariable String token,
            @PathVariable int row,
            @PathVariable int spot,
            @RequestParam int w,
            @RequestParam int h,
            @RequestParam(defaultValue = "0") double lift,
            @RequestParam(defaultValue = "false") boolean proof)
            throws InterruptedException {
        return answered(strips.cell(token, row, spot, w, h, lift, proof), MediaType.IMAGE_PNG);
    }

    @GetMapping("/strips/{token}/figures/{row}/{spot}")
    ResponseEntity<byte[]> figures(
            @PathVariable String token,
            @PathVariable int row,
            @PathVariable int spot,
            @RequestParam int w,
            @RequestParam int h)
            throws InterruptedException {
        return answered(strips.figures(token, row, spot, w, h), MediaType.APPLICATION_JSON);
    }

    private static ResponseEntity<byte[]> answered(Pictures.Answer answer, MediaType type) {
        return ResponseEntity.status(answer.status())
                .contentType(answer.ok() ? type : Pictures.WORDS)
                .cacheControl(CacheControl.noStore())
                .body(answer.body());
    }

    @PostMapping("/strips/{token}/replace")
    @ResponseBody
    StripService.Shown replace(@PathVariable String token, @RequestParam int row) {
        return strips.replace(token, row);
    }

    @PostMapping("/strips/{token}/spots")
    @ResponseBody
    StripService.Shown spot(
            @PathVariable String token,
            @RequestParam int index,
            @RequestParam(required = false) Double x,
            @RequestParam(required = false) Double y) {
        return strips.spot(token, index, x, y);
    }

    @PostMapping("/strips/{token}/spots/find")
    @ResponseBody
    StripService.Shown findSpots(@PathVariable String token) throws InterruptedException {
        return strips.findSpots(token);
    }

    @PostMapping("/strips/{token}/choose")
    @ResponseBody
    Map<String, Object> choose(
            @PathVariable String token,
            @RequestParam int row,
            @RequestParam String target,
            @RequestParam long version) {
        return Map.of("strip", strips.choose(token, row, target, version), "version", strips.version(token));
    }

    @PostMapping("/strips/{token}/undo")
    @ResponseBody
    Map<String, Object> undo(@PathVariable String token) {
        strips.undo(token);
        return Map.of("version", strips.version(token));
    }

    @GetMapping("/strips/{token}/same-look")
    @ResponseBody
    List<StripService.RungLook> sameLook(@PathVariable String token, @RequestParam int row) {
        return strips.sameLook(token, row);
    }

    @PostMapping("/strips/{token}/same-look")
    @ResponseBody
    Map<String, Object> takeSameLook(@PathVariable String token, @RequestParam int row, @RequestParam long version) {
        strips.takeSameLook(token, row, version);
        return Map.of("version", strips.version(token));
    }
}
