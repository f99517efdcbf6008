package org.rainsieve.pipeline;

/** Settings that this version cannot read, or not in full; the message says so in plain words. */
public final class UnreadableSettingsException extends IllegalArgumentException {
    private static final long serialVersionUID = 1L;

    UnreadableSettingsException(String message, Throwable cause) {
        super(message, cause);
    }
}
