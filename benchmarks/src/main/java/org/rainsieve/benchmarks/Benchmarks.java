package org.rainsieve.benchmarks;

import java.nio.file.Path;
import java.util.Arrays;

/** {@code ./sieve benchmark NAME}. Absolute times depend on the machine; the ratios within one run are what counts. */
public final class Benchmarks {
    private Benchmarks() {}

    public static void main(String[] args) throws Exception {
        if (args.length == 1 && args[0].equals("speed")) {
            SpeedBenchmark.run();
        } else if (args.length == 1 && args[0].equals("steps")) {
            StepsBenchmark.run();
        } else if (args.length == 1 && args[0].equals("large")) {
            LargeBenchmark.run();
        } else if (args.length == 1 && args[0].equals("strip")) {
            StripBenchmark.run();
        } else if (args.length == 1 && args[0].equals("viewer")) {
            ViewerBenchmark.run();
        } else if (args.length == 2 && args[0].equals("columns")) {
            ColumnsPicture.write(Path.of(args[1]));
        } else if (args.length >= 2 && args[0].equals("quality")) {
            QualityBenchmark.run(Path.of(args[1]), !(args.length > 2 && args[2].equals("own")));
        } else if (args.length >= 2 && args[0].equals("enlarge")) {
            EnlargeBenchmark.run(Path.of(args[1]), !(args.length > 2 && args[2].equals("own")));
        } else if (args.length >= 2 && args[0].equals("sharpen")) {
            SharpenBenchmark.run(Path.of(args[1]), !(args.length > 2 && args[2].equals("own")));
        } else if (args.length >= 2 && args[0].equals("blur")) {
            BlurBenchmark.run(Path.of(args[1]), !(args.length > 2 && args[2].equals("own")));
        } else if (args.length == 2 && args[0].equals("metadata")) {
            System.exit(MetadataBenchmark.run(Path.of(args[1])));
        } else if (args.length >= 1 && args[0].equals("fuzz")) {
            Path decoder = Path.of(System.getProperty("sieve.decoder", "web/target/classes/decoder"));
            System.exit(FuzzBenchmark.run(Arrays.asList(args).subList(1, args.length), decoder));
        } else {
            System.err.println(
                    "Usage: ./sieve benchmark speed | steps | strip | viewer | large | columns FILE | quality FOLDER [own] | enlarge FOLDER [own] | sharpen FOLDER [own] | blur FOLDER [own] | metadata FOLDER | fuzz [FOLDER]");
            System.exit(2);
        }
    }
}
