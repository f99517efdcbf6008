package org.rainsieve.web.lens;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.optics.LensCorrection;
import org.rainsieve.optics.LensDatabase;
import org.rainsieve.optics.LensProfile;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.web.setup.SieveProperties;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.KnownLenses;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Service;
import tools.jackson.databind.json.JsonMapper;

/** Lenses: the database of profiles, and what was chosen for each lens on each camera. */
@Service
public class LensService implements KnownLenses {
    private static final Logger LOG = LoggerFactory.getLogger(LensService.class);
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final LensRepository repository;
    private final SieveProperties properties;
    private LensDatabase database = LensDatabase.load(List.of());
    private Map<Path, FileTime> read = Map.of();

    LensService(LensRepository repository, SieveProperties properties) {
        this.repository = repository;
        this.properties = properties;
    }

    /** Read at first use, for it takes a moment, and again when a file was changed or came. */
    public synchronized LensDatabase database() {
        Map<Path, FileTime> files = files();
        if (!files.equals(read)) {
            database = LensDatabase.load(properties.lenses());
            read = files;
        }
        return database;
    }

    private Map<Path, FileTime> files() {
        Map<Path, FileTime> files = new HashMap<>();
        for (Path folder : properties.lenses()) {
            if (!Files.isDirectory(folder)) {
                continue;
            }
            try (Stream<Path> inside = Files.list(folder)) {
                for (Path file : inside.toList()) {
                    files.put(file, Files.getLastModifiedTime(file));
                }
            } catch (IOException e) {
                LOG.warn("The lens folder {} cannot be read", folder);
            }
        }
        return files;
    }

    public LensChoice choice(String camera, String lens) {
        return repository
                .choice(camera, lens)
                .map(json -> JSON.readValue(json, LensChoice.class))
                .orElse(LensChoice.UNTOUCHED);
    }

    public void choose(String camera, String lens, LensChoice choice) {
        if (!choice.equals(choice(camera, lens))) {
            repository.add(camera, lens, JSON.writeValueAsString(choice));
        }
    }

    public void undo(String camera, String lens) {
        repository.undo(camera, lens);
    }

    public void redo(String camera, String lens) {
        repository.redo(camera, lens);
    }

    /** The step Optics of one frame under a choice. */
    public OpticsSettings settings(FrameForWork frame, LensChoice choice) {
        if (!choice.on()) {
            return OpticsSettings.OFF;
        }
        if (choice.profile().equals(LensChoice.FILE)) {
            return choice.settings(
                    frame.ownOptics() == null ? null : JSON.readValue(frame.ownOptics(), LensCorrection.class));
        }
        return choice.settings(
                database(),
                frame.camera(),
                frame.reportedLens(),
                number(frame.focalLengthMm()),
                number(frame.aperture()));
    }

    /** What a choice means for a frame, by name; empty for none and for a lens that was not found. */
    public String found(FrameForWork frame, LensChoice choice) {
        if (choice.profile().equals(LensChoice.FILE)) {
            return frame.ownOptics() == null ? "" : "the file's own correction";
        }
        return choice.lens(database(), frame.camera(), frame.reportedLens(), number(frame.focalLengthMm()))
                .map(LensProfile::name)
                .orElse("");
    }

    @Override
    public boolean wantedAndMissing(String camera, String reported, Double focalLengthMm) {
        LensChoice choice = choice(camera, reported);
        return choice.on()
                && !List.of(LensChoice.NONE, LensChoice.FILE).contains(choice.profile())
                && choice.lens(database(), camera, reported, number(focalLengthMm))
                        .isEmpty();
    }

    /** Lenses that the frame may have been taken with, by what the camera reported. */
    public List<LensDatabase.Candidate> candidates(FrameForWork frame) {
        return database().candidates(frame.camera(), frame.reportedLens(), number(frame.focalLengthMm()));
    }

    private static double number(Double value) {
        return value == null || value == 0 ? Double.NaN : value;
    }
}
