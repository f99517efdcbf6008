package org.rainsieve.web.run;

import org.rainsieve.delivery.DeliverySettings;

/** What a return is written as. */
public enum ReturnForm {
    DNG(".dng", "linear DNG"),
    COMPACT("-compact.dng", "compact linear DNG"),
    TIFF(".tif", "16-bit TIFF"),
    JPEG(".jpg", "JPEG");

    private final String ending;
    private final String title;

    ReturnForm(String ending, String title) {
        this.ending = ending;
        this.title = title;
    }

    /** Whether it is a linear DNG that anything else can be made of. */
    public boolean linear() {
        return this == DNG || this == COMPACT;
    }

    public String ending() {
        return ending;
    }

    public String title() {
        return title;
    }

    /** For forms that are developed from a linear DNG; the settings of a run are for all of them. */
    public DeliverySettings of(DeliverySettings run) {
        return new DeliverySettings(
                this == JPEG ? DeliverySettings.Form.JPEG : DeliverySettings.Form.TIFF,
                run.space(),
                run.ppi(),
                run.deflate(),
                run.qualityPercent(),
                run.mostKilobytes(),
                run.longEdgePx());
    }
}
