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
import org.rainsieve.book.Page;
import org.rainsieve.book.Suggestion;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.delivery.Delivery;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.delivery.DeliveryVerifier;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.dng.OpenedFrame;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.noise.DefectMap;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.noise.NoiseReader;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.optics.LensDatabase;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.raw.Glance;
import org.rainsieve.raw.OwnReturnException;
import org.rainsieve.raw.RawOpener;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.files.SharedDecoder;
import org.rainsieve.web.run.ReturnForm;

/** The command line: the same pipeline without database or pages, one line per file. */
public final class ProcessCommand {
    private static final long CACHE_BYTES = 256L << 20;
    private static final int VERIFY_EVERY_TILE = 16;
    private static final int MOST_ATTEMPTS = 5;

    private final ProcessOptions told;
    private final Progress progress;
    private LensDatabase lenses;

    private ProcessCommand(ProcessOptions told, Progress progress) {
        this.told = told;
        this.progress = progress;
    }

    /** A frame's law, and what it is pooled under. */
    private record Readable(Path file, String body, SettledLaw.Evidence noise, int iso, long pixels) {}

    public static int run(String[] args, PrintStream out, PrintStream err) {
        try {
            ProcessOptions told = ProcessOptions.parse(args);
            if (told.help) {
                out.print(ProcessOptions.help());
                return 0;
            }
            boolean watched = Boolean.getBoolean("sieve.terminal") && !told.json;
            return new ProcessCommand(told, new Progress(out, err, told.json, watched)).process();
        } catch (ProcessOptions.UsageException e) {
            err.println(e.getMessage());
            err.println("See ./sieve process --help");
            return 2;
        } catch (IOException e) {
            err.println("The folders cannot be used: " + e.getMessage());
            return 2;
        }
    }

    private int process() throws IOException {
        OwnFiles.ofSetUp(told.to);
        List<Path> files;
        try (Stream<Path> entries = Files.list(told.from)) {
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
            progress.reading(readable.size() + refused.size(), files.size());
            try {
                readable.add(read(file));
            } catch (OwnReturnException e) {
                continue;
            } catch (RefusedException e) {
                refused.put(file, e.getMessage());
            } catch (RuntimeException e) {
                refused.put(file, inWords(e));
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
        refused.forEach((file, reason) -> progress.told(file, "refused", reason));
        int failures = refused.size();
        WorkingMemory cache = new WorkingMemory(CACHE_BYTES);
        progress.begin(readable.stream().mapToLong(Readable::pixels).sum());
        for (Readable frame : readable) {
            long begun = System.nanoTime();
            try {
                List<String> names = write(frame, bodies, cache);
                progress.returned(frame.file, names, (System.nanoTime() - begun) / 1e9);
            } catch (RefusedException | IOException e) {
                failures++;
                progress.told(frame.file, "failed", e.getMessage());
            } catch (RuntimeException | OutOfMemoryError e) {
                // One frame's fault ends that frame, not the batch.
                failures++;
                cache.clear();
                progress.told(frame.file, "failed", inWords(e));
            }
            progress.done(frame.pixels);
        }
        if (files.isEmpty()) {
            progress.nothing("There are no files in " + told.from + ".");
        }
        return failures == 0 ? 0 : 1;
    }

    private static String inWords(Throwable e) {
        return e instanceof OutOfMemoryError
                ? "This frame is too large for the memory that was given. Give more with JAVA_TOOL_OPTIONS=-Xmx3g."
                : "This frame could not be worked on (" + e + "). Please report it.";
    }

    private static Readable read(Path file) throws RefusedException {
        OpenedFrame frame = RawOpener.open(file, SharedDecoder.get()).frame();
        int iso = frame.shot().iso();
        NoiseModel profile = NoiseModel.ofProfile(frame.noiseProfile());
        SettledLaw.Evidence noise =
                SettledLaw.Evidence.of(iso, profile, profile == null ? NoiseReader.read(frame.capture()) : null);
        return new Readable(
                file,
                frame.body(),
                noise,
                iso,
                (long) frame.capture().width() * frame.capture().height());
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

    /** The steps as they are told, for a frame of that camera. */
    private ResolvedSettings settings(OpenedFrame frame, SettledLaw law, NoiseLaw line) throws RefusedException {
        CfaPattern pattern = frame.capture().pattern();
        double ei = Math.max(1, frame.shot().iso());
        Page page = told.page;
        if (page == null) {
            page = told.starter == null || line == null
                    ? Suggestion.page(frame.body(), line, Methods.best(pattern))
                    : new Page(
                            frame.body(), told.starter.rungs(line, Methods.best(pattern), told.starter.name(), true));
        }
        DenoiseSettings base = page.at(ei);
        boolean off = "off".equals(told.method);
        DenoiseSettings denoise = new DenoiseSettings(
                told.method == null ? base.on() : !off,
                told.method == null || off ? base.method() : told.method,
                told.grainKept == null ? base.grainKeptPercent() : told.grainKept,
                told.colourNoiseKept == null ? base.colourNoiseKeptPercent() : told.colourNoiseKept,
                told.detail == null ? base.detailPercent() : told.detail);
        try {
            CropSettings crop = told.aspect == null
                    ? CropSettings.WHOLE
                    : CropSettings.WHOLE.withAspect(
                            told.aspect,
                            frame.capture().width(),
                            frame.capture().height());
            if (told.turn != 0) {
                crop = new CropSettings(
                        true, crop.left(), crop.top(), crop.width(), crop.height(), told.turn, crop.aspect());
            }
            return ResolvedSettings.of(ei, law.law(), denoise, pattern)
                    .with(law)
                    .with(sharpen(page.sharpenAt(ei)), optics(frame), crop, told.enlarge);
        } catch (IllegalArgumentException e) {
            throw new RefusedException(e.getMessage());
        }
    }

    private SharpenSettings sharpen(SharpenSettings base) {
        boolean shape = told.softPx != null || told.discPx != null || told.linePx != null;
        if (told.sharpness == null && !shape) {
            return base;
        }
        SharpenSettings usual = SharpenSettings.OFF;
        double amount = told.sharpness == null ? usual.biteFinePercent() : told.sharpness;
        PointSpread spread = shape
                ? new PointSpread(or(told.softPx, 0), or(told.discPx, 0), or(told.linePx, 0), told.lineAngleDegrees)
                : base.on() ? base.spread() : usual.spread();
        return new SharpenSettings(amount > 0, spread, 0, amount, amount, usual.rimLimitPercent());
    }

    private static double or(Double value, double usual) {
        return value == null ? usual : value;
    }

    private OpticsSettings optics(OpenedFrame frame) {
        LensChoice choice = told.optics;
        if (choice == null || !choice.on()) {
            return OpticsSettings.OFF;
        }
        if (choice.profile().equals(LensChoice.FILE)) {
            return choice.settings(frame.ownCorrection().orElse(null));
        }
        if (lenses == null) {
            String folders = System.getenv().getOrDefault("SIEVE_LENSES", "/usr/share/lensfun/version_1");
            lenses = LensDatabase.load(
                    Stream.of(folders.split(",")).map(Path::of).toList());
        }
        ShotInfo shot = frame.shot();
        return choice.settings(lenses, frame.body(), shot.lens(), known(shot.focalLengthMm()), known(shot.aperture()));
    }

    private static double known(double value) {
        return value == 0 ? Double.NaN : value;
    }

    /** All forms of a frame, denoised once: TIFF and JPEG are developed from a linear DNG. */
    private List<String> write(Readable readable, Map<String, List<SettledLaw.Evidence>> bodies, WorkingMemory cache)
            throws RefusedException, IOException {
        RawOpener.Opened opened = RawOpener.open(readable.file, SharedDecoder.get());
        OpenedFrame frame = opened.frame();
        NoiseLaw line = SettledLaw.line(bodies.get(readable.body)).orElse(null);
        ResolvedSettings settings = settings(frame, law(readable, bodies), line);
        String originalName = readable.file.getFileName().toString();
        EnlargeSettings.Size size =
                Steps.size(frame.capture().width(), frame.capture().height(), settings.crop(), settings.enlarge());
        ReturnNames names = ReturnNames.of(
                        told.naming,
                        new ReturnNames.Frame(
                                originalName,
                                frame.shot().camera(),
                                frame.shot().iso(),
                                frame.shot().takenAt()))
                .of(settings, size);
        for (int attempt = 0; ; attempt++) {
            List<String> made = new ArrayList<>();
            try {
                forms(readable, opened, settings, size, names, cache, made);
                return made;
            } catch (FileAlreadyExistsException e) {
                // Somebody took the name meanwhile; a file tells the version that its name does, so all are made anew.
                if (!made.isEmpty() || attempt == MOST_ATTEMPTS) {
                    throw new IOException("The name of its return was taken meanwhile. Run the command again.", e);
                }
            }
        }
    }

    private void forms(
            Readable readable,
            RawOpener.Opened opened,
            ResolvedSettings settings,
            EnlargeSettings.Size size,
            ReturnNames names,
            WorkingMemory cache,
            List<String> made)
            throws RefusedException, IOException {
        OpenedFrame frame = opened.frame();
        int version = version(names);
        Path part = told.to.resolve(".rain-sieve-" + Long.toHexString(System.nanoTime()) + ".part");
        Path copy = told.to.resolve(part.getFileName().toString().replace(".part", "-copy.part"));
        try {
            for (boolean compact : new boolean[] {true, false}) {
                ReturnForm linear = compact ? ReturnForm.COMPACT : ReturnForm.DNG;
                boolean developed = !compact && told.forms.stream().anyMatch(form -> !form.linear());
                if (!told.forms.contains(linear) && !developed) {
                    continue;
                }
                ReturnWriter.Order order = new ReturnWriter.Order(
                        readable.file.getFileName().toString(),
                        opened.sha256(),
                        settings,
                        DefectMap.EMPTY,
                        version,
                        compact,
                        Glance.sidecar(readable.file),
                        told.carryEdits);
                ReturnWriter.write(
                        frame, order, part, cache, Cancel.NEVER, share -> progress.at(readable.pixels, share));
                ReturnVerifier.verify(part, size.width(), size.height(), VERIFY_EVERY_TILE);
                for (ReturnForm form : developed ? told.forms : List.<ReturnForm>of()) {
                    if (!form.linear()) {
                        made.add(developed(part, copy, frame, form, names.name(version, form.ending())));
                    }
                }
                if (told.forms.contains(linear)) {
                    made.add(published(part, names.name(version, linear.ending())));
                } else {
                    OwnFiles.remove(part);
                }
            }
        } finally {
            OwnFiles.remove(part);
            OwnFiles.remove(copy);
        }
    }

    private String developed(Path linear, Path copy, OpenedFrame frame, ReturnForm form, String name)
            throws IOException, RefusedException {
        DeliverySettings delivery = form.of(told.delivery());
        Delivery.Size size = Delivery.writeReturn(
                linear, frame.colour(), delivery, form == ReturnForm.TIFF ? frame.profile() : null, copy);
        DeliveryVerifier.verify(copy, delivery.form(), size.width(), size.height());
        return published(copy, name);
    }

    private String published(Path temporary, String name) throws IOException {
        OwnFiles.publish(temporary, told.to.resolve(name));
        OwnFiles.remove(temporary);
        return name;
    }

    /** The first version of which no form is there yet: all forms of a frame tell the same one. */
    private int version(ReturnNames names) throws IOException {
        for (int version = 1; ; version++) {
            boolean free = true;
            for (ReturnForm form : told.forms) {
                free &= !Files.exists(told.to.resolve(names.name(version, form.ending())), LinkOption.NOFOLLOW_LINKS);
            }
            if (free) {
                return version;
            }
        }
    }
}
