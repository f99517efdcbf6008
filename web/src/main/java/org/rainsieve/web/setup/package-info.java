/**
 * How the installation is set up, and what is told when something is not possible.
 *
 * <p>May know: nothing of the other packages.
 */
package org.rainsieve.web.setup;
