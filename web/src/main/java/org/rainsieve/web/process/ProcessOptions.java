package org.rainsieve.web.process;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.rainsieve.book.BookFile;
import org.rainsieve.book.Page;
import org.rainsieve.book.Starter;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.sharpen.SharpenSettings;
import org.rainsieve.web.run.OrderFile;
import org.rainsieve.web.run.ReturnForm;
import org.rainsieve.web.run.RunRequest;

/** What {@code process} is told. Its help is made from the same table as it is read by, so that neither can be ahead. */
final class ProcessOptions {
    private static final String BEFORE = """
            Usage: ./sieve process FOLDER --to FOLDER [options]

            Takes every raw file of a folder through the steps and writes its returns into the other folder. Originals are
            never touched and files that exist are never overwritten. The noise of all frames of a camera and ISO is pooled,
            so that a series cannot jump, and so are the defects of a sensor. One line is printed per frame: name, result, time; progress and time left as well
            where a person looks on. The exit code is 0 when every frame was returned, 1 when any was not, and 2 when the
            command itself was wrong.

            """;

    private static final String AFTER = """

            Options go before the standing order, the order before the settings file or starter. Without any, suggested
            settings are used.
            """;

    private static final int WORDS_AT = 33;
    private static final int LINE = 110;

    /** A wrong command line; the message says what to change. */
    static final class UsageException extends Exception {
        private static final long serialVersionUID = 1L;

        UsageException(String message) {
            super(message);
        }
    }

    private interface Reader {
        void read(ProcessOptions to, String value) throws UsageException;
    }

    /** @param value what stands for it in the help; empty for an option without one */
    private record Option(String name, String value, String words, Reader reader) {}

    private static final List<Option> OPTIONS = List.of(
            new Option("to", "FOLDER", "where the returns go; made if it is not there", (o, v) -> o.to = Path.of(v)),
            new Option(
                    "order",
                    "NAME",
                    "a standing order as kept in the application: forms, sizes, names",
                    (o, v) -> {}), // read before all others, see parse
            new Option(
                    "settings",
                    "FILE",
                    "a page of the camera book, as exported there; amounts are interpolated over ISO",
                    (o, v) -> o.page = page(Path.of(v))),
            new Option(
                    "starter",
                    "NAME",
                    "settings told by the noise they leave: "
                            + Starter.shipped().stream().map(Starter::name).collect(Collectors.joining(", ")),
                    (o, v) -> o.starter = starter(v)),
            new Option(
                    "denoise",
                    "METHOD",
                    String.join(", ", Methods.names()) + ", or off",
                    (o, v) -> o.method = method(v)),
            new Option(
                    "grain-kept",
                    "PERCENT",
                    "luminance noise left in, 0 to 100",
                    (o, v) -> o.grainKept = number("grain-kept", v, 0, 100)),
            new Option(
                    "colour-noise-kept",
                    "PERCENT",
                    "colour noise left in, 0 to 100",
                    (o, v) -> o.colourNoiseKept = number("colour-noise-kept", v, 0, 100)),
            new Option(
                    "even-grain",
                    "",
                    "all frames of a camera brought to the same grain, whatever their ISO",
                    (o, v) -> o.evenGrain = true),
            new Option(
                    "detail",
                    "PERCENT",
                    "structure put back of what denoising took, 0 to 100",
                    (o, v) -> o.detail = number("detail", v, 0, 100)),
            new Option(
                    "sharpen",
                    "PERCENT",
                    "sharpness, 0 to 100, or off; against the blur that is told below, or a soft lens of 0.9 px",
                    (o, v) -> o.sharpness = v.equalsIgnoreCase("off") ? 0.0 : number("sharpen", v, 0, 100)),
            new Option(
                    "sharpen-by",
                    "METHOD",
                    "learned, or plain for plain rules; learned where nothing is said",
                    (o, v) -> o.sharpenBy = sharpenBy(v)),
            new Option("soft", "PX", "soft lens, sd of the blur, 0 to 6", (o, v) -> o.softPx = number("soft", v, 0, 6)),
            new Option(
                    "focus",
                    "PX",
                    "missed focus, radius of the disc, 0 to 12",
                    (o, v) -> o.discPx = number("focus", v, 0, 12)),
            new Option(
                    "movement",
                    "PX,DEGREES",
                    "movement: its length, 0 to 30, and its direction, anticlockwise from the horizontal",
                    (o, v) -> o.movement(v)),
            new Option(
                    "optics",
                    "LENS",
                    "matched, file for what the file itself asks for, none, or a lens of the database by name",
                    (o, v) -> o.optics = new LensChoice(!v.equals("none"), v, 100, 100, 100)),
            new Option("turn", "DEGREES", "turned clockwise, -45 to 45", (o, v) -> o.turn = number("turn", v, -45, 45)),
            new Option(
                    "aspect",
                    "RATIO",
                    "cut to 3:2, 4:3, 1:1, 16:9 or \"ISO paper\" about the middle",
                    (o, v) -> o.aspect = v),
            new Option(
                    "enlarge",
                    "FACTOR",
                    "1.25 to 6 times",
                    (o, v) -> o.enlarge = EnlargeSettings.factor(
                                    number("enlarge", v, EnlargeSettings.LEAST_FACTOR, EnlargeSettings.MOST_FACTOR))
                            .with(o.edges, false)),
            new Option(
                    "edges",
                    "KIND",
                    "of what is enlarged: learned, or natural for plain rules; learned where nothing is said",
                    (o, v) -> {
                        o.edges = edges(v);
                        o.enlarge = o.enlarge.on() ? o.enlarge.with(o.edges, false) : o.enlarge;
                    }),
            new Option("form", "FORMS", "dng, compact, tiff, jpeg, several with commas", (o, v) -> o.forms = forms(v)),
            new Option(
                    "space",
                    "NAME",
                    "colours of TIFF and JPEG: "
                            + Arrays.stream(DeliverySpace.values())
                                    .map(space -> space.name().toLowerCase(Locale.ROOT))
                                    .collect(Collectors.joining(", ")),
                    (o, v) -> o.space = space(v)),
            new Option(
                    "quality",
                    "PERCENT",
                    "of a JPEG, 1 to 100",
                    (o, v) -> o.quality = (int) number("quality", v, 1, 100)),
            new Option(
                    "long-edge",
                    "PX",
                    "TIFF and JPEG reduced to it",
                    (o, v) -> o.longEdgePx = (int) number("long-edge", v, 16, 65_535)),
            new Option(
                    "names",
                    "PATTERN",
                    "as in the application, such as {name}{denoise}{version}",
                    (o, v) -> o.naming = v),
            new Option("json", "", "a JSON object a line instead of words, for scripts", (o, v) -> o.json = true),
            new Option("help", "", "this text", (o, v) -> o.help = true));

    Path from;
    Path to;
    Page page;
    Starter starter;
    String method;
    Double grainKept;
    Double colourNoiseKept;
    Double detail;
    boolean evenGrain;
    Double sharpness;
    Double softPx;
    Double discPx;
    Double linePx;
    double lineAngleDegrees;
    LensChoice optics;
    double turn;
    String aspect;
    EnlargeSettings enlarge = EnlargeSettings.OFF;
    private EnlargeSettings.Edges edges = EnlargeSettings.Edges.LEARNED;

    /** Null for the page's, or learned. */
    SharpenSettings.Method sharpenBy;

    Set<ReturnForm> forms = EnumSet.of(ReturnForm.DNG);
    String naming = "";
    boolean carryEdits;
    boolean notePush;
    boolean json;
    boolean help;
    private RunRequest order;
    private DeliverySpace space;
    private Integer quality;
    private Integer longEdgePx;

    private ProcessOptions() {}

    static String help() {
        StringBuilder help = new StringBuilder(BEFORE);
        for (Option option : OPTIONS) {
            String head = "  --" + option.name + (option.value.isEmpty() ? "" : " " + option.value);
            help.append(String.format(Locale.ROOT, "%-" + (WORDS_AT - 1) + "s ", head));
            int at = Math.max(WORDS_AT, head.length() + 1);
            for (String word : option.words.split(" ")) {
                if (at + word.length() > LINE) {
                    help.append('\n').append(" ".repeat(WORDS_AT));
                    at = WORDS_AT;
                }
                help.append(word).append(' ');
                at += word.length() + 1;
            }
            help.setLength(help.length() - 1);
            help.append('\n');
        }
        return help.append(AFTER).toString();
    }

    static ProcessOptions parse(String[] args) throws UsageException {
        ProcessOptions told = new ProcessOptions();
        // The order first, wherever it stands, so that options go before it.
        for (int i = 0; i + 1 < args.length; i++) {
            if (args[i].equals("--order")) {
                told.order = order(args[i + 1]);
                told.follow(told.order);
            }
        }
        for (int i = 0; i < args.length; i++) {
            String arg = args[i];
            if (!arg.startsWith("--")) {
                if (told.from != null) {
                    throw new UsageException("Only one folder can be processed at a time: " + arg);
                }
                told.from = Path.of(arg);
                continue;
            }
            Option option = OPTIONS.stream()
                    .filter(o -> arg.equals("--" + o.name))
                    .findFirst()
                    .orElseThrow(() -> new UsageException("There is no option " + arg + "."));
            if (option.value.isEmpty()) {
                option.reader.read(told, "");
                continue;
            }
            if (i + 1 >= args.length) {
                throw new UsageException("The option " + arg + " needs a value.");
            }
            try {
                option.reader.read(told, args[++i]);
            } catch (IllegalArgumentException e) {
                throw new UsageException(e.getMessage() + ".");
            }
        }
        if (!told.help) {
            told.check();
        }
        return told;
    }

    private void check() throws UsageException {
        if (from == null || !Files.isDirectory(from)) {
            throw new UsageException(from == null ? "Name the folder to process." : "There is no folder " + from + ".");
        }
        if (to == null) {
            throw new UsageException("Say where the returns go with --to FOLDER.");
        }
        if (aspect != null) {
            try {
                CropSettings.WHOLE.withAspect(aspect, 3, 2);
            } catch (IllegalArgumentException e) {
                throw new UsageException(e.getMessage() + ".");
            }
        }
    }

    private void follow(RunRequest request) {
        enlarge = request.enlarge();
        evenGrain = request.evenGrain();
        forms = request.forms();
        naming = request.naming();
        carryEdits = request.along().edits();
        notePush = request.along().push();
    }

    /** How TIFF and JPEG are made; {@code ReturnForm.of} takes it to one of them. */
    DeliverySettings delivery() {
        DeliverySettings usual = order != null && order.delivery() != null
                ? order.delivery()
                : new DeliverySettings(DeliverySettings.Form.TIFF, DeliverySpace.SRGB, 300, true, 90, 0, 0);
        return new DeliverySettings(
                usual.form(),
                space == null ? usual.space() : space,
                usual.ppi(),
                usual.deflate(),
                quality == null ? usual.qualityPercent() : quality,
                usual.mostKilobytes(),
                longEdgePx == null ? usual.longEdgePx() : longEdgePx);
    }

    private void movement(String value) throws UsageException {
        String[] parts = value.split(",", 2);
        linePx = number("movement", parts[0], 0, 30);
        lineAngleDegrees = parts.length < 2 ? 0 : number("movement", parts[1], -360, 360);
    }

    private static RunRequest order(String name) throws UsageException {
        try {
            return OrderFile.read(name);
        } catch (IOException e) {
            throw new UsageException(e.getMessage());
        }
    }

    private static Page page(Path file) throws UsageException {
        try {
            return BookFile.readPage(Files.readString(file));
        } catch (IOException e) {
            throw new UsageException("The settings file " + file + " cannot be read.");
        } catch (RefusedException e) {
            throw new UsageException("The settings file " + file + " is not right: " + e.getMessage());
        }
    }

    private static Starter starter(String name) throws UsageException {
        return Starter.shipped().stream()
                .filter(starter -> starter.name().equalsIgnoreCase(name))
                .findFirst()
                .orElseThrow(() -> new UsageException("There is no starter called " + name + "."));
    }

    private static String method(String value) {
        if (value.equalsIgnoreCase("off")) {
            return "off";
        }
        String spelled = Methods.spelled(value);
        Methods.of(spelled);
        return spelled;
    }

    private static Set<ReturnForm> forms(String value) throws UsageException {
        Set<ReturnForm> forms = EnumSet.noneOf(ReturnForm.class);
        for (String form : value.split(",")) {
            forms.add(Stream.of(ReturnForm.values())
                    .filter(known -> known.name().equalsIgnoreCase(form.strip()))
                    .findFirst()
                    .orElseThrow(() ->
                            new UsageException("There is no form " + form + ". Use dng, compact, tiff or jpeg.")));
        }
        return forms;
    }

    private static DeliverySpace space(String value) throws UsageException {
        return Stream.of(DeliverySpace.values())
                .filter(space ->
                        space.name().equalsIgnoreCase(value) || space.title().equalsIgnoreCase(value))
                .findFirst()
                .orElseThrow(() -> new UsageException("There is no colour space " + value + " to deliver in."));
    }

    private static EnlargeSettings.Edges edges(String value) throws UsageException {
        return EnlargeSettings.Edges.OFFERED.stream()
                .filter(edges -> edges.name().equalsIgnoreCase(value))
                .findFirst()
                .orElseThrow(() -> new UsageException("Edges are learned or natural, not " + value + "."));
    }

    private static SharpenSettings.Method sharpenBy(String value) throws UsageException {
        return Stream.of(SharpenSettings.Method.values())
                .filter(method -> method.name().equalsIgnoreCase(value))
                .findFirst()
                .orElseThrow(() -> new UsageException("Sharpening is learned or plain, not " + value + "."));
    }

    private static double number(String option, String value, double least, double most) throws UsageException {
        try {
            double number = Double.parseDouble(value);
            if (number >= least && number <= most) {
                return number;
            }
        } catch (NumberFormatException e) {
            // said below
        }
        throw new UsageException(String.format(
                Locale.ROOT, "--%s needs a number from %s to %s, not %s.", option, plain(least), plain(most), value));
    }

    private static String plain(double number) {
        return number == Math.rint(number) ? Long.toString((long) number) : Double.toString(number);
    }
}
