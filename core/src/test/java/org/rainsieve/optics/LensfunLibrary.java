package org.rainsieve.optics;

import com.sun.jna.Library;
import com.sun.jna.Memory;
import com.sun.jna.Native;
import com.sun.jna.Pointer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.stream.Stream;

/** The C library of lensfun 0.3 (Debian's liblensfun1), as its header lensfun.h declares it. */
final class LensfunLibrary {
    private interface C extends Library {
        C LIBRARY = Native.load(file(), C.class);

        Pointer lf_db_new();

        int lf_db_load(Pointer db);

        Pointer lf_db_find_lenses_hd(Pointer db, Pointer camera, String maker, String lens, int flags);

        Pointer lf_modifier_new(Pointer lens, float crop, int width, int height);

        int lf_modifier_initialize(
                Pointer modifier,
                Pointer lens,
                int format,
                float focal,
                float aperture,
                float distance,
                float scale,
                int geometry,
                int flags,
                boolean reverse);

        boolean lf_modifier_apply_subpixel_geometry_distortion(
                Pointer modifier, float x, float y, int width, int height, float[] result);

        boolean lf_modifier_apply_color_modification(
                Pointer modifier, Pointer pixels, float x, float y, int width, int height, int roles, int stride);
    }

    /** Debian's package without the development files has the library under its full name only. */
    private static String file() {
        try (Stream<Path> folders = Files.list(Path.of("/usr/lib"))) {
            return folders.map(folder -> folder.resolve("liblensfun.so.1"))
                    .filter(Files::exists)
                    .findFirst()
                    .orElseThrow(() -> new IllegalStateException("liblensfun1 is not installed"))
                    .toString();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static final int ALL = 0x1 | 0x2 | 0x8; // fringes, shading, distortion
    private static final int FLOAT_PIXELS = 3;
    private static final int RECTILINEAR = 1;
    private static final int RED_GREEN_BLUE = 4 | 5 << 4 | 6 << 8;

    private static Pointer database;

    private final Pointer modifier;

    /** @param width and height of the picture; focal length in mm, distance in m */
    LensfunLibrary(
            LensProfile lens, double crop, int width, int height, double focal, double aperture, double distance) {
        if (database == null) {
            database = C.LIBRARY.lf_db_new();
            C.LIBRARY.lf_db_load(database);
        }
        Pointer found = C.LIBRARY.lf_db_find_lenses_hd(database, null, lens.maker(), lens.model(), 0);
        if (found == null) {
            throw new IllegalStateException("lensfun does not find " + lens.name());
        }
        Pointer first = found.getPointer(0);
        modifier = C.LIBRARY.lf_modifier_new(first, (float) crop, width, height);
        C.LIBRARY.lf_modifier_initialize(
                modifier,
                first,
                FLOAT_PIXELS,
                (float) focal,
                (float) aperture,
                (float) distance,
                1,
                RECTILINEAR,
                ALL,
                false);
    }

    /** Places in the picture taken: x and y of red, green, blue. */
    float[] place(int x, int y) {
        float[] at = new float[6];
        if (!C.LIBRARY.lf_modifier_apply_subpixel_geometry_distortion(modifier, x, y, 1, 1, at)) {
            for (int c = 0; c < 3; c++) {
                at[2 * c] = x;
                at[2 * c + 1] = y;
            }
        }
        return at;
    }

    float gain(int x, int y) {
        try (Memory pixel = new Memory(12)) {
            pixel.write(0, new float[] {1, 1, 1}, 0, 3);
            C.LIBRARY.lf_modifier_apply_color_modification(modifier, pixel, x, y, 1, 1, RED_GREEN_BLUE, 12);
            return pixel.getFloat(4);
        }
    }
}
