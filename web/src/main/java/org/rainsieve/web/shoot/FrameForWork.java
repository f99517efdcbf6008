package org.rainsieve.web.shoot;

import java.nio.file.Path;

/** What a worker or a run needs to know about a frame. */
public record FrameForWork(
        long id,
        long shootId,
        String path,
        String name,
        String camera,
        Integer iso,
        Integer width,
        Integer height,
        long sizeBytes,
        String sha256) {

    public Path file() {
        return Path.of(path);
    }
}
