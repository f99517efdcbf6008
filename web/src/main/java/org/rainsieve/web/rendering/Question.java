package org.rainsieve.web.rendering;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import java.io.IOException;
import java.util.List;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;

/**
 * What a page asks a worker, as it is sent: JSON, with its kind under {@code ask}. Regions are in px of the result at whole pixels, settings are resolved
 * settings as JSON.
 */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "ask")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Question.OfFrame.class, name = "region of a frame"),
    @JsonSubTypes.Type(value = Question.FrameReduced.class, name = "frame reduced"),
    @JsonSubTypes.Type(value = Question.OfReturn.class, name = "region of a return"),
    @JsonSubTypes.Type(value = Question.ReturnReduced.class, name = "return reduced"),
    @JsonSubTypes.Type(value = Question.Spots.class, name = "spots"),
    @JsonSubTypes.Type(value = Question.Figures.class, name = "figures"),
    @JsonSubTypes.Type(value = Question.Histogram.class, name = "histogram"),
    @JsonSubTypes.Type(value = Question.Places.class, name = "places"),
    @JsonSubTypes.Type(value = Question.Strength.class, name = "strength of a mask"),
    @JsonSubTypes.Type(value = Question.Found.class, name = "found by masks"),
    @JsonSubTypes.Type(value = Question.SidecarWhite.class, name = "the sidecar's white"),
    @JsonSubTypes.Type(value = Question.Made.class, name = "how it was made")
})
public sealed interface Question {
    /** Which picture: as it was, as the steps make it, what they took out, the noise by its law. */
    enum Which {
        BEFORE,
        AFTER,
        TAKEN,
        NOISE
    }

    /**
     * Who asks: what the same viewer asked for in an earlier turn is given up.
     *
     * @param viewer number of an open page, 0 for none
     */
    record Asker(long viewer, long turn) {
        public static final Asker NOBODY = new Asker(0, 0);

        /** Whether somebody looks on, so that small tiles are better than large ones. */
        boolean looks() {
            return viewer != 0;
        }
    }

    /** A frame as the settings make it; over the places of a frame of another size, where one is given. */
    record Subject(long frame, String settings, Integer overWidth, Integer overHeight) {
        public Subject(long frame, String settings) {
            this(frame, settings, null, null);
        }
    }

    /** Answered as PNG. */
    record OfFrame(Subject subject, Which which, Region region, ViewLook look, Asker asker) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** The whole frame as a draft, not denoised, as JPEG. */
    record FrameReduced(Subject subject, ViewLook look, Asker asker) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** As PNG; {@link Which#BEFORE} or {@link Which#AFTER}. */
    record OfReturn(long item, Which which, Region region, ViewLook look) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** As JPEG. */
    record ReturnReduced(long item, Which which, ViewLook look) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** Places worth comparing, as JSON of {@link org.rainsieve.strip.Spot}. */
    record Spots(Subject subject) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** What is measured in a region after all steps, as JSON. */
    record Figures(Subject subject, Region region, Asker asker) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** The sensor's values below a region, as JSON. */
    record Histogram(Subject subject, Region region, Asker asker) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** From places on the result to those on the frame, x and y in turn, as JSON. */
    record Places(Subject subject, List<Double> points) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** How strong a mask of the settings is, as PNG: a region, or, with an edge in px, the whole frame reduced to it. */
    record Strength(Subject subject, int mask, int edge, Region region) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** Of each mask the share of the frame that its parts found, in %; null where nothing is looked for. JSON. */
    record Found(Subject subject) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** By how many stops red and blue are brighter than as shot with the white that the frame's sidecar tells; none without one. JSON. */
    record SidecarWhite(long frame) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** What a return says of how it was made, as JSON. */
    record Made(long item) implements Question {
        @Override
        public byte[] answeredBy(Answering by) throws RefusedException, IOException {
            return by.answer(this);
        }
    }

    /** One answer for each kind of question. */
    interface Answering {
        byte[] answer(OfFrame question) throws RefusedException, IOException;

        byte[] answer(FrameReduced question) throws RefusedException, IOException;

        byte[] answer(OfReturn question) throws RefusedException, IOException;

        byte[] answer(ReturnReduced question) throws RefusedException, IOException;

        byte[] answer(Spots question) throws RefusedException, IOException;

        byte[] answer(Figures question) throws RefusedException, IOException;

        byte[] answer(Histogram question) throws RefusedException, IOException;

        byte[] answer(Places question) throws RefusedException, IOException;

        byte[] answer(Strength question) throws RefusedException, IOException;

        byte[] answer(Found question) throws RefusedException, IOException;

        byte[] answer(SidecarWhite question) throws RefusedException, IOException;

        byte[] answer(Made question) throws RefusedException, IOException;
    }

    byte[] answeredBy(Answering by) throws RefusedException, IOException;
}
