/**
 * The application: pages, workers, command line.
 *
 * <p>May know: see docs/architecture.md.
 */
package org.rainsieve.web;
