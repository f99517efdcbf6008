package org.rainsieve.web.catalogue;

import java.util.Locale;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.run.ReturnForm;

/**
 * A version of a frame as the Catalogue page lists it.
 *
 * @param where in words
 * @param folder that it lies in, or lay before it was discarded
 * @param there whether its file lies where it should
 */
public record ReturnOnPage(
        long id,
        int version,
        ReturnForm form,
        String state,
        String name,
        Long sizeBytes,
        Double noiseLeft,
        String settings,
        String where,
        String folder,
        boolean there) {

    public boolean discarded() {
        return "discarded".equals(state);
    }

    /** What it was made with, so that versions can be told apart. */
    static String inWords(ResolvedSettings settings) {
        StringBuilder words = new StringBuilder();
        words.append(
                settings.denoise().on()
                        ? String.format(
                                Locale.ROOT,
                                "%s · grain %.0f\u00a0%% · colour noise %.0f\u00a0%%",
                                settings.denoise().method(),
                                settings.denoise().grainKeptPercent(),
                                settings.denoise().colourNoiseKeptPercent())
                        : "denoise off");
        if (settings.denoise().on() && settings.denoise().detailPercent() > 0) {
            words.append(String.format(
                    Locale.ROOT, " · detail %.0f\u00a0%%", settings.denoise().detailPercent()));
        }
        if (!settings.masks().isEmpty()) {
            words.append(
                    settings.masks().size() == 1
                            ? " · 1 mask"
                            : " · " + settings.masks().size() + " masks");
        }
        if (!settings.sharpen().idle()) {
            words.append(" · sharpen");
        }
        if (!settings.optics().idle()) {
            words.append(" · optics");
        }
        if (!settings.crop().idle()) {
            words.append(" · crop");
        }
        if (settings.enlarge().on()) {
            words.append(" · enlarge");
        }
        return words.toString();
    }
}
