/**
 * Everything that is written, named, moved or deleted. Originals are safe because all of it is here.
 *
 * <p>May know: the set-up; no database.
 */
package org.rainsieve.web.files;
