package org.rainsieve.web.process;

import java.io.IOException;
import java.io.PrintStream;
import java.nio.file.FileAlreadyExistsException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.rainsieve.book.BookFile;
import org.rainsieve.book.Page;
import org.rainsieve.book.Suggestion;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.OpenedFrame;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.DefectMap;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.NoiseReader;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.raw.Glance;
import org.rainsieve.raw.OwnReturnException;
import org.rainsieve.raw.RawOpener;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.files.SharedDecoder;
import tools.jackson.databind.json.JsonMapper;

/** The command line: the same pipeline without database or pages, one line per file. */
public final class ProcessCommand {
    static final String HELP = """
            Usage: ./sieve process FOLDER --to FOLDER [options]

            Takes every raw file of a folder through the steps and writes a linear DNG for each into the other
            folder. Originals are never touched and files that exist are never overwritten. One line is printed per
            file: name, result, time. The exit code is 0 when every file was returned, 1 when any was not, and 2 when
            the command itself was wrong.

              --to FOLDER                  where the returns go; made if it is not there
              --settings FILE              a page of the camera book as JSON: {"camera": "...", "rungs": [{"ei": 1600,
                                           "denoise": {"on": true, "method": "Quick", "grainKeptPercent": 30,
                                           "colourNoiseKeptPercent": 0}}]}; amounts are interpolated over ISO
              --denoise METHOD             Quick, or off
              --grain-kept PERCENT         luminance noise left in, 0 to 100
              --colour-noise-kept PERCENT  colour noise left in, 0 to 100
              --sharpen off                sharpening does not exist yet, so off is all it can be
              --help                       this text

            Options override the settings file. Without either, suggested settings are used.
            """;

    private static final JsonMapper JSON = JsonMapper.builder().build();
    private static final long CACHE_BYTES = 256L << 20;

    private Path from;
    private Path to;
    private Page page;
    private String method;
    private Double grainKept;
    private Double colourNoiseKept;

    private ProcessCommand() {}

    /** A wrong command line; the message says what to change. */
    private static final class UsageException extends Exception {
        private static final long serialVersionUID = 1L;

        UsageException(String message) {
            super(message);
        }
    }

    /** A frame's law, and what it is pooled under. */
    private record Readable(Path file, String body, SettledLaw.Evidence noise, int iso) {}

    public static int run(String[] args, PrintStream out, PrintStream err) {
        if (List.of(args).contains("--help")) {
            out.print(HELP);
            return 0;
        }
        ProcessCommand command = new ProcessCommand();
        try {
            command.parse(args);
            return command.process(out);
        } catch (UsageException e) {
            err.println(e.getMessage());
            err.println("See ./sieve process --help");
            return 2;
        } catch (IOException e) {
            err.println("The folders cannot be used: " + e.getMessage());
            return 2;
        }
    }

    private void parse(String[] args) throws UsageException {
        for (int i = 0; i < args.length; i++) {
            String arg = args[i];
            if (!arg.startsWith("--")) {
                if (from != null) {
                    throw new UsageException("Only one folder can be processed at a time: " + arg);
                }
                from = Path.of(arg);
                continue;
            }
            if (i + 1 >= args.length) {
                throw new UsageException("The option " + arg + " needs a value.");
            }
            option(arg, args[++i]);
        }
        if (from == null || !Files.isDirectory(from)) {
            throw new UsageException(from == null ? "Name the folder to process." : "There is no folder " + from + ".");
        }
        if (to == null) {
            throw new UsageException("Say where the returns go with --to FOLDER.");
        }
    }

    private void option(String option, String value) throws UsageException {
        switch (option) {
            case "--to" -> to = Path.of(value);
            case "--settings" -> page = settings(Path.of(value));
            case "--denoise" -> {
                method = value.equalsIgnoreCase("off") ? "off" : Methods.spelled(value);
                if (!method.equals("off")) {
                    try {
                        Methods.of(method);
                    } catch (IllegalArgumentException e) {
                        throw new UsageException(e.getMessage());
                    }
                }
            }
            case "--grain-kept" -> grainKept = percent(option, value);
            case "--colour-noise-kept" -> colourNoiseKept = percent(option, value);
            case "--sharpen" -> {
                if (!value.equalsIgnoreCase("off")) {
                    throw new UsageException("Sharpening does not exist yet. Use --sharpen off.");
                }
            }
            default -> throw new UsageException("There is no option " + option + ".");
        }
    }

    private static Page settings(Path file) throws UsageException {
        try {
            return BookFile.readPage(Files.readString(file));
        } catch (IOException e) {
            throw new UsageException("The settings file " + file + " cannot be read.");
        } catch (RefusedException e) {
            throw new UsageException("The settings file " + file + " is not right: " + e.getMessage());
        }
    }

    private static double percent(String option, String value) throws UsageException {
        try {
            double percent = Double.parseDouble(value);
            if (percent >= 0 && percent <= 100) {
                return percent;
            }
        } catch (NumberFormatException e) {
            // said below
        }
        throw new UsageException(option + " needs a number from 0 to 100, not " + value + ".");
    }

    private int process(PrintStream out) throws IOException {
        OwnFiles.ofSetUp(to);
        List<Path> files;
        try (Stream<Path> entries = Files.list(from)) {
            files = entries.filter(file -> !file.getFileName().toString().startsWith("."))
                    .filter(file -> !file.getFileName()
                            .toString()
                            .toLowerCase(Locale.ROOT)
                            .endsWith(".xmp"))
                    .filter(file -> !Files.isDirectory(file)
                            || file.getFileName()
                                    .toString()
                                    .toLowerCase(Locale.ROOT)
                                    .endsWith(".dng"))
                    .sorted()
                    .toList();
        }
        Map<Path, String> refused = new LinkedHashMap<>();
        List<Readable> readable = new ArrayList<>();
        for (Path file : files) {
            try {
                readable.add(read(file));
            } catch (OwnReturnException e) {
                continue;
            } catch (RefusedException e) {
                refused.put(file, e.getMessage());
            }
        }
        // Noise laws are pooled per body and ISO over the whole folder, so that a series cannot jump.
        Map<String, List<SettledLaw.Evidence>> bodies = new LinkedHashMap<>();
        readable.forEach(frame -> {
            List<SettledLaw.Evidence> evidence = bodies.computeIfAbsent(frame.body, key -> new ArrayList<>());
            if (frame.noise != null) {
                evidence.add(frame.noise);
            }
        });
        refused.forEach((file, reason) -> out.println(file.getFileName() + "  refused  " + reason));
        int failures = refused.size();
        WorkingMemory cache = new WorkingMemory(CACHE_BYTES);
        for (Readable frame : readable) {
            long begun = System.nanoTime();
            try {
                String name = write(frame, law(frame, bodies), cache);
                out.printf(
                        Locale.ROOT,
                        "%s  returned as %s  %.1f s%n",
                        frame.file.getFileName(),
                        name,
                        (System.nanoTime() - begun) / 1e9);
            } catch (RefusedException | IOException e) {
                failures++;
                out.println(frame.file.getFileName() + "  failed  " + e.getMessage());
            }
        }
        if (files.isEmpty()) {
            out.println("There are no files in " + from + ".");
        }
        return failures == 0 ? 0 : 1;
    }

    private static Readable read(Path file) throws RefusedException {
        OpenedFrame frame = RawOpener.open(file, SharedDecoder.get()).frame();
        int iso = frame.shot().iso();
        NoiseModel profile = NoiseModel.ofProfile(frame.noiseProfile());
        SettledLaw.Evidence noise =
                SettledLaw.Evidence.of(iso, profile, profile == null ? NoiseReader.read(frame.capture()) : null);
        return new Readable(file, frame.body(), noise, iso);
    }

    /** What the folder's frames of a body tell of its noise at the frame's ISO, or what is known best instead. */
    private static SettledLaw law(Readable frame, Map<String, List<SettledLaw.Evidence>> bodies) {
        List<NoiseLaw> others = bodies.entrySet().stream()
                .filter(body -> !body.getKey().equals(frame.body))
                .map(body -> SettledLaw.line(body.getValue()))
                .flatMap(Optional::stream)
                .toList();
        return SettledLaw.of(frame.iso, bodies.get(frame.body), others);
    }

    private String write(Readable readable, SettledLaw law, WorkingMemory cache) throws RefusedException, IOException {
        RawOpener.Opened opened = RawOpener.open(readable.file, SharedDecoder.get());
        OpenedFrame frame = opened.frame();
        double ei = Math.max(1, frame.shot().iso());
        Page inForce = page != null
                ? page
                : Suggestion.page(
                        frame.body(), null, Methods.best(frame.capture().pattern()));
        DenoiseSettings base = inForce.at(ei);
        DenoiseSettings denoise = new DenoiseSettings(
                method == null ? base.on() : !method.equals("off"),
                method == null || method.equals("off") ? base.method() : method,
                grainKept == null ? base.grainKeptPercent() : grainKept,
                colourNoiseKept == null ? base.colourNoiseKeptPercent() : colourNoiseKept,
                base.detailPercent());
        ResolvedSettings settings = ResolvedSettings.of(
                        ei, law.law(), denoise, frame.capture().pattern())
                .with(law)
                .with(inForce.sharpenAt(ei), null, null, null);
        String originalName = readable.file.getFileName().toString();
        ReturnNames names = ReturnNames.of(null, new ReturnNames.Frame(originalName, "", null, null))
                .of(
                        settings,
                        new EnlargeSettings.Size(
                                frame.capture().width(), frame.capture().height()));
        for (int version = 1; ; version++) {
            String name = names.name(version, ".dng");
            if (Files.exists(to.resolve(name), LinkOption.NOFOLLOW_LINKS)) {
                continue;
            }
            Path temporary = to.resolve(".rain-sieve-" + Long.toHexString(System.nanoTime()) + ".part");
            try {
                ReturnWriter.Order order = new ReturnWriter.Order(
                        originalName,
                        opened.sha256(),
                        settings,
                        DefectMap.EMPTY,
                        version,
                        false,
                        Glance.sidecar(readable.file),
                        false);
                ReturnWriter.write(frame, order, temporary, cache, Cancel.NEVER, share -> {});
                ReturnVerifier.verify(
                        temporary, frame.capture().width(), frame.capture().height(), 16);
                OwnFiles.publish(temporary, to.resolve(name));
                return name;
            } catch (FileAlreadyExistsException e) {
                // Somebody took the name meanwhile; a file tells the version that its name does.
            } finally {
                OwnFiles.remove(temporary);
            }
        }
    }
}
