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
class BodyNoise {
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final int MOST_KEPT = 200;

    /** Of a frame of which the pixels tell little: worse than any that counts. */
    private static final double DOUBTFUL_PERCENT = 50;

    /** Of frames read before intervals were kept. */
    private static final double USUAL_PERCENT = 8;

    private record Known(String state, List<Evidence> evidence, Optional<NoiseLaw> line) {}

    private final Map<String, Known> known = new ConcurrentHashMap<>();
    private final BookRepository repository;

    BodyNoise(BookRepository repository) {
        this.repository = repository;
    }

    /** The law to work with, the same for all frames of a body at one ISO, so that a series cannot jump. */
    SettledLaw at(String camera, int iso) {
        List<Evidence> evidence = of(camera).evidence;
        SettledLaw law = SettledLaw.of(iso, evidence, List.of());
        if (law.source().firm() || iso == 0) {
            return law;
        }
        List<NoiseLaw> others = repository.cameras().stream()
                .filter(other -> !other.equals(camera))
                .map(this::line)
                .flatMap(Optional::stream)
                .toList();
        return SettledLaw.of(iso, evidence, others);
    }

    /** A body's noise over ISO; empty while nothing is known of it. */
    Optional<NoiseLaw> line(String camera) {
        return of(camera).line;
    }

    /** Noise laws of a body's frames that count. */
    List<NoiseLaw.AtIso> readings(String camera) {
        return of(camera).evidence.stream()
                .filter(e -> e.iso() > 0 && e.certain())
                .map(e -> new NoiseLaw.AtIso(e.iso(), e.law()))
                .toList();
    }

    private Known of(String camera) {
        String state = repository.noiseState(camera);
        Known before = known.get(camera);
        if (before != null && before.state.equals(state)) {
            return before;
        }
        if (known.size() > MOST_KEPT) {
            known.clear();
        }
        List<Evidence> evidence =
                repository.noise(camera).stream().map(BodyNoise::evidence).toList();
        Known now = new Known(state, evidence, SettledLaw.line(evidence));
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
