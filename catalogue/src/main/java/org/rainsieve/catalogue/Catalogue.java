package org.rainsieve.catalogue;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.stream.Stream;
import tools.jackson.databind.json.JsonMapper;

/**
 * A small stand-in for a photographer's catalogue, for the demo and for tests: it watches an inbox, looks at every file
 * that comes, stacks it with what it was made from, moves it among its pictures and answers over HTTP what it holds
 * ({@code /pictures}, {@code /refused}). What is not right it refuses and puts aside. It shares no code with the
 * application.
 */
public final class Catalogue {
    private static final long EVERY_MS = 500;
    private static final JsonMapper JSON = JsonMapper.builder().build();

    /** A file that was not taken. */
    record Refused(String name, String why) {}

    private final Path inbox;
    private final Path pictures;
    private final Path aside;
    private final Map<String, Picture> held = new ConcurrentHashMap<>();
    private final List<Refused> refused = new CopyOnWriteArrayList<>();
    /** Sizes of files in the inbox when they were last looked at: one that still grows is left for later. */
    private Map<Path, Long> sizes = new HashMap<>();

    private Catalogue(Path inbox, Path pictures) throws IOException {
        this.inbox = Files.createDirectories(inbox);
        this.pictures = Files.createDirectories(pictures);
        this.aside = pictures.resolve("refused");
    }

    /** Arguments: the inbox, the folder of pictures, and the port to answer on (loopback; 0 for any). */
    public static void main(String[] args) throws Exception {
        Catalogue catalogue = new Catalogue(Path.of(args[0]), Path.of(args[1]));
        catalogue.holdWhatIsThere();
        HttpServer server = HttpServer.create(
                new InetSocketAddress(InetAddress.getLoopbackAddress(), Integer.parseInt(args[2])), 0);
        server.createContext("/pictures", exchange -> answer(exchange, catalogue.present()));
        server.createContext("/refused", exchange -> answer(exchange, catalogue.refused));
        server.start();
        System.out.println("The catalogue answers at http://127.0.0.1:"
                + server.getAddress().getPort() + "/pictures");
        while (true) {
            catalogue.look();
            Thread.sleep(EVERY_MS);
        }
    }

    private static void answer(HttpExchange exchange, Object what) throws IOException {
        try (exchange) {
            byte[] body = JSON.writeValueAsBytes(what);
            exchange.getResponseHeaders().set("Content-Type", "application/json");
            exchange.sendResponseHeaders(200, body.length);
            exchange.getResponseBody().write(body);
        }
    }

    private List<Picture> present() {
        return held.values().stream()
                .filter(picture -> Files.exists(Path.of(picture.path())))
                .toList();
    }

    /** After a new start: what lies among the pictures already. */
    private void holdWhatIsThere() throws IOException, InterruptedException {
        List<Path> files;
        try (Stream<Path> walked = Files.walk(pictures)) {
            files = walked.filter(Files::isRegularFile)
                    .filter(file -> !file.startsWith(aside))
                    .toList();
        }
        for (Path file : files) {
            try {
                hold(PictureCheck.of(file, file.getFileName().toString()));
            } catch (PictureCheck.RefusedException e) {
                refused.add(new Refused(file.getFileName().toString(), e.getMessage()));
            }
        }
    }

    private void hold(Picture picture) {
        held.put(picture.sha256(), picture);
    }

    private void look() throws InterruptedException {
        Map<Path, Long> now = new HashMap<>();
        List<Path> settled = new ArrayList<>();
        try (Stream<Path> files = Files.list(inbox)) {
            for (Path file : (Iterable<Path>) files::iterator) {
                if (Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)
                        && !file.getFileName().toString().startsWith(".")) {
                    long size = Files.size(file);
                    now.put(file, size);
                    if (Long.valueOf(size).equals(sizes.get(file))) {
                        settled.add(file);
                    }
                }
            }
        } catch (IOException e) {
            return; // the inbox is gone for now
        }
        sizes = now;
        for (Path file : settled) {
            if (file.toString().toLowerCase(Locale.ROOT).endsWith(".xmp")) {
                takeSidecar(file);
            } else {
                take(file);
            }
        }
    }

    /** Beside the picture that it describes; until that has come it stays in the inbox. */
    private void takeSidecar(Path file) {
        String name = file.getFileName().toString();
        String stem = name.substring(0, name.length() - ".xmp".length());
        for (Picture picture : present()) {
            if (picture.arrivedAs().equals(stem) || picture.arrivedAs().startsWith(stem + ".")) {
                try {
                    Files.move(file, free(Path.of(picture.path()).getParent(), name));
                } catch (IOException e) {
                    System.err.println(name + " is left in the inbox: " + e);
                }
                return;
            }
        }
    }

    private void take(Path file) throws InterruptedException {
        String name = file.getFileName().toString();
        try {
            try {
                Picture picture = PictureCheck.of(file, name);
                String day = picture.takenAt().length() < 10
                        ? "undated"
                        : picture.takenAt().substring(0, 10).replace(':', '-');
                Path place = free(Files.createDirectories(pictures.resolve(day)), name);
                Files.move(file, place);
                hold(new Picture(
                        place.toString(),
                        name,
                        picture.sha256(),
                        picture.stack(),
                        picture.camera(),
                        picture.takenAt(),
                        picture.width(),
                        picture.height()));
            } catch (PictureCheck.RefusedException e) {
                Files.move(file, free(Files.createDirectories(aside), name));
                refused.add(new Refused(name, e.getMessage()));
            }
        } catch (IOException e) {
            System.err.println(name + " is left in the inbox: " + e);
        }
    }

    /** A name that is not taken yet; nothing that is held is ever written over. */
    private static Path free(Path folder, String name) {
        Path place = folder.resolve(name);
        for (int i = 2; Files.exists(place); i++) {
            int dot = name.lastIndexOf('.');
            place = folder.resolve(
                    dot < 0 ? name + " (" + i + ")" : name.substring(0, dot) + " (" + i + ")" + name.substring(dot));
        }
        return place;
    }
}
