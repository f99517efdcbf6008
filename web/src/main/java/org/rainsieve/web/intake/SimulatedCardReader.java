package org.rainsieve.web.intake;

import java.io.FilterInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Path;
import java.util.concurrent.atomic.AtomicInteger;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.context.annotation.Profile;
import org.springframework.stereotype.Component;

/** The demo's card reader: a folder laid out as a card, with one file that breaks off when it is read for the first time. */
@Component
@Profile("demo")
class SimulatedCardReader extends CardReader {
    /** A contact that is not quite clean. */
    private static final String SHAKY = "OSSL0003";

    private static final int BREAKS_AFTER = 100_000;

    private final AtomicInteger opened = new AtomicInteger();

    SimulatedCardReader(SieveProperties properties) {
        super(properties);
    }

    @Override
    InputStream open(Path file) throws IOException {
        InputStream in = super.open(file);
        if (!file.getFileName().toString().startsWith(SHAKY) || opened.getAndIncrement() > 0) {
            return in;
        }
        return new FilterInputStream(in) {
            private int left = BREAKS_AFTER;

            @Override
            public int read(byte[] bytes, int from, int count) throws IOException {
                int n = super.read(bytes, from, Math.min(count, Math.max(1, left)));
                left -= n;
                if (left <= 0) {
                    throw new IOException("The card does not answer");
                }
                return n;
            }
        };
    }
}
