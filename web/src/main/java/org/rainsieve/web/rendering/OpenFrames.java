package org.rainsieve.web.rendering;

import java.nio.file.Path;
import java.util.List;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Draft;
import org.rainsieve.pipeline.ReducedPicture;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.web.files.SharedDecoder;

/** Frames that are looked at, kept open with the tiles. Safe for several threads. */
final class OpenFrames {
    static final int OVERVIEW_EDGE = 1600;

    private final WorkingMemory memory;

    OpenFrames(WorkingMemory memory) {
        this.memory = memory;
    }

    /** Kept with the tiles, and as long: opened anew when its file has changed. */
    OpenFrame of(String path) throws RefusedException {
        Path file = Path.of(path);
        try {
            return memory.get(
                    List.of("opened", path, file.toFile().lastModified()), () -> OpenFrame.of(file), OpenFrame::bytes);
        } catch (CannotOpenException e) {
            throw e.reason;
        }
    }

    /** Carries a refusal out of where none can be thrown. */
    private static final class CannotOpenException extends RuntimeException {
        private static final long serialVersionUID = 1;
        private final transient RefusedException reason;

        CannotOpenException(RefusedException reason) {
            super(reason);
            this.reason = reason;
        }
    }

    /** A frame that is looked at, and its reduced rendering, which every look at it begins with. */
    static final class OpenFrame {
        final RawOpener.Opened opened;
        private ReducedPicture draft;

        OpenFrame(RawOpener.Opened opened) {
            this.opened = opened;
        }

        static OpenFrame of(Path file) {
            try {
                return new OpenFrame(RawOpener.open(file, SharedDecoder.get()));
            } catch (RefusedException e) {
                throw new CannotOpenException(e);
            }
        }

        long bytes() {
            return opened.frame().bytes() + 12L * OVERVIEW_EDGE * OVERVIEW_EDGE;
        }

        synchronized ReducedPicture draft() {
            if (draft == null) {
                draft = Draft.of(opened.frame().capture(), OVERVIEW_EDGE);
            }
            return draft;
        }
    }
}
