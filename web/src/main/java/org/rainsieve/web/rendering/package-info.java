/**
 * Pictures and figures that pages ask a worker for: the questions, how they are sent, and how each is answered. Files are opened on the worker's side only.
 *
 * <p>May know: frames of shoots, returns, the book's defect maps, the core's steps; no pages.
 */
package org.rainsieve.web.rendering;
