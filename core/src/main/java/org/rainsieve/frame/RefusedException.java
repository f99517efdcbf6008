package org.rainsieve.frame;

/** A file that cannot be worked on. The message is a whole plain-word sentence for the photographer. */
public class RefusedException extends Exception {
    private static final long serialVersionUID = 1L;

    public RefusedException(String reason) {
        super(reason);
    }

    public RefusedException(String reason, Throwable cause) {
        super(reason, cause);
    }
}
