/**
 * Taking in: folders, cards, dropped files, files that another program hands over.
 *
 * <p>May know: shoots, files.
 */
package org.rainsieve.web.intake;
