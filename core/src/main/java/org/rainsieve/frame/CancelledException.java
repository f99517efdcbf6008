package org.rainsieve.frame;

/** Work was called off between two tiles. */
public class CancelledException extends RuntimeException {
    private static final long serialVersionUID = 1L;

    public CancelledException() {
        super("called off");
    }
}
