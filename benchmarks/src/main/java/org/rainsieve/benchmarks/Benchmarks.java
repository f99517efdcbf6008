package org.rainsieve.benchmarks;

import java.nio.file.Path;

/** {@code ./sieve benchmark NAME}. Absolute times depend on the machine; the ratios within one run are what counts. */
public final class Benchmarks {
    private Benchmarks() {}

    public static void main(String[] args) throws Exception {
        if (args.length == 1 && args[0].equals("speed")) {
            SpeedBenchmark.run();
        } else if (args.length == 2 && args[0].equals("quality")) {
            QualityBenchmark.run(Path.of(args[1]));
        } else {
            System.err.println("Usage: ./sieve benchmark speed | quality FOLDER");
            System.exit(2);
        }
    }
}
