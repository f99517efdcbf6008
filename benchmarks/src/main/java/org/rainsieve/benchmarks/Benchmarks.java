package org.rainsieve.benchmarks;

/** {@code ./sieve benchmark NAME}. Absolute times depend on the machine; the ratios within one run are what counts. */
public final class Benchmarks {
    private Benchmarks() {}

    public static void main(String[] args) throws Exception {
        if (args.length == 1 && args[0].equals("speed")) {
            SpeedBenchmark.run();
        } else {
            System.err.println("Usage: ./sieve benchmark speed");
            System.exit(2);
        }
    }
}
