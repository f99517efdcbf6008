package org.rainsieve.web.worker;

import java.io.IOException;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.opening.Glance;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Thumbnail;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.SharedDecoder;
import org.rainsieve.web.files.ThumbnailStore;
import org.rainsieve.web.shoot.GlancedFrame;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Looks at frames before they are read: their directories, and the small picture that many files hold of themselves. */
final class FrameLooking {
    private static final Logger LOG = LoggerFactory.getLogger(FrameLooking.class);
    private static final int AT_ONCE = 48;

    private final ShootService shoots;
    private final BookService book;
    private final ThumbnailStore thumbnails;
    private final Map<String, String> pages = new ConcurrentHashMap<>();

    FrameLooking(ShootService shoots, BookService book, ThumbnailStore thumbnails) {
        this.shoots = shoots;
        this.book = book;
        this.thumbnails = thumbnails;
    }

    /** @return false when all have been looked at */
    boolean lookAtSome() {
        List<ShootService.ToLookAt> frames = shoots.takeToLookAt(AT_ONCE);
        pages.clear();
        List<GlancedFrame> found = frames.parallelStream()
                .map(this::glance)
                .filter(glanced -> glanced != null)
                .toList();
        shoots.glanced(found);
        return !frames.isEmpty();
    }

    private GlancedFrame glance(ShootService.ToLookAt frame) {
        try {
            Glance glance = Glance.of(frame.file(), frame.read() ? null : SharedDecoder.get());
            boolean pictured = !glance.own() && picture(frame, glance);
            String serial = cut(glance.shot().serial().strip(), 80);
            String camera = glance.body().isEmpty()
                    ? null
                    : pages.computeIfAbsent(
                            glance.body() + "\n" + serial, key -> cut(book.camera(glance.body(), serial), 200));
            return new GlancedFrame(frame.id(), glance, camera, pictured);
        } catch (RefusedException e) {
            return null; // reading it will say why
        } catch (IOException | RuntimeException e) {
            LOG.warn("Frame {} could not be looked at", frame.id(), e);
            return null;
        }
    }

    private boolean picture(ShootService.ToLookAt frame, Glance glance) throws IOException, RefusedException {
        byte[] jpeg = glance.preview() == null
                ? null
                : Thumbnail.ofPreview(glance.preview(), glance.shot().orientation());
        if (jpeg == null && frame.read()) {
            // A picture that had to make room and was asked for again.
            jpeg = Thumbnail.of(
                    RawOpener.open(frame.file(), SharedDecoder.get()).frame());
        }
        if (jpeg == null) {
            return false;
        }
        thumbnails.put(frame.id(), jpeg);
        return true;
    }

    private static String cut(String text, int most) {
        return text.substring(0, Math.min(most, text.length()));
    }
}
