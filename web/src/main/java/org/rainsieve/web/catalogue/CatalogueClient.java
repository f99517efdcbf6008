package org.rainsieve.web.catalogue;

import java.io.ByteArrayOutputStream;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.ByteBuffer;
import java.nio.file.Path;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionStage;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.Flow;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
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

    private static final Duration LONGEST = Duration.ofSeconds(10);

    /** A hundred thousand pictures are told in 20 MB. */
    private static final int MOST_BYTES = 64 << 20;

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
            // The request's own time ends with the first line of the answer: this one is for all of it.
            CompletableFuture<HttpResponse<byte[]>> asked = client.sendAsync(request, answer -> new Limited());
            byte[] told;
            try {
                told = asked.get(LONGEST.toMillis(), TimeUnit.MILLISECONDS).body();
            } finally {
                asked.cancel(true);
            }
            Map<String, Path> held = new HashMap<>();
            for (JsonNode picture : JSON.readTree(told)) {
                held.put(
                        picture.path("sha256").asString(""),
                        Path.of(picture.path("path").asString("")));
            }
            return held;
        } catch (ExecutionException | TimeoutException | JacksonException | IllegalArgumentException e) {
            LOG.debug("The catalogue does not answer", e);
            return Map.of();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return Map.of();
        }
    }

    /** Takes an answer in up to a size, and no further. */
    private static final class Limited implements HttpResponse.BodySubscriber<byte[]> {
        private final ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        private final CompletableFuture<byte[]> body = new CompletableFuture<>();
        private Flow.Subscription subscription;

        @Override
        public CompletionStage<byte[]> getBody() {
            return body;
        }

        @Override
        public void onSubscribe(Flow.Subscription given) {
            subscription = given;
            given.request(Long.MAX_VALUE);
        }

        @Override
        public void onNext(List<ByteBuffer> parts) {
            for (ByteBuffer part : parts) {
                if (bytes.size() + part.remaining() > MOST_BYTES) {
                    subscription.cancel();
                    body.completeExceptionally(new IOException("The answer is larger than a catalogue's"));
                    return;
                }
                byte[] some = new byte[part.remaining()];
                part.get(some);
                bytes.writeBytes(some);
            }
        }

        @Override
        public void onError(Throwable problem) {
            body.completeExceptionally(problem);
        }

        @Override
        public void onComplete() {
            body.complete(bytes.toByteArray());
        }
    }
}
