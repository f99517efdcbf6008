package org.rainsieve.denoise;

import org.rainsieve.frame.Picture;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/** {@link Patch} for pictures in full colour, with {@link PictureQuick} as pilot and its measure of the noise at each scale. */
final class PicturePatch implements PictureMethod {
    private final PictureQuick wavelets;
    private final PatchScales scales;

    /** @param law of the picture's noise, pixel by pixel */
    PicturePatch(Picture picture, NoiseModel law) {
        wavelets = new PictureQuick(picture, law);
        scales = new PatchScales(PatchNoise.of(wavelets.noise()));
    }

    @Override
    public int margin() {
        return wavelets.margin() + PatchScales.reach();
    }

    @Override
    public Planes estimate(Planes noisy) {
        Region r = noisy.region();
        float[][] pilot = wavelets.stabilised().forward(noisy);
        float[][] planes = new float[3][];
        for (int p = 0; p < 3; p++) {
            planes[p] = pilot[p].clone();
        }
        wavelets.shrink(pilot, r);
        Region told = r.grow(-wavelets.margin());
        Region wanted = r.grow(-margin());
        Planes known = part(pilot, r, told);
        Planes estimate = scales.estimate(part(planes, r, told), known, known, wanted);
        Planes out = new Planes(r, 3);
        float[][] values = {estimate.channel(0), estimate.channel(1), estimate.channel(2)};
        out.copyFrom(wavelets.stabilised().inverse(values, wanted));
        return out;
    }

    private static Planes part(float[][] planes, Region of, Region region) {
        Planes all = new Planes(of, planes.length);
        for (int p = 0; p < planes.length; p++) {
            System.arraycopy(planes[p], 0, all.channel(p), 0, planes[p].length);
        }
        return PatchScales.part(all, region);
    }
}
