/**
 * The page Set-up and the file behind it.
 *
 * <p>May know: access, files, workers.
 */
package org.rainsieve.web.installation;
