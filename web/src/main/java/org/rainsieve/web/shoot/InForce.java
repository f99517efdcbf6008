package org.rainsieve.web.shoot;

import java.util.HashMap;
import java.util.Map;
import org.rainsieve.book.Page;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.noise.DefectMap;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.web.book.BookService;
import tools.jackson.databind.json.JsonMapper;

/** What the camera book says for many frames, each page and law looked up once. */
public final class InForce {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final ShootService shoots;
    private final BookService book;
    private final Map<String, Page> pages = new HashMap<>();
    private final Map<String, NoiseModel> laws = new HashMap<>();
    private final Map<String, DefectMap> defects = new HashMap<>();

    public InForce(ShootService shoots, BookService book) {
        this.shoots = shoots;
        this.book = book;
    }

    public Page page(String camera) {
        return pages.computeIfAbsent(camera, name -> book.page(name).page());
    }

    /** The pooled law of the sensor's ISO, whatever the push. */
    public NoiseModel law(String camera, int iso) {
        return laws.computeIfAbsent(camera + "\n" + iso, key -> shoots.pooledNoise(camera, iso));
    }

    /** The defects of a body, for pictures of one size. */
    public DefectMap defects(String camera, int width, int height) {
        return defects.computeIfAbsent(
                camera + "\n" + width + "\n" + height, key -> book.defectsForRun(camera, width, height));
    }

    /** A frame's own settings if it has any, else its rung's. */
    public DenoiseSettings settings(String camera, double ei, String ownSettings) {
        return ownSettings == null ? page(camera).at(ei) : JSON.readValue(ownSettings, DenoiseSettings.class);
    }
}
