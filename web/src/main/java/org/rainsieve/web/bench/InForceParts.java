package org.rainsieve.web.bench;

import org.rainsieve.colour.ViewLook;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.Region;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.shoot.FrameForWork;

/**
 * A part of a frame's result about a place of the frame: what several frames are compared by.
 *
 * @param region of the result, moved inside it where it would look over its rim
 */
record InForceParts(FrameForWork frame, ResolvedSettings settings, Region region) {
    /**
     * @param settings what the frame comes out with
     * @param x place on the frame as the sensor lies, as a share of its width
     * @param y the same of its height; a crop that is carried out moves it little or cuts it off
     */
    static InForceParts about(
            FrameForWork frame, ResolvedSettings settings, double x, double y, int widthPx, int heightPx) {
        EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), settings.crop(), settings.enlarge());
        int w = Math.max(1, Math.min(widthPx, size.width()));
        int h = Math.max(1, Math.min(heightPx, size.height()));
        int left = (int) Math.max(0, Math.min(size.width() - w, Math.round(x * size.width() - w / 2.0)));
        int top = (int) Math.max(0, Math.min(size.height() - h, Math.round(y * size.height() - h / 2.0)));
        return new InForceParts(frame, settings, new Region(left, top, w, h));
    }

    private Question.Subject subject() {
        return new Question.Subject(frame.id(), settings.toJson());
    }

    Question picture(ViewLook look) {
        return new View(Question.Which.AFTER, false, region, look).of(subject(), Question.Asker.NOBODY);
    }

    Question figures() {
        return new Question.Figures(subject(), region, Question.Asker.NOBODY);
    }
}
