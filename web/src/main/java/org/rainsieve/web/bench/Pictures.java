package org.rainsieve.web.bench;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import org.rainsieve.web.run.RunService;
import org.rainsieve.web.run.WorkerRow;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Component;

/** Has pictures rendered by a worker, which alone opens files. */
@Component
@ConditionalOnWebApplication
class Pictures {
    private final RunService runs;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();

    Pictures(RunService runs) {
        this.runs = runs;
    }

    /**
     * @param of {@code item=} or {@code frame=} and its number
     * @param settings resolved settings as JSON, empty where the worker knows them
     */
    ResponseEntity<byte[]> render(String of, View view, String settings) throws InterruptedException {
        // A worker that was killed is listed until its lease ends: ask the next one.
        for (WorkerRow worker : runs.workers()) {
            HttpRequest request = HttpRequest.newBuilder(
                            URI.create(worker.address() + "/region?" + of + "&" + view.query()))
                    .header("X-Sieve-Secret", worker.secret())
                    .timeout(Duration.ofSeconds(60))
                    .POST(HttpRequest.BodyPublishers.ofString(settings))
                    .build();
            try {
                HttpResponse<byte[]> answer = client.send(request, HttpResponse.BodyHandlers.ofByteArray());
                if (answer.statusCode() != 200) {
                    return ResponseEntity.status(answer.statusCode() == 404 ? 404 : 422)
                            .contentType(MediaType.TEXT_PLAIN)
                            .body(answer.body());
                }
                return ResponseEntity.ok()
                        .contentType(view.overview() ? MediaType.IMAGE_JPEG : MediaType.IMAGE_PNG)
                        .cacheControl(
                                CacheControl.maxAge(Duration.ofMinutes(10)).cachePrivate())
                        .body(answer.body());
            } catch (IOException e) {
                continue;
            }
        }
        return inWords(503, "No worker is running, so nothing can be rendered. Start one with ./sieve worker.");
    }

    static ResponseEntity<byte[]> inWords(int status, String words) {
        return ResponseEntity.status(status)
                .contentType(new MediaType(MediaType.TEXT_PLAIN, StandardCharsets.UTF_8))
                .body(words.getBytes(StandardCharsets.UTF_8));
    }
}
