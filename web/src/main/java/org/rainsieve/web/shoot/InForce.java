package org.rainsieve.web.shoot;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.book.Page;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.mask.Mask;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.book.BodyNoise;
import org.rainsieve.web.book.BookService;

/** What the camera book says for many frames, each page and law looked up once. */
public final class InForce {
    private final BookService book;
    private final Map<String, Page> pages = new HashMap<>();
    private final Map<String, DenoiseSettings> rungs = new HashMap<>();
    private final Map<String, SharpenSettings> sharpened = new HashMap<>();
    private final Map<String, BodyNoise.Body> noise = new HashMap<>();
    private final Map<String, SettledLaw> laws = new HashMap<>();
    private final Map<String, Double> offLines = new HashMap<>();
    private final Map<String, CfaPattern> patterns = new HashMap<>();
    private final Map<String, DefectMap> defects = new HashMap<>();

    public InForce(BookService book) {
        this.book = book;
    }

    public Page page(String camera) {
        return pages.computeIfAbsent(camera, name -> book.page(name).page());
    }

    /** The colour pattern of the camera's sensor. */
    public CfaPattern pattern(String camera) {
        return patterns.computeIfAbsent(camera, book::pattern);
    }

    /** The pooled law of the sensor's ISO, whatever the push. */
    public SettledLaw law(String camera, int iso) {
        return laws.computeIfAbsent(camera + "\n" + iso, key -> noise(camera).at(iso));
    }

    private BodyNoise.Body noise(String camera) {
        return noise.computeIfAbsent(camera, book::noise);
    }

    /** See {@link BodyNoise.Body#offLine}. */
    double offLine(String camera, int iso) {
        return offLines.computeIfAbsent(
                camera + "\n" + iso, key -> noise(camera).offLine(iso));
    }

    /** The defects of a body, for pictures of one size. */
    public DefectMap defects(String camera, int width, int height) {
        return defects.computeIfAbsent(
                camera + "\n" + width + "\n" + height, key -> book.defectsForRun(camera, width, height));
    }

    /** A frame's own settings if it has any, else its rung's. */
    public DenoiseSettings settings(String camera, double ei, FrameSteps steps) {
        return steps.denoise() == null
                ? rungs.computeIfAbsent(camera + "\n" + ei, key -> page(camera).at(ei))
                : steps.denoise();
    }

    /** Masks of a frame: its rung's, as far as it takes them, and its own. */
    public List<Mask> masks(String camera, double ei, FrameSteps steps) {
        return steps.masksWith(page(camera).masksAt(ei));
    }

    /** The same for sharpening. */
    public SharpenSettings sharpen(String camera, double ei, FrameSteps steps) {
        return steps.sharpen() == null
                ? sharpened.computeIfAbsent(
                        camera + "\n" + ei, key -> page(camera).sharpenAt(ei))
                : steps.sharpen();
    }
}
