package org.rainsieve.web.bench;

import java.util.Optional;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.shoot.ProofLooks;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.ResponseStatus;
import org.springframework.web.bind.annotation.RestController;

/** How a frame can be looked at; nothing of it is ever written into a picture. */
@RestController
@ConditionalOnWebApplication
class LookController {
    private final ShootService shoots;
    private final ProofLooks proofs;
    private final Pictures pictures;

    LookController(ShootService shoots, ProofLooks proofs, Pictures pictures) {
        this.shoots = shoots;
        this.proofs = proofs;
        this.pictures = pictures;
    }

    /** Red and blue in stops against as shot, as the frame's sidecar wants white; an empty list where it tells none. */
    @GetMapping("/frames/{id}/sidecar-white")
    ResponseEntity<byte[]> sidecarWhite(@PathVariable long id) throws InterruptedException {
        return Pictures.answered(pictures.ask(new Question.SidecarWhite(id)), MediaType.APPLICATION_JSON);
    }

    /** Shadows, contrast and saturation in % that are kept for the frame's shoot; an empty list where none are. */
    @GetMapping("/frames/{id}/proof-look")
    double[] proofLook(@PathVariable long id) {
        Optional<ViewLook> kept = proofs.of(shoots.frame(id).shootId());
        return kept.map(look -> new double[] {look.shadowsPercent(), look.contrastPercent(), look.saturationPercent()})
                .orElse(new double[0]);
    }

    /** Keeps shadows, contrast and saturation as those that the shoot's pictures are judged with; plain ones forget them. */
    @PostMapping("/frames/{id}/proof-look")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void keepProofLook(@PathVariable long id, View.Look look) {
        proofs.keep(shoots.frame(id).shootId(), look.view());
    }
}
