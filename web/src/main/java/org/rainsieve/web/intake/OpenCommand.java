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
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.rainsieve.web.access.OpenToken;

/**
 * {@code open FILE…}: hands files over to the running application, as another program's outside editor would, and prints
 * the page of the first.
 */
public final class OpenCommand {
    private static final Pattern CSRF = Pattern.compile("name=\"csrf\" content=\"([^\"]+)\"");
    private static final Pattern PAGE = Pattern.compile("\"page\":\"([^\"]+)\"");

    private OpenCommand() {}

    /** @return 0 when all files were taken in, 1 when not, 2 when called wrongly */
    public static int run(String[] files, String home, String port, PrintStream out, PrintStream err) {
        if (files.length == 0) {
            err.println("Say which files: ./sieve open FILE…");
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
            HttpResponse<String> answer = send(client, base, token, form.toString());
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
                answer = send(client, base, token, form + "&_csrf=" + csrf.group(1));
            }
            Matcher opened = PAGE.matcher(answer.body());
            if (answer.statusCode() != 200 || !opened.find()) {
                err.println(answer.body());
                return 1;
            }
            out.println(base + opened.group(1));
            return 0;
        } catch (IOException e) {
            err.println("Rain Sieve is not running. Start it with ./sieve serve, then try again.");
            return 1;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return 1;
        }
    }

    private static HttpResponse<String> send(HttpClient client, String base, String token, String form)
            throws IOException, InterruptedException {
        return client.send(
                HttpRequest.newBuilder(URI.create(base + "/intake/open"))
                        .header("Content-Type", "application/x-www-form-urlencoded")
                        .header(OpenToken.HEADER, token)
                        .POST(HttpRequest.BodyPublishers.ofString(form))
                        .build(),
                HttpResponse.BodyHandlers.ofString());
    }
}
