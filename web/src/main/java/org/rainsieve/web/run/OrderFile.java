package org.rainsieve.web.run;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.setup.NotPossibleException;
import tools.jackson.core.JacksonException;
import tools.jackson.core.type.TypeReference;
import tools.jackson.databind.json.JsonMapper;

/**
 * The standing orders as a file in the home, so that the command line takes the same without the application: a JSON object of
 * {@link RunForm}s by name. The application writes it whenever they change.
 */
public final class OrderFile {
    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final String NAME = "standing-orders.json";

    private OrderFile() {}

    static void write(Path home, Map<String, RunForm> orders) throws IOException {
        OwnFiles.replaceSecret(
                home.resolve(NAME), JSON.writerWithDefaultPrettyPrinter().writeValueAsString(orders));
    }

    /** @throws IOException in plain words when there is no such order */
    public static RunRequest read(String name) throws IOException {
        Path file = Path.of(Optional.ofNullable(System.getenv("SIEVE_HOME")).orElse("run"), NAME);
        Map<String, RunForm> orders = new LinkedHashMap<>();
        try {
            orders.putAll(JSON.readValue(Files.readString(file), new TypeReference<Map<String, RunForm>>() {}));
        } catch (IOException e) {
            throw new IOException("No standing order was kept yet: start Rain Sieve and keep one at a run's start.", e);
        } catch (JacksonException e) {
            throw new IOException("The standing orders in " + file + " cannot be read. Start Rain Sieve once.", e);
        }
        RunForm order = orders.get(name);
        if (order == null) {
            throw new IOException("There is no standing order called " + name + ". There are: "
                    + String.join(", ", orders.keySet()) + ".");
        }
        try {
            return order.request(0);
        } catch (NotPossibleException e) {
            throw new IOException(e.getMessage(), e);
        }
    }
}
