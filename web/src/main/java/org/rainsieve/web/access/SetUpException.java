package org.rainsieve.web.access;

/** The installation must not start as it is set up; the message says in plain words what to change. */
public final class SetUpException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    SetUpException(String message) {
        super(message);
    }
}
