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
import java.util.stream.Stream;
import org.rainsieve.book.EvenGrain;
import org.rainsieve.book.Page;
import org.rainsieve.book.Suggestion;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.defect.DefectMap;
import org.rainsieve.delivery.Delivery;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.delivery.DeliveryVerifier;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.ShotInfo;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.opening.Glance;
import org.rainsieve.opening.OwnReturnException;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.optics.LensDatabase;
import org.rainsieve.optics.OpticsSettings;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnVerifier;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.sharpen.PointSpread;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.source.OpenedFrame;
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
        Series series = new Series();
        Map<Path, String> refused = new LinkedHashMap<>();
        for (Path file : files) {
            progress.reading(series.frames().size() + refused.size(), files.size());
            try {
                series.read(file);
            } catch (OwnReturnException e) {
                continue;
            } catch (RefusedException e) {
                refused.put(file, e.getMessage());
            } catch (RuntimeException e) {
                refused.put(file, inWords(e));
            }
        }
        refused.forEach((file, reason) -> progress.told(file, "refused", reason));
        int failures = refused.size();
        Map<Path, DenoiseSettings> denoise = denoise(series);
        WorkingMemory cache = new WorkingMemory(CACHE_BYTES);
        progress.begin(series.frames().stream().mapToLong(Series.Frame::pixels).sum());
        for (Series.Frame frame : series.frames()) {
            long begun = System.nanoTime();
            try {
                List<String> names = write(frame, series, denoise.get(frame.file()), cache);
                progress.returned(frame.file(), names, (System.nanoTime() - begun) / 1e9);
            } catch (RefusedException | IOException e) {
                failures++;
                progress.told(frame.file(), "failed", e.getMessage());
            } catch (RuntimeException | OutOfMemoryError e) {
                // One frame's fault ends that frame, not the batch.
                failures++;
                cache.clear();
                progress.told(frame.file(), "failed", inWords(e));
            }
            progress.done(frame.pixels());
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

    /** The steps that are told for frames of its camera. */
    private Page page(Series series, Series.Frame frame) {
        if (told.page != null) {
            return told.page;
        }
        NoiseLaw line = series.line(frame);
        String best = Methods.best(frame.pattern());
        return told.starter == null || line == null
                ? Suggestion.page(frame.body(), line, best)
                : new Page(frame.body(), told.starter.rungs(line, best, told.starter.name(), true));
    }

    private static double ei(Series.Frame frame) {
        return Math.max(1, frame.iso());
    }

    /** How each frame is denoised: as its camera's page says it, or all of a body brought to the same grain. */
    private Map<Path, DenoiseSettings> denoise(Series series) {
        Map<Path, DenoiseSettings> all = new LinkedHashMap<>();
        for (Series.Frame frame : series.frames()) {
            DenoiseSettings base = page(series, frame).at(ei(frame));
            boolean off = "off".equals(told.method);
            all.put(
                    frame.file(),
                    new DenoiseSettings(
                            told.method == null ? base.on() : !off,
                            told.method == null || off ? base.method() : told.method,
                            told.grainKept == null ? base.grainKeptPercent() : told.grainKept,
                            told.colourNoiseKept == null ? base.colourNoiseKeptPercent() : told.colourNoiseKept,
                            told.detail == null ? base.detailPercent() : told.detail));
        }
        if (told.evenGrain) {
            series.bodies().forEach(body -> {
                List<Series.Frame> on = series.frames().stream()
                        .filter(frame -> frame.body().equals(body)
                                && all.get(frame.file()).on())
                        .toList();
                double[] kept = EvenGrain.keptPercent(
                        on.stream()
                                .mapToDouble(frame ->
                                        NoiseLaw.sigmaAsShown(series.law(frame).law(), 1))
                                .toArray(),
                        on.stream()
                                .mapToDouble(frame -> all.get(frame.file()).grainKeptPercent())
                                .toArray());
                for (int i = 0; i < kept.length; i++) {
                    double grain = kept[i];
                    all.computeIfPresent(on.get(i).file(), (file, settings) -> settings.withGrainKept(grain));
                }
            });
        }
        return all;
    }

    /** The steps as they are told, for a frame of that camera. */
    private ResolvedSettings settings(
            OpenedFrame frame, DenoiseSettings denoise, Series series, Series.Frame of, DefectMap defects)
            throws RefusedException {
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
            SettledLaw law = series.law(of);
            return ResolvedSettings.of(ei(of), law.law(), denoise, "", defects, of.pattern())
                    .with(law)
                    .with(sharpen(page(series, of).sharpenAt(ei(of))), optics(frame), crop, told.enlarge);
        } catch (IllegalArgumentException e) {
            throw new RefusedException(e.getMessage());
        }
    }

    private SharpenSettings sharpen(SharpenSettings base) {
        boolean shape = told.softPx != null || told.discPx != null || told.linePx != null;
        SharpenSettings.Method by = told.sharpenBy == null ? base.method() : told.sharpenBy;
        if (told.sharpness == null && !shape) {
            return by == base.method() ? base : base.with(by);
        }
        SharpenSettings usual = SharpenSettings.OFF;
        double amount = told.sharpness == null ? usual.biteFinePercent() : told.sharpness;
        PointSpread spread = shape
                ? new PointSpread(or(told.softPx, 0), or(told.discPx, 0), or(told.linePx, 0), told.lineAngleDegrees)
                : base.on() ? base.spread() : usual.spread();
        return new SharpenSettings(amount > 0, spread, 0, amount, amount, usual.rimLimitPercent(), by, "")
                .withModelOf(base);
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
    private List<String> write(Series.Frame of, Series series, DenoiseSettings denoise, WorkingMemory cache)
            throws RefusedException, IOException {
        RawOpener.Opened opened = RawOpener.open(of.file(), SharedDecoder.get());
        OpenedFrame frame = opened.frame();
        DefectMap defects = series.defects(of);
        ResolvedSettings settings = settings(frame, denoise, series, of, defects);
        String originalName = of.file().getFileName().toString();
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
                forms(of, opened, settings, defects, size, names, cache, made);
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
            Series.Frame of,
            RawOpener.Opened opened,
            ResolvedSettings settings,
            DefectMap defects,
            EnlargeSettings.Size size,
            ReturnNames names,
            WorkingMemory cache,
            List<String> made)
            throws RefusedException, IOException {
        OpenedFrame frame = opened.frame();
        int version = version(names);
        Path part = OwnFiles.part(told.to);
        Path copy = told.to.resolve(part.getFileName().toString().replace(".part", "-copy.part"));
        try {
            for (boolean compact : new boolean[] {true, false}) {
                ReturnForm linear = compact ? ReturnForm.COMPACT : ReturnForm.DNG;
                boolean developed = !compact && told.forms.stream().anyMatch(form -> !form.linear());
                if (!told.forms.contains(linear) && !developed) {
                    continue;
                }
                ReturnWriter.Order order = new ReturnWriter.Order(
                        of.file().getFileName().toString(),
                        opened.sha256(),
                        settings,
                        defects,
                        version,
                        compact,
                        new ReturnWriter.Carried(Glance.sidecar(of.file()), told.carryEdits, told.notePush));
                ReturnWriter.write(frame, order, part, cache, Cancel.NEVER, share -> progress.at(of.pixels(), share));
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
