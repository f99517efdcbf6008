package org.rainsieve.web.catalogue;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.rainsieve.web.setup.SieveProperties;

/** What a catalogue answers is somebody else's: taken where it is what was asked for, and never without an end. */
class CatalogueClientTest {
    private HttpServer server;
    private CatalogueClient client;

    @BeforeEach
    void set() throws IOException {
        server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.setExecutor(Executors.newCachedThreadPool());
        server.start();
        client = new CatalogueClient(new SieveProperties(
                List.of(),
                Path.of("."),
                List.of(),
                Path.of("."),
                List.of(),
                1000,
                6,
                16,
                0,
                64,
                null,
                null,
                "http://127.0.0.1:" + server.getAddress().getPort(),
                null));
    }

    @AfterEach
    void stop() {
        server.stop(0);
    }

    @Test
    void whatItHoldsIsTold() {
        server.createContext("/pictures", exchange -> {
            try (exchange) {
                byte[] body = "[{\"sha256\":\"ab\",\"path\":\"/library/a.dng\"}]".getBytes(StandardCharsets.UTF_8);
                exchange.sendResponseHeaders(200, body.length);
                exchange.getResponseBody().write(body);
            }
        });
        assertThat(client.held()).isEqualTo(Map.of("ab", Path.of("/library/a.dng")));
    }

    @Test
    void anAnswerWithoutEndIsBrokenOff() {
        server.createContext("/pictures", exchange -> {
            try (exchange) {
                exchange.sendResponseHeaders(200, 0);
                byte[] more = "[[[[[[[[".repeat(8192).getBytes(StandardCharsets.UTF_8);
                while (true) {
                    exchange.getResponseBody().write(more); // until nobody listens
                }
            }
        });
        assertThat(client.held()).isEmpty();
    }

    @Test
    void nonsenseIsNothing() {
        server.createContext("/pictures", exchange -> {
            try (exchange) {
                exchange.sendResponseHeaders(200, 0);
                exchange.getResponseBody().write("<html>".getBytes(StandardCharsets.UTF_8));
            }
        });
        assertThat(client.held()).isEmpty();
    }
}
