package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.web.setup.NotPossibleException;

/**
 * Names of returns, made from a pattern of fields in braces. The original's name and the step are always part of it, so that
 * a return never has the name of an original or of its sidecar; from the second version on there is a number. {@code {step}} is every
 * step that worked.
 */
public final class ReturnNames {
    /** The usual pattern. */
    public static final String USUAL = "{name}-{step}{version}";

    /** A word for each step that worked, and nothing for one that did not. */
    private static final List<String> STEPS = List.of("denoise", "sharpen", "optics", "crop", "enlarge");

    private static final Set<String> FIELDS = Set.of(
            "name", "step", "version", "camera", "iso", "date", "time", "size", "denoise", "sharpen", "optics", "crop",
            "enlarge");

    private static final int MAX_BYTES = 255;
    private static final int LONGEST = 200;
    private static final Pattern FIELD = Pattern.compile("\\{([^{}]*)}");
    private static final Pattern NOT_IN_NAMES = Pattern.compile("[\\x00-\\x1f/\\\\:*?\"<>|]");

    private final String pattern;
    private final Map<String, String> values = new LinkedHashMap<>();

    private ReturnNames(String pattern, Frame frame) {
        this.pattern = pattern.contains("{version}") ? pattern : pattern + "{version}";
        values.put("name", frame.file().replaceFirst("\\.[^.]{1,5}$", ""));
        values.put("step", "denoise");
        values.put("denoise", "denoise");
        values.put("size", "");
        STEPS.forEach(step -> values.putIfAbsent(step, ""));
        values.put("camera", frame.camera());
        values.put("iso", frame.iso() == null ? "" : frame.iso().toString());
        String taken = frame.takenAt() == null ? "" : frame.takenAt();
        values.put("date", taken.length() < 10 ? "" : taken.substring(0, 10));
        values.put("time", taken.length() < 19 ? "" : taken.substring(11, 19).replace(":", ""));
    }

    /** What a name can tell of a frame. */
    public record Frame(String file, String camera, Integer iso, String takenAt) {}

    /**
     * @param pattern null for {@link #USUAL}
     * @throws NotPossibleException in plain words for patterns that cannot be used
     */
    public static ReturnNames of(String pattern, Frame frame) {
        String used = pattern == null || pattern.isBlank() ? USUAL : pattern.strip();
        check(used);
        return new ReturnNames(used, frame);
    }

    /**
     * The names of a return that was made so.
     *
     * @param size of the return
     */
    public ReturnNames of(ResolvedSettings settings, EnlargeSettings.Size size) {
        Map<String, Boolean> worked = new LinkedHashMap<>();
        worked.put("denoise", settings.denoise().on());
        worked.put("sharpen", !settings.sharpen().idle());
        worked.put("optics", !settings.optics().idle());
        worked.put("crop", Steps.cropRendered(settings.crop(), settings.enlarge()));
        worked.put("enlarge", settings.enlarge().on());
        List<String> words = STEPS.stream().filter(worked::get).toList();
        // Something has to tell a return from its original.
        values.put("step", words.isEmpty() ? "linear" : String.join("-", words));
        STEPS.forEach(step -> values.put(step, worked.get(step) ? step : ""));
        values.put("size", size.width() + "x" + size.height());
        return this;
    }

    private static void check(String pattern) {
        if (pattern.length() > LONGEST || pattern.startsWith(".")) {
            throw new NotPossibleException(
                    "A pattern for names has at most 200 letters and does not begin with a dot.");
        }
        if (!pattern.contains("{name}") || !pattern.contains("{step}")) {
            throw new NotPossibleException(
                    "A pattern for names needs {name} and {step}, so that returns are told from originals.");
        }
        Matcher field = FIELD.matcher(pattern);
        while (field.find()) {
            if (!FIELDS.contains(field.group(1))) {
                throw new NotPossibleException("There is no field {" + field.group(1)
                        + "}. There are {name}, {step}, {version}, {camera}, {iso}, {date}, {time}, {size}, and {denoise},"
                        + " {sharpen}, {optics}, {crop} and {enlarge} for steps that worked.");
            }
        }
        String rest = FIELD.matcher(pattern).replaceAll("");
        if (NOT_IN_NAMES.matcher(rest).find() || rest.contains("{") || rest.contains("}")) {
            throw new NotPossibleException(
                    "A pattern for names cannot have / \\ : * ? \" < > | or a brace that is not closed in it.");
        }
    }

    /**
     * @param ending with its dot
     * @throws IOException when the name would be longer than file systems allow
     */
    public String name(int version, String ending) throws IOException {
        Matcher field = FIELD.matcher(pattern);
        StringBuilder name = new StringBuilder();
        while (field.find()) {
            String value = field.group(1).equals("version")
                    ? version == 1 ? "" : "-" + version
                    : NOT_IN_NAMES.matcher(values.get(field.group(1))).replaceAll("-");
            field.appendReplacement(name, Matcher.quoteReplacement(value));
            // A step that did not work takes the mark before it along.
            int end = name.length();
            if (value.isEmpty()
                    && STEPS.contains(field.group(1))
                    && end > 0
                    && "-_ .".indexOf(name.charAt(end - 1)) >= 0) {
                name.setLength(end - 1);
            }
        }
        field.appendTail(name);
        name.append(ending);
        if (name.toString().getBytes(StandardCharsets.UTF_8).length > MAX_BYTES) {
            throw new IOException("The name of the return would be longer than the file system allows (" + MAX_BYTES
                    + " bytes). Give the original a shorter name.");
        }
        return name.toString();
    }
}
