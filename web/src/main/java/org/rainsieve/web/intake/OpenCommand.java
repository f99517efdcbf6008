package org.rainsieve.web.intake;

import java.io.IOException;
import java.io.PrintStream;
import java.net.CookieManager;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.rainsieve.web.access.OpenToken;
import org.rainsieve.web.files.HandedOver;
import org.rainsieve.web.setup.NotPossibleException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * {@code open FILE…}: hands files over to the running application, as another program's outside editor would, and prints
 * the page of the first. With {@code --wait} it ends when that has come back, and prints where it lies; with {@code --in-place} the
 * return takes the place of the file that was handed over, which is kept beside it.
 */
public final class OpenCommand {
    private static final Pattern CSRF = Pattern.compile("name=\"csrf\" content=\"([^\"]+)\"");
    private static final Pattern PAGE = Pattern.compile("\"page\":\"([^\"]+)\"");

    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final long ASK_MS = 700;

    private OpenCommand() {}

    /** @return 0 when all files were taken in, and with --wait the first came back, 1 when not, 2 when called wrongly */
    public static int run(String[] args, String home, String port, PrintStream out, PrintStream err) {
        boolean inPlace = List.of(args).contains("--in-place");
        boolean wait = inPlace || List.of(args).contains("--wait");
        List<String> files = Stream.of(args)
                .filter(arg -> !arg.equals("--wait") && !arg.equals("--in-place"))
                .toList();
        if (files.isEmpty() || inPlace && files.size() > 1) {
            err.println("Say which files: ./sieve open [--wait] FILE…, or one file: ./sieve open --in-place FILE");
            return 2;
        }
        String base = "http://127.0.0.1:" + port;
        Path tokenFile = OpenToken.file(home).toAbsolutePath();
        HttpClient client =
                HttpClient.newBuilder().cookieHandler(new CookieManager()).build();
        try {
            StringBuilder form = new StringBuilder("from=open");
            for (String file : files) {
                String path = Path.of(file).toAbsolutePath().normalize().toString();
                form.append("&file=").append(URLEncoder.encode(path, StandardCharsets.UTF_8));
            }
            String token = Files.isReadable(tokenFile) ? Files.readString(tokenFile) : "";
            String csrfField = "";
            HttpResponse<String> answer = send(client, base + "/intake/open", token, form.toString());
            if (answer.statusCode() == 403) {
                // The token of another home: without a password a page's own will do.
                HttpResponse<String> page = client.send(
                        HttpRequest.newBuilder(URI.create(base + "/runs")).build(),
                        HttpResponse.BodyHandlers.ofString());
                Matcher csrf = CSRF.matcher(page.body());
                if (!csrf.find()) {
                    err.println("What answers at " + base + " is not the Rain Sieve of " + tokenFile.getParent()
                            + ". Say with SIEVE_HOME and SIEVE_PORT which one is meant.");
                    return 1;
                }
                csrfField = "&_csrf=" + csrf.group(1);
                answer = send(client, base + "/intake/open", token, form + csrfField);
            }
            Matcher opened = PAGE.matcher(answer.body());
            if (answer.statusCode() != 200 || !opened.find()) {
                err.println(answer.body());
                return 1;
            }
            out.println(base + opened.group(1));
            if (!wait) {
                return 0;
            }
            String frame = opened.group(1).substring(opened.group(1).lastIndexOf('/') + 1);
            Path file = inPlace ? Path.of(files.get(0)).toAbsolutePath().normalize() : null;
            return await(client, base + "/intake/opened", token, "frame=" + frame + csrfField, file, out, err);
        } catch (IOException e) {
            err.println("Rain Sieve is not running. Start it with ./sieve serve, then try again.");
            return 1;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return 1;
        }
    }

    /** Until a run that begins from now on has made it, or has failed to. An application that is away is waited for. */
    private static int await(
            HttpClient client, String url, String token, String form, Path file, PrintStream out, PrintStream err)
            throws InterruptedException {
        long before = -1;
        while (true) {
            try {
                HttpResponse<String> answer = send(client, url, token, form);
                if (answer.statusCode() == 200) {
                    JsonNode told = JSON.readTree(answer.body());
                    long item = told.get("item").asLong();
                    String state = told.get("state").asString();
                    before = before < 0 ? item : before;
                    if (item > before && state.equals("returned")) {
                        return back(file, told.get("path").asString(), out, err);
                    }
                    if (item > before && state.equals("failed")) {
                        err.println(told.get("reason").asString());
                        return 1;
                    }
                } else if (answer.statusCode() == 403) {
                    err.println("Rain Sieve was started anew meanwhile. Hand the file over again.");
                    return 1;
                }
            } catch (IOException e) {
                // It is away for a moment; whoever waits can end this command.
            }
            Thread.sleep(ASK_MS);
        }
    }

    /** @param file whose place the return takes; null where it lies where it was made */
    private static int back(Path file, String made, PrintStream out, PrintStream err) {
        if (file == null) {
            out.println(made);
            return 0;
        }
        try {
            Path kept = HandedOver.takePlace(file, Path.of(made));
            out.println(file);
            err.println("The file that was handed over is kept as " + kept);
            return 0;
        } catch (NotPossibleException e) {
            err.println(e.getMessage());
        } catch (IOException e) {
            err.println(
                    "The return lies at " + made + " and could not take the place of " + file + ": " + e.getMessage());
        }
        return 1;
    }

    private static HttpResponse<String> send(HttpClient client, String url, String token, String form)
            throws IOException, InterruptedException {
        return client.send(
                HttpRequest.newBuilder(URI.create(url))
                        .header("Content-Type", "application/x-www-form-urlencoded")
                        .header(OpenToken.HEADER, token)
                        .POST(HttpRequest.BodyPublishers.ofString(form))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }
}
