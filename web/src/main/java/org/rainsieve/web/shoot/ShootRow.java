package org.rainsieve.web.shoot;

/** A shoot with its counts, as the Shoots page lists it. */
public record ShootRow(
        long id,
        String name,
        String folder,
        boolean watched,
        long unseen,
        int frames,
        int unread,
        int ready,
        int refused,
        int returned,
        int failed,
        String cameras,
        int isoFrom,
        int isoTo,
        String firstDay,
        long sizeBytes,
        long returnsBytes) {}
