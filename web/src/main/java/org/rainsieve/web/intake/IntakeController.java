package org.rainsieve.web.intake;

import jakarta.servlet.http.HttpServletRequest;
import java.io.IOException;
import java.util.List;
import java.util.Map;
import org.rainsieve.web.run.FrameReturn;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.ExceptionHandler;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestHeader;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.RestController;

/** What pages and {@code ./sieve open} call to bring files in. */
@RestController
@ConditionalOnWebApplication
class IntakeController {
    private final IntakeService intake;
    private final CardService cards;

    private final Returns returns;

    IntakeController(IntakeService intake, CardService cards, Returns returns) {
        this.returns = returns;
        this.intake = intake;
        this.cards = cards;
    }

    @GetMapping("/intake/cards")
    List<CardService.Card> cards() {
        return cards.cards();
    }

    @PostMapping("/intake/cards")
    Map<String, Object> copy(@RequestParam int card, @RequestParam(defaultValue = "") String name) {
        return cards.begin(card, name).told();
    }

    @GetMapping("/intake/copies/{id}")
    Map<String, Object> copy(@PathVariable long id) {
        return cards.job(id).told();
    }

    @PostMapping("/intake/copies/{id}/cancel")
    Map<String, Object> cancel(@PathVariable long id) {
        cards.cancel(id);
        return cards.job(id).told();
    }

    @PostMapping("/intake/uploads")
    Map<String, Object> begin(@RequestParam(defaultValue = "") String name) {
        return Map.of("shoot", intake.beginUpload(name));
    }

    /** The body is the file itself. */
    @PostMapping(path = "/intake/uploads/{shoot}", consumes = MediaType.APPLICATION_OCTET_STREAM_VALUE)
    IntakeService.Put put(
            @PathVariable long shoot,
            @RequestParam String name,
            @RequestHeader(name = "Content-Length", defaultValue = "-1") long length,
            HttpServletRequest request)
            throws IOException {
        return intake.put(shoot, name, length, request.getInputStream());
    }

    @PostMapping("/intake/open")
    Map<String, Object> open(@RequestParam(name = "file") List<String> files) {
        return Map.of("page", "/frames/" + intake.open(files));
    }

    /** Where a frame that was handed over stands, for a program that waits for it. */
    @PostMapping("/intake/opened")
    FrameReturn opened(@RequestParam long frame) {
        return returns.newestOf(frame);
    }

    @ExceptionHandler(NotPossibleException.class)
    ResponseEntity<String> refused(NotPossibleException e) {
        return ResponseEntity.unprocessableEntity()
                .contentType(MediaType.parseMediaType("text/plain;charset=UTF-8"))
                .body(e.getMessage());
    }
}
