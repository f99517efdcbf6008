package org.rainsieve.web.bench;

import java.util.List;
import java.util.Optional;
import java.util.OptionalDouble;
import org.rainsieve.reading.FocusMap;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ProofLooks;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** All frames of a burst side by side, each as it comes out, at one spot. */
@Controller
@ConditionalOnWebApplication
class BurstController {
    private static final int MOST_PX = 1200;

    private final ShootService shoots;
    private final ProofLooks proofs;
    private final Partners partners;
    private final Cards cards;
    private final Pictures pictures;

    BurstController(ShootService shoots, ProofLooks proofs, Partners partners, Cards cards, Pictures pictures) {
        this.shoots = shoots;
        this.proofs = proofs;
        this.partners = partners;
        this.cards = cards;
        this.pictures = pictures;
    }

    /**
     * @param sharpX where it is sharpest, as a share of its width; null where its reading tells no focus
     * @param sharpY the same of its height
     */
    record Member(long id, String name, String mark, Double sharpX, Double sharpY) {}

    @GetMapping("/frames/{id}/burst")
    String show(@PathVariable long id, Model model) {
        FrameForWork frame = shoots.frame(id);
        List<Member> members = burst(frame).stream().map(this::member).toList();
        model.addAttribute("frame", frame);
        model.addAttribute("shoot", shoots.shoot(frame.shootId()));
        model.addAttribute("proof", proofs.of(frame.shootId()).isPresent());
        model.addAttribute("members", members);
        return "burst";
    }

    private List<FrameForWork> burst(FrameForWork frame) {
        if (frame.width() == null) {
            throw new NotFoundException(
                    "This frame has not been read yet. Its burst can be looked at as soon as it is.");
        }
        return partners.wholeBurst(frame);
    }

    private Member member(FrameForWork frame) {
        Optional<FocusMap.Place> sharp = shoots.sharpest(frame.id(), frame.width(), frame.height());
        return new Member(
                frame.id(),
                frame.name(),
                frame.mark() == null ? "" : frame.mark(),
                sharp.map(place -> (double) place.x() / frame.width()).orElse(null),
                sharp.map(place -> (double) place.y() / frame.height()).orElse(null));
    }

    /** One of its frames about a place, which is told in shares of its width and height. */
    @GetMapping("/frames/{id}/in-force")
    ResponseEntity<byte[]> picture(
            @PathVariable long id,
            @RequestParam double x,
            @RequestParam double y,
            @RequestParam int w,
            @RequestParam int h,
            @RequestParam(defaultValue = "false") boolean proof)
            throws InterruptedException {
        InForceParts part = part(id, x, y, w, h);
        return pictures.render(part.picture(proofs.look(part.frame(), 0, proof)));
    }

    /** What is measured there. */
    @GetMapping("/frames/{id}/in-force/figures")
    ResponseEntity<byte[]> figures(
            @PathVariable long id,
            @RequestParam double x,
            @RequestParam double y,
            @RequestParam int w,
            @RequestParam int h)
            throws InterruptedException {
        return Pictures.answered(pictures.ask(part(id, x, y, w, h).figures()), MediaType.APPLICATION_JSON);
    }

    private InForceParts part(long id, double x, double y, int w, int h) {
        FrameForWork frame = shoots.frame(id);
        return InForceParts.about(frame, cards.inForce(frame), x, y, Math.min(MOST_PX, w), Math.min(MOST_PX, h));
    }

    /** @param blurPx about the place, as the reading's focus map has it; null where it tells nothing */
    record Sharpness(long id, Double blurPx) {}

    @GetMapping("/frames/{id}/burst/sharpness")
    @ResponseBody
    List<Sharpness> sharpness(@PathVariable long id, @RequestParam double x, @RequestParam double y) {
        return burst(shoots.frame(id)).stream()
                .map(frame -> new Sharpness(frame.id(), blurPx(frame, x, y)))
                .toList();
    }

    private Double blurPx(FrameForWork frame, double x, double y) {
        return shoots.focusMap(frame.id())
                .map(map -> map.blurPxAbout(x * frame.width(), y * frame.height()))
                .filter(OptionalDouble::isPresent)
                .map(OptionalDouble::getAsDouble)
                .orElse(null);
    }
}
