package org.rainsieve.web.intake;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.context.annotation.Profile;
import org.springframework.stereotype.Component;

/**
 * Cards that are in the machine: folders at the places where they are mounted that hold a DCIM folder (DCF, JEITA
 * CP-3461). Only ever read from.
 */
@Component
@Profile("!demo")
class CardReader {
    private final List<Path> places;

    CardReader(SieveProperties properties) {
        places = properties.cards();
    }

    /** Cards by the folders they are mounted at. */
    List<Path> cards() {
        List<Path> cards = new ArrayList<>();
        for (Path place : places) {
            if (isCard(place)) {
                cards.add(place);
                continue;
            }
            try (Stream<Path> below = Files.exists(place) ? Files.list(place) : Stream.empty()) {
                below.sorted().filter(CardReader::isCard).forEach(cards::add);
            } catch (IOException e) {
                // A place that cannot be listed has no cards that could be read.
            }
        }
        return cards;
    }

    private static boolean isCard(Path folder) {
        return Files.isDirectory(folder.resolve("DCIM"), LinkOption.NOFOLLOW_LINKS);
    }

    /** The files below DCIM in the order of their folders and names; links are not followed. */
    List<Path> files(Path card) throws IOException {
        try (Stream<Path> all = Files.walk(card.resolve("DCIM"), 3)) {
            return all.filter(file -> Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS))
                    .filter(file -> !file.getFileName().toString().startsWith("."))
                    .sorted()
                    .toList();
        }
    }

    InputStream open(Path file) throws IOException {
        return Files.newInputStream(file, LinkOption.NOFOLLOW_LINKS);
    }
}
