package org.rainsieve.web.rendering;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.HexFormat;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.rainsieve.delivery.Delivery;
import org.rainsieve.frame.CancelledException;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.run.ItemRow;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.shoot.ShootService;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/**
 * Renders regions for the viewer, in the worker, because files are never opened in the web process. Listens on loopback;
 * only who knows the secret in the database is answered.
 */
public final class PictureServer implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(PictureServer.class);
    private static final JsonMapper JSON = new JsonMapper();

    private final Returns returns;
    private final WorkingMemory memory;
    private final ViewerFirst viewerFirst;
    private final HttpServer server;
    private final String secret;
    /** Pictures that are made at once; whoever else asks waits, and is asked again whether he still wants to. */
    private final Semaphore makers = new Semaphore(2, true);

    private final Turns turns = new Turns();
    private final OpenFrames frames;
    private final Renderer renderer;

    public PictureServer(
            Returns returns, ShootService shoots, BookService book, WorkingMemory memory, ViewerFirst viewerFirst)
            throws IOException {
        this.returns = returns;
        this.memory = memory;
        this.viewerFirst = viewerFirst;
        this.frames = new OpenFrames(memory);
        this.renderer = new Renderer(returns, shoots, book, memory, frames, turns);
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        secret = HexFormat.of().formatHex(random);
        server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.setExecutor(Executors.newCachedThreadPool());
        server.createContext("/ask", exchange -> inTurn(exchange, this::ask));
        server.createContext("/deliver", exchange -> inTurn(exchange, this::deliver));
        server.createContext("/left", this::leave);
        server.start();
    }

    public String address() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    public String secret() {
        return secret;
    }

    private boolean allowed(HttpExchange exchange) throws IOException {
        byte[] given = String.valueOf(exchange.getRequestHeaders().getFirst("X-Sieve-Secret"))
                .getBytes(StandardCharsets.UTF_8);
        boolean allowed = MessageDigest.isEqual(given, secret.getBytes(StandardCharsets.UTF_8));
        if (!allowed) {
            exchange.sendResponseHeaders(403, -1);
        }
        return allowed;
    }

    /** What a page has asked for is not wanted any more: it was left. */
    private void leave(HttpExchange exchange) throws IOException {
        try (exchange) {
            if (allowed(exchange)) {
                turns.left(JSON.readValue(exchange.getRequestBody().readAllBytes(), Left.class)
                        .viewer());
                exchange.sendResponseHeaders(204, -1);
            }
        }
    }

    private interface Work {
        void of(HttpExchange exchange) throws IOException, RefusedException, DeliveryException;
    }

    private void inTurn(HttpExchange exchange, Work work) throws IOException {
        try (exchange) {
            if (allowed(exchange)) {
                makers.acquireUninterruptibly();
                try {
                    answered(exchange, work);
                } finally {
                    makers.release();
                }
            }
        }
    }

    private void answered(HttpExchange exchange, Work work) throws IOException {
        viewerFirst.begin();
        try {
            work.of(exchange);
        } catch (RefusedException | NotFoundException e) {
            say(exchange, 404, e.getMessage());
        } catch (CancelledException e) {
            say(exchange, 410, "This is not asked for any more.");
        } catch (DeliveryException e) {
            say(exchange, 400, e.getMessage());
        } catch (Renderer.OutsideException e) {
            say(exchange, 400, "The region asked for lies outside the picture.");
        } catch (OutOfMemoryError e) {
            LOG.warn("A region takes more memory than there is", e);
            say(
                    exchange,
                    400,
                    "This picture takes more memory than the worker may use. Give it more with SIEVE_MEMORY_MB.");
        } catch (RuntimeException e) {
            LOG.warn("A region could not be rendered", e);
            say(
                    exchange,
                    400,
                    "Something went wrong inside Rain Sieve while this picture was made. Look again; if it stays, report it"
                            + " with the log.");
        } finally {
            viewerFirst.end();
        }
    }

    private static void say(HttpExchange exchange, int status, String words) throws IOException {
        send(exchange, status, words.getBytes(StandardCharsets.UTF_8));
    }

    private static void send(HttpExchange exchange, int status, byte[] body) throws IOException {
        exchange.sendResponseHeaders(status, body.length);
        exchange.getResponseBody().write(body);
    }

    private void ask(HttpExchange exchange) throws IOException, RefusedException {
        Question question = JSON.readValue(exchange.getRequestBody().readAllBytes(), Question.class);
        byte[] answer;
        try {
            answer = question.answeredBy(renderer);
        } catch (OutOfMemoryError e) {
            // With all that is only kept let go.
            LOG.warn("A region ran out of memory and is made again with all the room there is");
            memory.clear();
            answer = question.answeredBy(renderer);
        }
        send(exchange, 200, answer);
    }

    /** Why a delivery could not be made, in plain words. */
    private static final class DeliveryException extends Exception {
        private static final long serialVersionUID = 1;

        DeliveryException(String words) {
            super(words);
        }
    }

    /** A copy of a return as TIFF or JPEG, made in a file of its own and sent from there. */
    private void deliver(HttpExchange exchange) throws IOException, RefusedException, DeliveryException {
        Copy asked = JSON.readValue(exchange.getRequestBody().readAllBytes(), Copy.class);
        ItemRow row = returns.item(asked.item());
        if (!row.form().linear()) {
            throw new DeliveryException("Copies are made from linear DNGs, and this return is a "
                    + row.form().title() + " already.");
        }
        RawOpener.Opened opened = frames.of(row.path()).opened;
        Path folder = OwnFiles.scratch("delivery");
        Path file = folder.resolve("delivery");
        try {
            try {
                Delivery.write(Path.of(row.finalPath()), opened.frame().colour(), asked.settings(), file);
            } catch (IOException e) {
                throw new DeliveryException(e.getMessage());
            }
            exchange.sendResponseHeaders(200, Files.size(file));
            Files.copy(file, exchange.getResponseBody());
        } finally {
            OwnFiles.remove(file);
            OwnFiles.remove(folder);
        }
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
