package org.rainsieve.mask;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import java.util.List;

/** Where a part of a mask lies. Places are pixels of the frame as the sensor lies; all of it is settings, no pixels. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "kind")
@JsonSubTypes({
    @JsonSubTypes.Type(value = MaskShape.Brush.class, name = "brush"),
    @JsonSubTypes.Type(value = MaskShape.InFocus.class, name = "in focus"),
    @JsonSubTypes.Type(value = MaskShape.FromSpot.class, name = "from a spot"),
    @JsonSubTypes.Type(value = MaskShape.Straight.class, name = "gradient"),
    @JsonSubTypes.Type(value = MaskShape.Round.class, name = "round gradient")
})
public sealed interface MaskShape {
    /** The same on a picture that many times as large. */
    default MaskShape scaled(double factor) {
        return this;
    }

    /** Strokes, one over the other. */
    record Brush(List<Stroke> strokes) implements MaskShape {
        private static final int MOST = 400;

        public Brush {
            strokes = List.copyOf(strokes);
            if (strokes.isEmpty() || strokes.size() > MOST) {
                throw new IllegalArgumentException("A brush has 1 to " + MOST + " strokes; begin another mask");
            }
        }

        @Override
        public Brush scaled(double factor) {
            return new Brush(strokes.stream().map(s -> s.scaled(factor)).toList());
        }
    }

    /**
     * What is sharp.
     *
     * @param limitPx sigma of the blur up to which it counts
     * @param ifTold a mask of it has no effect in a frame where that does not tell one part from another, see
     *     {@link FoundArea#tellsApart}, for nobody looks at each frame; null is false
     */
    record InFocus(
            double limitPx,
            @JsonInclude(JsonInclude.Include.NON_NULL) Boolean ifTold) implements MaskShape {
        public static final InFocus USUAL = new InFocus(2.5);

        public InFocus(double limitPx) {
            this(limitPx, null);
        }

        public InFocus {
            ifTold = Boolean.TRUE.equals(ifTold) ? ifTold : null;
            MaskChecks.within("The limit of what is in focus", limitPx, 0.5, 10, "px");
        }
    }

    /**
     * What looks like the place and hangs together with it.
     *
     * @param reach how far it may differ in colour, texture and depth of focus; with the usual reach all that hangs together at the place's depth
     */
    record FromSpot(double x, double y, double reach) implements MaskShape {
        public static final double USUAL_REACH = 7.75;

        public FromSpot {
            MaskChecks.within("The spot's place", x, -100_000, 100_000, "px");
            MaskChecks.within("The spot's place", y, -100_000, 100_000, "px");
            MaskChecks.within("The spot's reach", reach, 0.25, 20, "");
        }
    }

    /** From nothing at the first place to full strength at the second. */
    record Straight(double x0, double y0, double x1, double y1) implements MaskShape {
        public Straight {
            if (!(Math.hypot(x1 - x0, y1 - y0) >= 1)) {
                throw new IllegalArgumentException("A gradient needs two places; draw from one to the other");
            }
        }

        @Override
        public MaskShape scaled(double factor) {
            double x = x0 * factor;
            double y = y0 * factor;
            double dx = (x1 - x0) * factor;
            double dy = (y1 - y0) * factor;
            double longer = Math.max(1, 1.001 / Math.hypot(dx, dy));
            return new Straight(x, y, x + dx * longer, y + dy * longer);
        }
    }

    /**
     * Full strength inside an ellipse, nothing outside.
     *
     * @param edgePercent 100 for a hard rim; with less it falls off from this share of the radii on
     */
    record Round(double x, double y, double radiusXPx, double radiusYPx, double edgePercent) implements MaskShape {
        public Round {
            if (!(radiusXPx >= 1 && radiusYPx >= 1)) {
                throw new IllegalArgumentException("A round gradient needs a size; draw from its centre outwards");
            }
            MaskChecks.within("Its edge", edgePercent, 0, 100, "%");
        }

        @Override
        public MaskShape scaled(double factor) {
            return new Round(
                    x * factor,
                    y * factor,
                    Math.max(1, radiusXPx * factor),
                    Math.max(1, radiusYPx * factor),
                    edgePercent);
        }
    }
}
