package org.rainsieve.pipeline;

import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.enlarge.Enlarging;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** The last step: the picture at its final size. */
public final class EnlargeStep implements PixelSource {
    private final PixelSource before;
    private final Enlarging enlarging;

    public EnlargeStep(PixelSource before, EnlargeSettings settings) {
        this.before = before;
        this.enlarging = new Enlarging(settings, before.width(), before.height());
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
        enlarging.fill(small, out);
    }
}
