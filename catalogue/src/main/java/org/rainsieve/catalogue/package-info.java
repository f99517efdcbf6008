/**
 * A small catalogue of pictures, apart from the application: what a user’s own would be, for demo and tests.
 *
 * <p>May know: nothing of the other modules.
 */
package org.rainsieve.catalogue;
