package org.rainsieve.web.files;

import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Set;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.rainsieve.web.setup.NotPossibleException;

/**
 * Names of returns, made from a pattern of fields in braces. The original's name and the step are always part of it, so that
 * a return never has the name of an original or of its sidecar; from the second version on there is a number.
 */
public final class ReturnNames {
    /** The usual pattern. */
    public static final String USUAL = "{name}-{step}{version}";

    public static final Set<String> FIELDS = Set.of("name", "step", "version", "camera", "iso", "date", "time");

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
                        + "}. There are {name}, {step}, {version}, {camera}, {iso}, {date} and {time}.");
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
