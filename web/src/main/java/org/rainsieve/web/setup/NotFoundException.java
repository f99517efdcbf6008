package org.rainsieve.web.setup;

/** What was asked for is not there. The message is a sentence for the photographer. */
public class NotFoundException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public NotFoundException(String sentence) {
        super(sentence);
    }
}
