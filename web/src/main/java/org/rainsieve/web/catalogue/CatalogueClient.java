package org.rainsieve.web.catalogue;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.file.Path;
import java.time.Duration;
import java.util.HashMap;
import java.util.Map;
import org.rainsieve.web.setup.SieveProperties;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import org.springframework.stereotype.Component;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Asks the catalogue what it holds, where one answers. */
@Component
public class CatalogueClient {
    private static final Logger LOG = LoggerFactory.getLogger(CatalogueClient.class);
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final Duration PATIENCE = Duration.ofSeconds(3);

    private final String address;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(PATIENCE).build();

    CatalogueClient(SieveProperties properties) {
        address = properties.catalogue() == null ? "" : properties.catalogue();
    }

    public boolean setUp() {
        return !address.isEmpty();
    }

    /** Places of the pictures that the catalogue holds, by SHA-256; empty when there is none, or it does not answer now. */
    public Map<String, Path> held() {
        if (!setUp()) {
            return Map.of();
        }
        try {
            HttpRequest request = HttpRequest.newBuilder(URI.create(address + "/pictures"))
                    .timeout(PATIENCE)
                    .build();
            HttpResponse<String> answer = client.send(request, HttpResponse.BodyHandlers.ofString());
            Map<String, Path> held = new HashMap<>();
            for (JsonNode picture : JSON.readTree(answer.body())) {
                held.put(
                        picture.path("sha256").asString(""),
                        Path.of(picture.path("path").asString("")));
            }
            return held;
        } catch (IOException | JacksonException | IllegalArgumentException e) {
            LOG.debug("The catalogue does not answer", e);
            return Map.of();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Map.of();
        }
    }
}
