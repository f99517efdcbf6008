package org.rainsieve.web.run;

import java.util.Set;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.web.files.ReturnNames;

/**
 * What a run is asked to do with all ready frames of a shoot.
 *
 * @param evenGrain each camera's frames come out with the least grain among them
 * @param enlarge of all of them; what it asks for must be possible for each
 * @param forms of which each frame gets a return; TIFFs that were handed over come back as TIFFs whatever they are
 * @param delivery for forms other than linear DNG
 * @param naming pattern of the returns' names, see {@link ReturnNames}; empty for the usual
 * @param carryEdits whether exposure and colour edits that the originals' XMP holds go on into the returns
 * @param copyOriginals whether originals, with their sidecars, are copied to where returns go, unless they lie there
 */
public record RunRequest(
        long shootId,
        String destination,
        boolean evenGrain,
        EnlargeSettings enlarge,
        Set<ReturnForm> forms,
        DeliverySettings delivery,
        String naming,
        boolean carryEdits,
        boolean copyOriginals) {

    /** The pattern to remember; null for the usual one. */
    String ownNaming() {
        return naming.isBlank() || naming.strip().equals(ReturnNames.USUAL) ? null : naming.strip();
    }
}
