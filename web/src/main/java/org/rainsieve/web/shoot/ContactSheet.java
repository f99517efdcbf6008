package org.rainsieve.web.shoot;

import java.util.HashMap;
import java.util.List;
import java.util.Map;
import org.rainsieve.book.Page;
import org.rainsieve.book.Strays;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.reading.Reading;
import org.rainsieve.web.book.BookService;
import org.springframework.stereotype.Service;
import tools.jackson.databind.json.JsonMapper;

/** The frames of a shoot with what the camera book makes of each: amounts in force, and strays with their reason. */
@Service
public class ContactSheet {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    private final ShootService shoots;
    private final BookService book;

    ContactSheet(ShootService shoots, BookService book) {
        this.shoots = shoots;
        this.book = book;
    }

    public List<FrameOnSheet> frames(long shootId) {
        Map<String, NoiseModel> laws = new HashMap<>();
        Map<String, Page> pages = new HashMap<>();
        return shoots.frames(shootId).stream()
                .map(row -> onSheet(row, laws, pages))
                .toList();
    }

    private FrameOnSheet onSheet(FrameRow row, Map<String, NoiseModel> laws, Map<String, Page> pages) {
        if (!"ready".equals(row.state())) {
            return new FrameOnSheet(row, "", Double.NaN, "");
        }
        Page page =
                pages.computeIfAbsent(row.camera(), camera -> book.page(camera).page());
        String amounts = inWords(page.at(Math.max(1, row.iso())));
        if (row.reading() == null) {
            return new FrameOnSheet(row, "", Double.NaN, amounts); // read before readings were kept
        }
        NoiseModel law = laws.computeIfAbsent(
                row.camera() + "\n" + row.iso(), key -> shoots.pooledNoise(row.camera(), row.iso()));
        Reading reading = JSON.readValue(row.reading(), Reading.class);
        String stray = row.verdict() != null ? "" : String.join("; ", Strays.reasons(reading, law));
        return new FrameOnSheet(row, stray, Strays.noiseOff(reading, law), amounts);
    }

    private static String inWords(DenoiseSettings settings) {
        if (!settings.on()) {
            return "denoise off";
        }
        return settings.method() + " · grain " + Math.round(settings.grainKeptPercent()) + " %";
    }
}
