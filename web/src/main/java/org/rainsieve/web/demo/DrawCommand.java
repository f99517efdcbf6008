package org.rainsieve.web.demo;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import org.rainsieve.scene.DemoShoots;

/** {@code draw FOLDER [BURSTS]}: draws the demo's frames that are not there yet, in a process of its own. */
public final class DrawCommand {
    private DrawCommand() {}

    public static void run(String[] arguments) {
        int bursts = arguments.length > 1 ? Integer.parseInt(arguments[1]) : Integer.MAX_VALUE;
        try {
            new DemoShoots(Path.of(arguments[0])).fill(bursts);
        } catch (IOException e) {
            throw new UncheckedIOException("The demo could not be drawn", e);
        }
    }
}
