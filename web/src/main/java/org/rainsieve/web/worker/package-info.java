/**
 * The worker process: reads frames, makes returns, answers with pictures.
 *
 * <p>May know: everything but pages.
 */
package org.rainsieve.web.worker;
