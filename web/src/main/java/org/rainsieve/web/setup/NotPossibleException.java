package org.rainsieve.web.setup;

/** What was asked for cannot be done. The message is a sentence that says why and what to do. */
public class NotPossibleException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public NotPossibleException(String sentence) {
        super(sentence);
    }
}
