package org.rainsieve.enlarge;

import java.util.List;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

/** One after another. */
record EnlargingChain(List<Enlarging> steps) implements Enlarging {
    private Enlarging last() {
        return steps.get(steps.size() - 1);
    }

    @Override
    public int width() {
        return last().width();
    }

    @Override
    public int height() {
        return last().height();
    }

    @Override
    public Region inputRegion(Region out) {
        Region region = out;
        for (int i = steps.size() - 1; i >= 0; i--) {
            region = steps.get(i).inputRegion(region);
        }
        return region;
    }

    @Override
    public void fill(Planes small, Planes out) {
        fill(steps.size() - 1, small, out);
    }

    private void fill(int step, Planes small, Planes out) {
        Planes before = small;
        if (step > 0) {
            before = new Planes(steps.get(step).inputRegion(out.region()), small.channels());
            fill(step - 1, small, before);
        }
        steps.get(step).fill(before, out);
    }
}
