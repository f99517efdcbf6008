package org.rainsieve.web.demo;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Path;
import org.rainsieve.scene.DemoShoots;

/** {@code draw FOLDER [BURSTS [FRAMES]]}: draws what is not there yet of the demo, in a process of its own. */
public final class DrawCommand {
    private DrawCommand() {}

    public static void run(String[] arguments) {
        try {
            new DemoShoots(Path.of(arguments[0])).fill(atMost(arguments, 1), atMost(arguments, 2));
        } catch (IOException e) {
            throw new UncheckedIOException("The demo could not be drawn", e);
        }
    }

    private static int atMost(String[] arguments, int index) {
        return arguments.length > index ? Integer.parseInt(arguments[index]) : Integer.MAX_VALUE;
    }
}
