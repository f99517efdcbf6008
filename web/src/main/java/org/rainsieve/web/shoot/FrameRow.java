package org.rainsieve.web.shoot;

/** A frame on the contact sheet. Unknown values are null. */
public record FrameRow(
        long id,
        String name,
        String state,
        String reason,
        String camera,
        Integer iso,
        Double exposureSeconds,
        Integer width,
        Integer height,
        String reading,
        String verdict,
        String mark,
        String takenAt,
        Double push,
        String pushFrom,
        Double compensation,
        boolean dark,
        String steps,
        String lens,
        Double focalLengthMm,
        int looked,
        Integer rating,
        String keywords,
        Long returnedItem,
        String itemState) {

    /** Exposure index, at which the amounts are looked up. */
    public double ei() {
        return FrameForWork.ei(iso, push);
    }

    /** One word for where the frame stands: its newest item's state once it has one, else its own. */
    public String standing() {
        if ("held".equals(verdict) && itemState == null) {
            return "held back";
        }
        return itemState == null ? state : itemState.equals("taken") ? "running" : itemState;
    }

    public String exposure() {
        if (exposureSeconds == null) {
            return "";
        }
        return exposureSeconds < 0.4 ? "1/" + Math.round(1 / exposureSeconds) + " s" : exposureSeconds + " s";
    }
}
