package org.rainsieve.web.rendering;

import org.rainsieve.delivery.DeliverySettings;

/** A copy of a return that is asked for as TIFF or JPEG, and streamed. */
record Copy(long item, DeliverySettings settings) {}
