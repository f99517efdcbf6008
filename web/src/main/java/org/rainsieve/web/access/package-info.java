/**
 * Who may come in: password, sessions, health and metrics.
 *
 * <p>May know: what runs tell of workers.
 */
package org.rainsieve.web.access;
