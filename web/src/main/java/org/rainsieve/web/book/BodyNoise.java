package org.rainsieve.web.book;

import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.noise.SettledLaw.Evidence;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** What the frames of each body tell of its noise, understood once and kept until a frame is read anew. */
@Component
public class BodyNoise {
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final int MOST_KEPT = 200;

    /** Of a frame of which the pixels tell little: worse than any that counts. */
    private static final double DOUBTFUL_PERCENT = 50;

    /** Of frames read before intervals were kept. */
    private static final double USUAL_PERCENT = 8;

    /** What one body's frames tell, as they were when it was asked for. */
    public final class Body {
        private final String camera;
        private final String state;
        private final List<Evidence> evidence;
        private final Optional<NoiseLaw> line;

        private Body(String camera, String state, List<Evidence> evidence) {
            this.camera = camera;
            this.state = state;
            this.evidence = evidence;
            this.line = SettledLaw.line(evidence);
        }

        /** The law to work with, the same for all frames at one ISO, so that a series cannot jump. */
        public SettledLaw at(int iso) {
            SettledLaw law = SettledLaw.of(iso, evidence, List.of());
            if (law.source().firm() || iso == 0) {
                return law;
            }
            List<NoiseLaw> others = repository.cameras().stream()
                    .filter(other -> !other.equals(camera))
                    .map(other -> of(other).line)
                    .flatMap(Optional::stream)
                    .toList();
            return SettledLaw.of(iso, evidence, others);
        }

        /** By how much the noise at one ISO differs from what the other settings lead to expect, as a ratio of sds; NaN if unknown. */
        public double offLine(int iso) {
            return SettledLaw.offLine(iso, readings());
        }

        /** The body's noise over ISO; empty while nothing is known of it. */
        Optional<NoiseLaw> line() {
            return line;
        }

        /** Noise laws of the frames that count. */
        List<NoiseLaw.AtIso> readings() {
            return SettledLaw.readings(evidence);
        }
    }

    private final Map<String, Body> known = new ConcurrentHashMap<>();
    private final BookRepository repository;

    BodyNoise(BookRepository repository) {
        this.repository = repository;
    }

    Body of(String camera) {
        String state = repository.noiseState(camera);
        Body before = known.get(camera);
        if (before != null && before.state.equals(state)) {
            return before;
        }
        if (known.size() > MOST_KEPT) {
            known.clear();
        }
        Body now = new Body(
                camera,
                state,
                repository.noise(camera).stream().map(BodyNoise::evidence).toList());
        known.put(camera, now);
        return now;
    }

    private static Evidence evidence(BookRepository.NoiseRow row) {
        NoiseModel law = JSON.readValue(row.noise(), NoiseModel.class);
        if (row.pooled() && row.told()) {
            return Evidence.ofProfile(row.iso(), law);
        }
        double error = row.error() == null ? USUAL_PERCENT : row.error();
        if (!row.pooled()) {
            error = Math.max(DOUBTFUL_PERCENT, error);
        }
        return new Evidence(
                row.iso(),
                law,
                row.blackError() == null ? error : row.blackError(),
                row.greyError() == null ? error : row.greyError(),
                error,
                false);
    }
}
