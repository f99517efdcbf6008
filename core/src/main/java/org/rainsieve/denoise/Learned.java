package org.rainsieve.denoise;

import java.util.Arrays;
import java.util.Collections;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.network.Network;
import org.rainsieve.noise.RootScale;
import org.rainsieve.noise.SensorNoise;

/**
 * The trained method: a small convolutional network that denoises and demosaics a mosaic together, told the noise
 * (Gharbi et al. 2016; Zhang, Zuo, Zhang 2018; Brooks et al. 2019; see docs/learned.md). It works on half-size planes, see
 * {@link MosaicPlanes}. 2×2 sensors, 6×6 sensors and pictures in full colour have models of their own, see
 * {@link LearnedModels}.
 *
 * <p>Cells lie alike in the grid of the network's reductions in every tile, and the margin is wider than what a pixel
 * depends on, so that its result is the same in whatever tile it is computed.
 */
final class Learned implements DenoiseMethod {
    /** The network's reach, and two pixels more for near colours. */
    static final int MARGIN = 72;

    private static final int KEPT_CORRECTIONS = 64;

    /** Loaded at the first use, and only where pixels are worked on. */
    private static final Map<String, Learned> LOADED = new ConcurrentHashMap<>();

    /** What the network's means are off by, for the noise laws and white balances in use: the last few. */
    private final Map<List<Object>, LevelCorrection> corrections =
            Collections.synchronizedMap(new LinkedHashMap<>(16, 0.75f, true) {
                @Override
                protected boolean removeEldestEntry(Map.Entry<List<Object>, LevelCorrection> eldest) {
                    return size() > KEPT_CORRECTIONS;
                }
            });

    private final LearnedModels.Form form;
    private final Network ofLittleNoise;
    private final Network ofMuchNoise;
    private final double littleUpToA;
    private final int correctionFieldPx;

    private Learned(String model) {
        form = LearnedModels.Form.of(model);
        LearnedModels.Pair pair = LearnedModels.networks(model);
        ofMuchNoise = load(pair.much());
        ofLittleNoise = pair.little().equals(pair.much()) ? ofMuchNoise : load(pair.little());
        littleUpToA = pair.upToA();
        boolean toldOfCuts =
                form != LearnedModels.Form.PICTURE && ofMuchNoise.planesIn() > MosaicPlanes.least(form.pattern);
        correctionFieldPx =
                form == LearnedModels.Form.SIX && toldOfCuts ? LevelCorrection.SIX_FIELD_PX : LevelCorrection.FIELD_PX;
    }

    private static Network load(String file) {
        return Network.load(file, Methods.LEARNED, Methods.PATCH);
    }

    /** @throws IllegalStateException in plain words when the model that ships is broken */
    static Learned instance(String model) {
        return LOADED.computeIfAbsent(model, Learned::new);
    }

    @Override
    public int margin(CfaPattern pattern) {
        return MARGIN;
    }

    @Override
    public Planes estimate(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        if (form == LearnedModels.Form.PICTURE || !form.suits(pattern)) {
            throw new IllegalArgumentException("This model is for sensors of another colour pattern.");
        }
        Planes out = run(noisy, pattern, noise, gains);
        List<Object> law = List.of(noise, Arrays.stream(gains).boxed().toList());
        corrections
                .computeIfAbsent(
                        law,
                        key -> LevelCorrection.of(
                                noise,
                                form.pattern,
                                mosaic -> run(mosaic, form.pattern, noise, gains),
                                gains,
                                correctionFieldPx))
                .apply(out);
        return out;
    }

    private Planes run(Planes noisy, CfaPattern pattern, SensorNoise noise, double[] gains) {
        Region r = noisy.region();
        RootScale scale = RootScale.of(noise.law(), gains);
        CellGrid grid = pattern.isBayer() ? CellGrid.overBayer(r, pattern) : CellGrid.over(r);
        Network network = noise.law().a().get(1) <= littleUpToA ? ofLittleNoise : ofMuchNoise;
        MosaicPlanes planes = new MosaicPlanes(noisy, pattern, gains, scale, grid);
        Planes[] out = new Planes[1];
        network.run(
                grid.across(),
                grid.down(),
                input -> planes.write(input, network.planesIn(), noise),
                CellGrid.PLANES,
                answer -> out[0] = grid.picture(answer, r, gains, scale));
        return out[0];
    }

    /** The network of a model for pictures in full colour, see {@link PictureLearned}. */
    Network ofPictures() {
        if (form != LearnedModels.Form.PICTURE) {
            throw new IllegalArgumentException("This model is for sensors, not for rendered pictures.");
        }
        return ofMuchNoise;
    }
}
