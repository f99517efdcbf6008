package org.rainsieve.book;

import org.rainsieve.frame.RefusedException;
import tools.jackson.core.JacksonException;
import tools.jackson.databind.DeserializationFeature;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;
import tools.jackson.databind.node.ObjectNode;

/** Pages and starters as files, to carry them between installations; the format is told in docs/book-format.md. */
public final class BookFile {
    private static final String KIND = "kind";
    private static final String PAGE = "rain-sieve-page";
    private static final String STARTER = "rain-sieve-starter";
    private static final int MOST_LETTERS = 1_000_000;
    private static final JsonMapper JSON = JsonMapper.builder()
            .disable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
            .build();

    private BookFile() {}

    public static String write(Page page) {
        return written(PAGE, page);
    }

    public static String write(Starter starter) {
        return written(STARTER, starter);
    }

    /** @throws RefusedException in plain words; schema numbers up to the present one are read */
    public static Page readPage(String text) throws RefusedException {
        return read(text, PAGE, "a page of the camera book", Page.class);
    }

    /** @throws RefusedException in plain words */
    public static Starter readStarter(String text) throws RefusedException {
        return read(text, STARTER, "a starter", Starter.class);
    }

    private static String written(String kind, Object value) {
        ObjectNode document = JSON.createObjectNode().put(KIND, kind);
        document.setAll((ObjectNode) JSON.valueToTree(value));
        return JSON.writerWithDefaultPrettyPrinter().writeValueAsString(document) + "\n";
    }

    private static <T> T read(String text, String kind, String called, Class<T> type) throws RefusedException {
        if (text.length() > MOST_LETTERS) {
            throw new RefusedException("This file is far too large to be " + called + ".");
        }
        try {
            JsonNode document = JSON.readTree(text);
            if (!document.isObject() || !kind.equals(document.path(KIND).asString(kind))) {
                throw new RefusedException("This file is not " + called + " that Rain Sieve has exported.");
            }
            ((ObjectNode) document).remove(KIND);
            return JSON.treeToValue(document, type);
        } catch (JacksonException e) {
            Throwable cause = e.getCause();
            throw new RefusedException(
                    cause instanceof IllegalArgumentException
                            ? cause.getMessage() + ". Nothing was changed."
                            : "This file is damaged or was changed by hand: it is not " + called
                                    + " any more. Nothing was changed.",
                    e);
        }
    }
}
