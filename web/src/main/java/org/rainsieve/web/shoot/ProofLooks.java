package org.rainsieve.web.shoot;

import java.util.Optional;
import org.rainsieve.colour.ViewLook;
import org.springframework.jdbc.core.simple.JdbcClient;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** The tones that a shoot's pictures will be edited to, so that noise is judged as it will be seen. Never written into a return. */
@Component
public class ProofLooks {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final JdbcClient db;

    ProofLooks(JdbcClient db) {
        this.db = db;
    }

    private record Tones(double shadows, double contrast, double saturation) {}

    /** Nothing where none is kept. */
    public Optional<ViewLook> of(long shootId) {
        return db.sql("SELECT proof_look FROM shoot WHERE id = ? AND proof_look IS NOT NULL")
                .param(shootId)
                .query(String.class)
                .optional()
                .map(stored -> JSON.readValue(stored, Tones.class))
                .map(tones -> ViewLook.PLAIN.toned(tones.shadows, tones.contrast, tones.saturation));
    }

    /** As bright as a frame is pushed, lifted from there, and with the tones that are kept where they are asked for. */
    public ViewLook look(FrameForWork frame, double liftStops, boolean proof) {
        return (proof ? of(frame.shootId()) : Optional.<ViewLook>empty())
                .orElse(ViewLook.PLAIN)
                .lightened(liftStops + frame.pushedStops());
    }

    /** @param look of which shadows, contrast and saturation are kept; a plain one forgets what was */
    public void keep(long shootId, ViewLook look) {
        Tones tones = new Tones(look.shadowsPercent(), look.contrastPercent(), look.saturationPercent());
        db.sql("UPDATE shoot SET proof_look = ? WHERE id = ?")
                .params(look.toned() ? JSON.writeValueAsString(tones) : null, shootId)
                .update();
    }
}
