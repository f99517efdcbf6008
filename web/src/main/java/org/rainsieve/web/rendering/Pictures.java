package org.rainsieve.web.rendering;

import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.net.http.HttpTimeoutException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.concurrent.atomic.AtomicInteger;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.web.run.WorkerRow;
import org.rainsieve.web.run.Workers;
import org.rainsieve.web.setup.NotPossibleException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Component;
import tools.jackson.databind.json.JsonMapper;

/** Has pictures rendered by a worker, which alone opens files. */
@Component
@ConditionalOnWebApplication
public class Pictures {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    /** Of answers that say in plain words why there is no picture. */
    public static final MediaType WORDS = new MediaType(MediaType.TEXT_PLAIN, StandardCharsets.UTF_8);

    private static final String NO_WORKER =
            "No worker is running, so nothing can be rendered. Start one with ./sieve worker.";

    private static final String BUSY = "The worker is busy with this picture still. Look again in a while.";

    /** Pictures that are being waited for. */
    private final AtomicInteger waiting = new AtomicInteger();

    private final Workers workers;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();

    Pictures(Workers workers) {
        this.workers = workers;
    }

    /** What a worker answers to a question that was given up meanwhile. */
    private static final int GIVEN_UP = 410;

    /** What a worker answered: 200 and bytes, or another status and why in plain words. */
    public record Answer(int status, byte[] body) {
        public boolean ok() {
            return status == 200;
        }

        public String words() {
            return new String(body, StandardCharsets.UTF_8);
        }
    }

    /** A region as PNG, or a reduced picture as JPEG. */
    public ResponseEntity<byte[]> render(Question question) throws InterruptedException {
        Answer answer = ask(question);
        if (!answer.ok()) {
            return inWords(answer.status, answer.words());
        }
        boolean reduced = question instanceof Question.FrameReduced || question instanceof Question.ReturnReduced;
        return ResponseEntity.ok()
                .contentType(reduced ? MediaType.IMAGE_JPEG : MediaType.IMAGE_PNG)
                // Viewers keep regions themselves, and ask for each only once.
                .cacheControl(
                        reduced ? CacheControl.maxAge(Duration.ofMinutes(10)).cachePrivate() : CacheControl.noStore())
                .body(answer.body());
    }

    /**
     * A copy of a return for clients, streamed as a worker makes it.
     *
     * @throws NotPossibleException in plain words when it cannot be made
     */
    public InputStream deliver(long item, DeliverySettings settings) throws InterruptedException {
        String asked = JSON.writeValueAsString(new Copy(item, settings));
        for (WorkerRow worker : workers.workers()) {
            HttpRequest request = HttpRequest.newBuilder(URI.create(worker.address() + "/deliver"))
                    .header("X-Sieve-Secret", worker.secret())
                    .timeout(Duration.ofMinutes(30))
                    .POST(HttpRequest.BodyPublishers.ofString(asked))
                    .build();
            try {
                HttpResponse<InputStream> answer = client.send(request, HttpResponse.BodyHandlers.ofInputStream());
                if (answer.statusCode() == 200) {
                    return answer.body();
                }
                try (InputStream said = answer.body()) {
                    throw new NotPossibleException(new String(said.readAllBytes(), StandardCharsets.UTF_8));
                }
            } catch (IOException e) {
                continue;
            }
        }
        throw new NotPossibleException(NO_WORKER);
    }

    /** Tells every worker that nobody waits any more for what a page has asked for. */
    public void left(long viewer) {
        String left = JSON.writeValueAsString(new Left(viewer));
        for (WorkerRow worker : workers.workers()) {
            client.sendAsync(
                    HttpRequest.newBuilder(URI.create(worker.address() + "/left"))
                            .header("X-Sieve-Secret", worker.secret())
                            .timeout(Duration.ofSeconds(5))
                            .POST(HttpRequest.BodyPublishers.ofString(left))
                            .build(),
                    HttpResponse.BodyHandlers.discarding());
        }
    }

    public Answer ask(Question question) throws InterruptedException {
        String asked = JSON.writeValueAsString(question);
        int turn = waiting.incrementAndGet();
        try {
            return askInTurn(asked, turn);
        } finally {
            waiting.decrementAndGet();
        }
    }

    private Answer askInTurn(String asked, int turn) throws InterruptedException {
        String why = NO_WORKER;
        // A worker that was killed is listed until its lease ends: ask the next one.
        for (WorkerRow worker : workers.workers()) {
            HttpRequest request = HttpRequest.newBuilder(URI.create(worker.address() + "/ask"))
                    .header("X-Sieve-Secret", worker.secret())
                    .timeout(Duration.ofSeconds(60))
                    .POST(HttpRequest.BodyPublishers.ofString(asked))
                    .build();
            try {
                HttpResponse<byte[]> answer = sentTwice(request);
                int status = answer.statusCode();
                return new Answer(status == 200 || status == 404 || status == GIVEN_UP ? status : 422, answer.body());
            } catch (HttpConnectTimeoutException e) {
                continue;
            } catch (HttpTimeoutException e) {
                why = turn > 1
                        ? "The worker is busy: " + (turn - 1) + " other pictures are asked for. Look again in a while."
                        : BUSY;
            } catch (IOException e) {
                continue;
            }
        }
        return new Answer(503, why.getBytes(StandardCharsets.UTF_8));
    }

    /** A worker closes connections that were idle for a while, sometimes just as one is used again: the next one is fresh. */
    private HttpResponse<byte[]> sentTwice(HttpRequest request) throws IOException, InterruptedException {
        try {
            return client.send(request, HttpResponse.BodyHandlers.ofByteArray());
        } catch (HttpTimeoutException e) {
            throw e;
        } catch (IOException e) {
            return client.send(request, HttpResponse.BodyHandlers.ofByteArray());
        }
    }

    /** What a worker answered, or why it could not in plain words. */
    public static ResponseEntity<byte[]> answered(Answer answer, MediaType type) {
        return answer.ok()
                ? ResponseEntity.ok().contentType(type).body(answer.body())
                : inWords(answer.status, answer.words());
    }

    public static ResponseEntity<byte[]> inWords(int status, String words) {
        if (status == GIVEN_UP) {
            // Nobody waits for it, and nothing went wrong: no browser is to call it a failure.
            return ResponseEntity.noContent().build();
        }
        return ResponseEntity.status(status).contentType(WORDS).body(words.getBytes(StandardCharsets.UTF_8));
    }
}
