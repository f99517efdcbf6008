package org.rainsieve.opening;

import org.rainsieve.frame.RefusedException;

/** The file is a return of ours: not damaged, but not a new frame either. */
public class OwnReturnException extends RefusedException {
    private static final long serialVersionUID = 1L;

    public OwnReturnException() {
        super("This is a return of Rain Sieve, not a new frame.");
    }
}
