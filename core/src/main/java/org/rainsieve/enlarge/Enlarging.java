package org.rainsieve.enlarge;

import java.util.ArrayList;
import java.util.List;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.RootScale;

/** Makes linear pictures in camera colour larger, region by region; the same in whatever region. Any thread may call. */
public interface Enlarging {
    /** The root scale that all of it works in. */
    RootScale SCALE = new RootScale(0.002f);

    /** From this factor on the network works twice; up to it, what twice lacks is added by natural edges. */
    double TWICE_FROM = 3;

    /** Of the picture that comes out, in px. */
    int width();

    int height();

    /** The part of the small picture that a region of the large one is made from. */
    Region inputRegion(Region out);

    /** @param small the small picture over {@link #inputRegion} of what is wanted */
    void fill(Planes small, Planes out);

    /**
     * @param width of the picture that is enlarged, in px
     * @param left what is left of its noise
     * @throws IllegalArgumentException in plain words when it cannot be made so large, or its model does not ship
     */
    static Enlarging of(EnlargeSettings settings, int width, int height, NoiseLeft left) {
        boolean learned = settings.edges() == EnlargeSettings.Edges.LEARNED;
        return learned ? learned(settings, width, height, left) : new PlainEnlarging(settings, width, height);
    }

    /** Twice as large once or twice, then to the size that was asked for. */
    private static Enlarging learned(EnlargeSettings settings, int width, int height, NoiseLeft left) {
        EnlargeSettings.Size size = settings.size(width, height);
        double factor = Math.max((double) size.width() / width, (double) size.height() / height);
        int doublings = factor < TWICE_FROM ? 1 : 2;
        boolean further = factor > 1 << doublings;
        List<Enlarging> steps = new ArrayList<>();
        int w = width;
        int h = height;
        for (int i = 0; i < doublings; i++) {
            boolean last = i == doublings - 1 && !further;
            EnlargeSettings own = settings.withOutputBite(last ? settings.outputBitePercent() : 0);
            steps.add(new LearnedDoubling(w, h, i == 0 ? own : own.withoutBlockEdges(), left));
            w *= 2;
            h *= 2;
        }
        if (further) {
            steps.add(new PlainEnlarging(settings.withoutBlockEdges(), w, h, size));
        } else if (size.width() != w || size.height() != h) {
            steps.add(new Reducing(w, h, size));
        }
        return new EnlargingChain(steps);
    }
}
