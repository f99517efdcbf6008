package org.rainsieve.pipeline;

import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.enlarge.Enlarging;
import org.rainsieve.enlarge.NoiseLeft;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** The last step: the picture at its final size. */
public final class EnlargeStep implements PixelSource {
    private final PixelSource before;
    private final Enlarging enlarging;
    private final String work;

    /** @param left of the noise of what comes before */
    public EnlargeStep(PixelSource before, EnlargeSettings settings, NoiseLeft left) {
        this.before = before;
        this.enlarging = Enlarging.of(settings, before.width(), before.height(), left);
        this.work = work(settings, before.width(), before.height());
    }

    /** What its pace is kept under: the size of the result tells what it costs. */
    static String work(EnlargeSettings settings, int width, int height) {
        EnlargeSettings.Size size = settings.size(width, height);
        return "Enlarge, " + settings.edges() + (settings.blockEdges() ? ", block edges" : "") + " ×"
                + Math.round(10.0 * size.width() / width);
    }

    PixelSource before() {
        return before;
    }

    @Override
    public int width() {
        return enlarging.width();
    }

    @Override
    public int height() {
        return enlarging.height();
    }

    @Override
    public int channels() {
        return 3;
    }

    @Override
    public Region inputRegion(Region out) {
        return enlarging.inputRegion(out);
    }

    @Override
    public void fill(Planes out) {
        Planes small = new Planes(inputRegion(out.region()), 3);
        before.fill(small);
        long begun = System.nanoTime();
        enlarging.fill(small, out);
        // By the pixels that it began with, as the others are.
        double share = (double) before.width() * before.height() / ((double) width() * height());
        Pace.note(
                work, System.nanoTime() - begun, Math.round(share * out.region().area()));
    }
}
