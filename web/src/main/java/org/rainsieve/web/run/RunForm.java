package org.rainsieve.web.run;

import com.fasterxml.jackson.annotation.JsonInclude;
import java.util.EnumSet;
import java.util.List;
import java.util.Objects;
import java.util.Set;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.web.setup.NotPossibleException;

/**
 * A run's choices as a form sends them, and as they are kept for the next time; what is missing is as usual.
 *
 * @param frames numbers of those that were chosen
 * @param formsAsked a form on which nothing is checked sends nothing: then none is wanted
 * @param once a word of the form, by which it starts one run however often it is sent
 * @param keepAs a name to keep the choices under
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
record RunForm(
        Long shoot,
        Take take,
        List<Long> frames,
        Boolean again,
        Boolean replaces,
        String destination,
        Boolean evenGrain,
        String enlargeBy,
        Double enlargeValue,
        Double ppi,
        EnlargeSettings.Edges edges,
        Boolean blockEdges,
        Double outputBite,
        Set<ReturnForm> forms,
        Boolean formsAsked,
        DeliverySpace space,
        Double deliveryPpi,
        Integer quality,
        Integer longEdge,
        String naming,
        Boolean carryEdits,
        Boolean notePush,
        Boolean copyOriginals,
        String once,
        String keepAs) {
    private static final double PPI = 300;
    private static final int QUALITY = 90;
    /** Until the readings of JPEGs tell theirs. */
    private static final int JPEG_QUALITY = 60;

    private static boolean yes(Boolean value) {
        return Boolean.TRUE.equals(value);
    }

    private static <T> T or(T value, T usual) {
        return Objects.requireNonNullElse(value, usual);
    }

    /** The choices without the frames of this one time. */
    RunForm kept() {
        return new RunForm(
                null,
                null,
                null,
                again,
                replaces,
                or(destination, "beside"),
                evenGrain,
                enlargeBy,
                enlargeValue,
                ppi,
                edges,
                blockEdges,
                outputBite,
                chosenForms(),
                true,
                space,
                deliveryPpi,
                quality,
                longEdge,
                naming,
                carryEdits,
                notePush,
                copyOriginals,
                null,
                null);
    }

    private Set<ReturnForm> chosenForms() {
        if (forms == null || forms.isEmpty()) {
            return yes(formsAsked) ? Set.of() : Set.of(ReturnForm.DNG);
        }
        return EnumSet.copyOf(forms);
    }

    /** @throws NotPossibleException in plain words for choices that cannot be made */
    RunRequest request(long shootId) {
        try {
            String by = or(enlargeBy, "");
            EnlargeSettings enlarge = by.isEmpty()
                    ? EnlargeSettings.OFF
                    : new EnlargeSettings(
                            true,
                            EnlargeSettings.By.valueOf(by),
                            or(enlargeValue, 2.0),
                            or(ppi, PPI),
                            or(edges, EnlargeSettings.Edges.NATURAL),
                            yes(blockEdges),
                            JPEG_QUALITY,
                            or(outputBite, 0.0),
                            "");
            DeliverySettings delivery = new DeliverySettings(
                    DeliverySettings.Form.TIFF,
                    or(space, DeliverySpace.SRGB),
                    or(deliveryPpi, PPI),
                    true,
                    or(quality, QUALITY),
                    0,
                    or(longEdge, 0));
            // Who says nothing of it, as a script does, means every frame.
            return new RunRequest(
                    shootId,
                    or(take, Take.ALL),
                    frames == null ? Set.of() : Set.copyOf(frames),
                    take == null || yes(again),
                    yes(replaces),
                    or(destination, "beside"),
                    yes(evenGrain),
                    enlarge,
                    chosenForms(),
                    delivery,
                    or(naming, ""),
                    new RunRequest.Along(yes(carryEdits), yes(notePush), yes(copyOriginals)));
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". No run was started.");
        }
    }
}
