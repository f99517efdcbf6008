package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.FileTime;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.rainsieve.web.setup.SieveProperties;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Service;

/** Small pictures of frames on disk, as many as there is room for; those not looked at for longest go first. */
@Service
public class ThumbnailStore {
    private static final Logger LOG = LoggerFactory.getLogger(ThumbnailStore.class);
    /** A look at a picture is noted at most this often. */
    private static final Duration NOTED = Duration.ofHours(1);
    /** Cleaning goes below the limit, so that it is not needed again at once. */
    private static final double FILLED_TO = 0.9;

    private final Path folder;
    private final long mostBytes;

    ThumbnailStore(SieveProperties properties) {
        folder = properties.cache().resolve("thumbnails");
        mostBytes = (long) properties.thumbnailMb() << 20;
    }

    private Path file(long frameId) {
        return folder.resolve(frameId + ".jpg");
    }

    public void put(long frameId, byte[] jpeg) throws IOException {
        Files.createDirectories(folder);
        Path part = folder.resolve(frameId + "." + Thread.currentThread().getId() + ".part");
        Files.write(part, jpeg);
        Files.move(part, file(frameId), StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
    }

    public Optional<byte[]> get(long frameId) {
        try {
            byte[] jpeg = Files.readAllBytes(file(frameId));
            Instant seen = Files.getLastModifiedTime(file(frameId)).toInstant();
            if (seen.plus(NOTED).isBefore(Instant.now())) {
                Files.setLastModifiedTime(file(frameId), FileTime.from(Instant.now()));
            }
            return Optional.of(jpeg);
        } catch (IOException e) {
            return Optional.empty();
        }
    }

    public void remove(long frameId) {
        try {
            Files.deleteIfExists(file(frameId));
        } catch (IOException e) {
            LOG.debug("The picture of frame {} stays; numbers of frames are never used again", frameId);
        }
    }

    private record Kept(Path file, long bytes, FileTime seen) {}

    /** Makes room when there is too little. */
    public void clean() {
        if (!Files.isDirectory(folder)) {
            return;
        }
        List<Kept> all = new ArrayList<>();
        try (Stream<Path> files = Files.list(folder)) {
            for (Path file : (Iterable<Path>) files::iterator) {
                all.add(new Kept(file, Files.size(file), Files.getLastModifiedTime(file)));
            }
        } catch (IOException e) {
            LOG.debug("The thumbnails could not be counted this time", e);
            return;
        }
        long bytes = all.stream().mapToLong(Kept::bytes).sum();
        if (bytes <= mostBytes) {
            return;
        }
        all.sort(Comparator.comparing(Kept::seen));
        for (Kept kept : all) {
            if (bytes <= mostBytes * FILLED_TO) {
                break;
            }
            try {
                Files.deleteIfExists(kept.file);
                bytes -= kept.bytes;
            } catch (IOException e) {
                LOG.debug("{} could not be removed", kept.file, e);
            }
        }
    }
}
