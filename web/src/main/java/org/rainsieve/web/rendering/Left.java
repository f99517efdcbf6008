package org.rainsieve.web.rendering;

/** A viewer was left: nobody waits any more for what it has asked for. */
record Left(long viewer) {}
