/**
 * The demo’s three shoots, drawn at its first start.
 *
 * <p>May know: the simulation; nothing uses it.
 */
package org.rainsieve.web.demo;
