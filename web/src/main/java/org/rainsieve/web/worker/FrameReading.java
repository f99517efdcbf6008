package org.rainsieve.web.worker;

import java.io.IOException;
import java.nio.file.Path;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.opening.Glance;
import org.rainsieve.opening.OwnReturnException;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Thumbnail;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.reading.Reading;
import org.rainsieve.source.OpenedFrame;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.SharedDecoder;
import org.rainsieve.web.files.ThumbnailStore;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ReadFrame;
import org.rainsieve.web.shoot.ShootService;
import org.rainsieve.xmp.Xmp;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/** Reads a frame that was taken in: opens it, measures its noise and makes its thumbnail. */
final class FrameReading {
    private static final Logger LOG = LoggerFactory.getLogger(FrameReading.class);
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final double MOST_STOPS = 8;

    /** What opening and reading a file takes, as a multiple of its size; compressed pictures are small files. */
    private static final int ROOM_OF_FILE = 4;

    private static final long LEAST_ROOM = 96L << 20;

    private final ShootService shoots;
    private final BookService book;
    private final ThumbnailStore thumbnails;

    private final WorkingMemory memory;

    FrameReading(ShootService shoots, BookService book, ThumbnailStore thumbnails, WorkingMemory memory) {
        this.memory = memory;
        this.thumbnails = thumbnails;
        this.shoots = shoots;
        this.book = book;
    }

    void read(long frameId) {
        try {
            tried(frameId);
        } catch (OutOfMemoryError e) {
            LOG.warn("Frame {} ran out of memory and is read again with all the room there is", frameId);
            memory.clear();
            try {
                tried(frameId);
            } catch (OutOfMemoryError again) {
                shoots.refuse(
                        frameId,
                        "The frame is too large for the memory that the worker may use. Give it more with SIEVE_MEMORY_MB.",
                        false);
            }
        }
    }

    private void tried(long frameId) {
        FrameForWork frame = shoots.frame(frameId);
        try (WorkingMemory.Hold room = memory.hold(Math.max(LEAST_ROOM, ROOM_OF_FILE * frame.sizeBytes()))) {
            RawOpener.Opened opened = RawOpener.open(frame.file(), SharedDecoder.get());
            OpenedFrame dng = opened.frame().withSidecar(sidecar(frame.file()));
            NoiseModel profile = NoiseModel.ofProfile(dng.noiseProfile());
            Reading.Full full =
                    Reading.full(dng.capture(), profile, dng.colour().gains());
            Reading reading = full.reading().with(dng.notes(), dng.remarks());
            NoiseModel noise = reading.law();
            thumbnails.put(frameId, Thumbnail.of(dng));
            shoots.read(
                    frameId,
                    new ReadFrame(
                            opened.sha256(),
                            cut(book.camera(dng.body(), serial(dng))),
                            dng.shot().iso(),
                            dng.shot().exposureSeconds(),
                            dng.shot().aperture(),
                            dng.shot().focalLengthMm(),
                            cut(dng.shot().lens()),
                            dng.shot()
                                    .takenAt()
                                    .substring(
                                            0, Math.min(40, dng.shot().takenAt().length())),
                            dng.capture().width(),
                            dng.capture().height(),
                            dng.capture().pattern().toString(),
                            noise == null ? null : JSON.writeValueAsString(noise),
                            SettledLaw.Evidence.of(dng.shot().iso(), reading.profile(), reading.noise()),
                            JSON.writeValueAsString(reading),
                            cut(dng.body()),
                            serial(dng),
                            sidecarPush(frame.file()),
                            dng.shot().compensationStops(),
                            countsForLaw(reading),
                            reading.dark(),
                            full.focusMap() == null ? null : full.focusMap().toText(),
                            full.defects().toBytes(),
                            dng.ownCorrection().map(JSON::writeValueAsString).orElse(null)));
        } catch (OwnReturnException e) {
            shoots.refuse(frameId, e.getMessage(), true);
        } catch (RefusedException e) {
            shoots.refuse(frameId, e.getMessage(), false);
        } catch (IOException e) {
            LOG.warn("No thumbnail for frame {}", frameId, e);
            shoots.refuse(frameId, "Its thumbnail could not be kept: the cache folder is full or missing.", false);
        } catch (RuntimeException e) {
            LOG.error("Frame {} could not be read", frameId, e);
            shoots.refuse(frameId, "Something went wrong inside Rain Sieve while this file was read.", false);
        }
    }

    private static String serial(OpenedFrame dng) {
        String serial = dng.shot().serial().strip();
        return serial.substring(0, Math.min(80, serial.length()));
    }

    /** A frame whose noise was changed, or that has nothing but black, tells nothing of its body's law. */
    private static boolean countsForLaw(Reading reading) {
        boolean known = reading.profile() != null
                || reading.noise() != null && !reading.noise().uncertain();
        return known && !reading.dark() && !reading.denoisedBefore();
    }

    /** The exposure that a sidecar beside the frame asks for; null without one. */
    private static Double sidecarPush(Path file) {
        double stops = Xmp.exposureStops(sidecar(file));
        return Double.isNaN(stops) || Math.abs(stops) > MOST_STOPS ? null : Double.valueOf(stops);
    }

    /** What lies beside the frame; empty where it cannot be read. */
    private static byte[] sidecar(Path file) {
        try {
            return Glance.sidecar(file);
        } catch (IOException e) {
            LOG.info("The sidecar of {} could not be read", file.getFileName());
            return new byte[0];
        }
    }

    private static String cut(String text) {
        return text.substring(0, Math.min(200, text.length()));
    }
}
