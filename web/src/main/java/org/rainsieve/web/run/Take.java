package org.rainsieve.web.run;

/** Which of a shoot's frames a run takes; never those that are dropped, held back or not read. */
public enum Take {
    /** Those that are kept; where none is, all. */
    KEPT,
    ALL,
    /** Those that were chosen one by one, or are shown. */
    CHOSEN,
    /** Without a return so far. */
    OPEN,
    /** Whose amounts are others than those of their last return. */
    CHANGED
}
