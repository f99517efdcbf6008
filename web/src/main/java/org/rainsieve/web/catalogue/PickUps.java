package org.rainsieve.web.catalogue;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.rainsieve.file.Sha256;
import org.rainsieve.web.run.Returns;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.dao.DataAccessException;
import org.springframework.scheduling.annotation.Scheduled;
import org.springframework.stereotype.Component;

/** Notices which returns a catalogue has moved out of its inbox: they are not missing, they have arrived. */
@Component
@ConditionalOnWebApplication
class PickUps {
    private final Returns returns;
    private final CatalogueClient catalogue;

    PickUps(Returns returns, CatalogueClient catalogue) {
        this.returns = returns;
        this.catalogue = catalogue;
    }

    /** By its bytes: whatever else an answer names is not the return. */
    private static boolean isReturn(Path place, Returns.InInbox item) {
        try {
            return Files.isRegularFile(place, LinkOption.NOFOLLOW_LINKS)
                    && Files.size(place) == item.sizeBytes()
                    && Sha256.of(place).equals(item.hash());
        } catch (IOException e) {
            return false; // looked at again in a while
        }
    }

    @Scheduled(fixedDelay = 2_000, initialDelay = 3_000)
    void look() {
        if (!catalogue.setUp()) {
            return;
        }
        try {
            List<Returns.InInbox> gone = returns.inInbox().stream()
                    .filter(item -> !Files.exists(Path.of(item.path())))
                    .toList();
            if (gone.isEmpty()) {
                return;
            }
            Map<String, Path> held = catalogue.held();
            for (Returns.InInbox item : gone) {
                Path place = held.get(item.hash());
                if (place != null && isReturn(place, item)) {
                    returns.pickedUp(item.id(), place);
                }
            }
        } catch (DataAccessException e) {
            // Looked again in a while.
        }
    }
}
