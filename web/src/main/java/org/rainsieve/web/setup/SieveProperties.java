package org.rainsieve.web.setup;

import java.nio.file.Path;
import java.util.List;
import org.springframework.boot.context.properties.ConfigurationProperties;

/**
 * How this installation is set up.
 *
 * @param roots folders below which frames may be taken in
 * @param cache folder for thumbnails
 * @param cards places where cards are mounted, or below which they are
 * @param uploads folder in which shoots of dropped files lie
 * @param lenses folders with lens profiles, one's own and those of the open database
 * @param heartbeatMs how often a worker says that it lives
 * @param missedHeartbeats after how many missed ones its work is taken over
 * @param verifyEveryTile every n-th tile of a written return is decoded again
 * @param thumbnailMb so much room thumbnails may take
 * @param returns folder in which returns may lie in a tree of their own; null without one
 * @param inbox of a catalogue, to which returns may go; null without one
 * @param catalogue address at which the catalogue tells what it holds; empty without one
 * @param quiet hours in which no item is begun, such as 08:00-18:00; empty for none
 * @param keepFreeMb so much stays free on the disk that returns go to; runs wait before they go below it
 */
@ConfigurationProperties("sieve")
public record SieveProperties(
        List<Path> roots,
        Path cache,
        List<Path> cards,
        Path uploads,
        List<Path> lenses,
        long heartbeatMs,
        int missedHeartbeats,
        int verifyEveryTile,
        int keepFreeMb,
        int thumbnailMb,
        Path returns,
        Path inbox,
        String catalogue,
        String quiet) {
    public SieveProperties {
        roots = roots == null ? List.of() : roots;
        lenses = lenses == null ? List.of() : lenses;
        cards = cards == null ? List.of() : cards;
        returns = returns == null || returns.toString().isEmpty() ? null : returns;
        inbox = inbox == null || inbox.toString().isEmpty() ? null : inbox;
    }

    public long leaseMs() {
        return heartbeatMs * missedHeartbeats;
    }
}
