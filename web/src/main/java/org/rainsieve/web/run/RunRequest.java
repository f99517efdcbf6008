package org.rainsieve.web.run;

import java.util.Set;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.web.files.ReturnNames;

/**
 * What a run is asked to do.
 *
 * @param chosen numbers of frames, for {@link Take#CHOSEN}
 * @param again also what has a return already that is as it would be made now
 * @param replaces each return takes the place of the one before, which goes among the discarded
 * @param evenGrain each camera's frames come out with the least grain among them
 * @param enlarge of all of them; what is as large already stays as it is
 * @param forms of which each frame gets a return; TIFFs that were handed over come back as TIFFs whatever they are
 * @param delivery for forms other than linear DNG
 * @param naming pattern of the returns' names, see {@link ReturnNames}; empty for the usual
 */
public record RunRequest(
        long shootId,
        Take take,
        Set<Long> chosen,
        boolean again,
        boolean replaces,
        String destination,
        boolean evenGrain,
        EnlargeSettings enlarge,
        Set<ReturnForm> forms,
        DeliverySettings delivery,
        String naming,
        Along along) {

    /**
     * What goes along with the pictures.
     *
     * @param edits exposure and colour edits that the originals' XMP holds go on into the returns
     * @param push linear DNGs of pushed frames ask editors to show them as bright as pushed
     * @param originals originals, with their sidecars, are copied to where returns go, unless they lie there
     */
    public record Along(boolean edits, boolean push, boolean originals) {
        static final Along NOTHING = new Along(false, false, false);
    }

    /** Copies of returns: as they are, of all that there are. */
    public static RunRequest copies(long shootId, String destination, ReturnForm form, DeliverySettings delivery) {
        return new RunRequest(
                shootId,
                Take.ALL,
                Set.of(),
                true,
                false,
                destination,
                false,
                EnlargeSettings.OFF,
                Set.of(form),
                delivery,
                "",
                Along.NOTHING);
    }

    /** The same of these frames, made again. */
    public RunRequest of(Set<Long> frames) {
        return new RunRequest(
                shootId,
                Take.CHOSEN,
                frames,
                true,
                replaces,
                destination,
                evenGrain,
                enlarge,
                forms,
                delivery,
                naming,
                along);
    }

    /** The pattern to remember; null for the usual one. */
    String ownNaming() {
        return naming.isBlank() || naming.strip().equals(ReturnNames.USUAL) ? null : naming.strip();
    }
}
