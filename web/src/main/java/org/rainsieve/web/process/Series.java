package org.rainsieve.web.process;

import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.reading.Reading;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.web.files.SharedDecoder;

/**
 * The frames of a folder and what they tell of each other: noise is pooled by body and ISO, so that a series cannot jump, defects by
 * body and size.
 */
final class Series {
    private final List<Frame> frames = new ArrayList<>();
    private final Map<String, List<SettledLaw.Evidence>> noise = new LinkedHashMap<>();
    private final Map<String, List<DefectMap>> defects = new HashMap<>();
    private final Map<String, List<DefectMap>> darks = new HashMap<>();
    // What all frames tell, worked out once when all are read.
    private final Map<String, DefectMap> pooled = new HashMap<>();
    private final Map<String, SettledLaw> laws = new HashMap<>();
    private final Map<String, Optional<NoiseLaw>> lines = new HashMap<>();

    /** @param sensor the body's name with the size of its pictures */
    record Frame(Path file, String body, String sensor, CfaPattern pattern, int iso, long pixels) {}

    /** Reads a file, and counts it in. */
    void read(Path file) throws RefusedException {
        OpenedFrame frame = RawOpener.open(file, SharedDecoder.get()).frame();
        int iso = frame.shot().iso();
        int width = frame.capture().width();
        int height = frame.capture().height();
        NoiseModel profile = NoiseModel.ofProfile(frame.noiseProfile());
        Reading.Full read =
                Reading.ofSensor(frame.capture(), profile, frame.colour().gains());
        String sensor = frame.body() + "\n" + width + " x " + height;
        List<SettledLaw.Evidence> evidence = noise.computeIfAbsent(frame.body(), key -> new ArrayList<>());
        SettledLaw.Evidence told =
                SettledLaw.Evidence.of(iso, profile, read.reading().noise());
        if (told != null) {
            evidence.add(told);
        }
        (read.reading().dark() ? darks : defects)
                .computeIfAbsent(sensor, key -> new ArrayList<>())
                .add(read.defects());
        frames.add(new Frame(file, frame.body(), sensor, frame.capture().pattern(), iso, (long) width * height));
    }

    List<Frame> frames() {
        return frames;
    }

    /** What the folder's frames of a body tell of its noise at the frame's ISO, or what is known best instead. */
    SettledLaw law(Frame frame) {
        return laws.computeIfAbsent(frame.body + "\n" + frame.iso, key -> settled(frame));
    }

    private SettledLaw settled(Frame frame) {
        List<NoiseLaw> others = noise.entrySet().stream()
                .filter(body -> !body.getKey().equals(frame.body))
                .map(body -> fitted(body.getKey()))
                .flatMap(Optional::stream)
                .toList();
        return SettledLaw.of(frame.iso, noise.get(frame.body), others);
    }

    /** How the noise of a frame's body goes with ISO; null where its frames do not tell. */
    NoiseLaw line(Frame frame) {
        return fitted(frame.body).orElse(null);
    }

    private Optional<NoiseLaw> fitted(String body) {
        return lines.computeIfAbsent(body, key -> SettledLaw.line(noise.get(key)));
    }

    DefectMap defects(Frame frame) {
        return pooled.computeIfAbsent(
                frame.sensor,
                sensor -> DefectMap.pooled(
                        defects.getOrDefault(sensor, List.of()), darks.getOrDefault(sensor, List.of())));
    }

    Stream<String> bodies() {
        return noise.keySet().stream();
    }
}
