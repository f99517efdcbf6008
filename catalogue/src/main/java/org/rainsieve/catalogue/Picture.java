package org.rainsieve.catalogue;

/**
 * A picture that the catalogue holds.
 *
 * @param path where it lies now
 * @param arrivedAs its name in the inbox
 * @param stack what it is stacked with: the identity of the original that it says it was made from, or its own
 * @param camera as its tags tell
 * @param takenAt as its tags tell
 */
record Picture(
        String path,
        String arrivedAs,
        String sha256,
        String stack,
        String camera,
        String takenAt,
        int width,
        int height) {}
