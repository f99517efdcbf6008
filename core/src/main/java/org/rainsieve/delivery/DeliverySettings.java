package org.rainsieve.delivery;

import org.rainsieve.colour.DeliverySpace;

/**
 * How a finished picture is handed over.
 *
 * @param ppi pixels per inch that the file tells printers
 * @param deflate compress a TIFF without loss
 * @param qualityPercent of a JPEG, 1 to 100
 * @param mostKilobytes a JPEG takes less quality to stay below; 0 for as large as it comes
 * @param longEdgePx reduce to that long edge; 0 for its own size
 */
public record DeliverySettings(
        Form form,
        DeliverySpace space,
        double ppi,
        boolean deflate,
        int qualityPercent,
        int mostKilobytes,
        int longEdgePx) {
    public enum Form {
        TIFF,
        JPEG
    }

    public DeliverySettings {
        if (form == null || space == null) {
            throw new IllegalArgumentException("A delivery needs a form and a colour space");
        }
        if (!(ppi >= 1 && ppi <= 2400)) {
            throw new IllegalArgumentException("Pixels per inch must be 1 to 2,400, not " + ppi);
        }
        if (qualityPercent < 1 || qualityPercent > 100) {
            throw new IllegalArgumentException("The quality of a JPEG must be 1 to 100 %, not " + qualityPercent);
        }
        if (mostKilobytes != 0 && mostKilobytes < 20) {
            throw new IllegalArgumentException("A JPEG cannot be held below 20 kB");
        }
        if (longEdgePx != 0 && longEdgePx < 16) {
            throw new IllegalArgumentException("The long edge must be at least 16 px, not " + longEdgePx);
        }
    }

    /** The same at another resolution. */
    public DeliverySettings atPpi(double other) {
        return new DeliverySettings(form, space, other, deflate, qualityPercent, mostKilobytes, longEdgePx);
    }

    /** The same, not reduced. */
    public DeliverySettings atOwnSize() {
        return new DeliverySettings(form, space, ppi, deflate, qualityPercent, mostKilobytes, 0);
    }
}
