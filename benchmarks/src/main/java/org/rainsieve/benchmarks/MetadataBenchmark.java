package org.rainsieve.benchmarks;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Stream;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.opening.Glance;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/** Compares what is told of each file of a folder at a glance with what ExifTool tells, and how fast it is told. */
final class MetadataBenchmark {
    private static final double TOLERANCE = 0.01;

    private MetadataBenchmark() {}

    /** @return how many fields differ */
    static int run(Path folder) throws IOException, InterruptedException {
        List<Path> files;
        try (Stream<Path> found = Files.walk(folder)) {
            files = found.filter(Files::isRegularFile).sorted().toList();
        }
        int agreed = 0;
        int missing = 0;
        List<String> differing = new ArrayList<>();
        for (Path file : files) {
            Map<String, String> ours;
            try {
                ours = ours(Glance.of(file, null));
            } catch (RefusedException e) {
                System.out.printf("%s: %s%n", file.getFileName(), e.getMessage());
                continue;
            }
            JsonNode theirs = exiftool(file);
            List<String> unknown = new ArrayList<>();
            for (Map.Entry<String, String> field : ours.entrySet()) {
                String told = theirs.path(field.getKey()).asString("").strip();
                if (told.isEmpty() || told.equals("0") && field.getValue().isEmpty()) {
                    continue;
                }
                if (field.getValue().isEmpty()) {
                    missing++;
                    unknown.add(field.getKey() + " (" + told + ")");
                } else if (same(field.getValue(), told)) {
                    agreed++;
                } else {
                    differing.add(
                            file.getFileName() + ", " + field.getKey() + ": " + field.getValue() + ", not " + told);
                }
            }
            System.out.printf(
                    "%s: %s%s%n",
                    file.getFileName(),
                    ours.get("Model"),
                    unknown.isEmpty() ? "" : "; not told here: " + String.join(", ", unknown));
        }
        differing.forEach(System.out::println);
        long begun = System.nanoTime();
        int told = 0;
        for (int round = 0; round < 20; round++) {
            for (Path file : files) {
                try {
                    told += Glance.of(file, null).width() >= 0 ? 1 : 0;
                } catch (RefusedException e) {
                    told++;
                }
            }
        }
        double seconds = (System.nanoTime() - begun) / 1e9;
        System.out.printf(
                Locale.ROOT,
                "%d files: %d fields agree, %d differ, %d are told by ExifTool alone; %.0f files/s on one core%n",
                files.size(),
                agreed,
                differing.size(),
                missing,
                told / seconds);
        return differing.size();
    }

    private static Map<String, String> ours(Glance glance) {
        Map<String, String> fields = new LinkedHashMap<>();
        fields.put("Make", glance.shot().make());
        fields.put("Model", glance.shot().model());
        fields.put("SerialNumber", glance.shot().serial());
        fields.put(
                "ISO",
                glance.shot().iso() == 0 ? "" : Integer.toString(glance.shot().iso()));
        fields.put("ExposureTime", number(glance.shot().exposureSeconds()));
        fields.put("FNumber", number(glance.shot().aperture()));
        fields.put("FocalLength", number(glance.shot().focalLengthMm()));
        fields.put("LensModel", glance.shot().lens());
        String time = glance.shot().takenAt();
        fields.put(
                "DateTimeOriginal",
                time.length() < 19 ? "" : time.substring(0, 10).replace('-', ':') + " " + time.substring(11, 19));
        fields.put("Orientation", Integer.toString(glance.shot().orientation()));
        fields.put("GPSLatitude", glance.place() == null ? "" : Double.toString(glance.place()[0]));
        fields.put("GPSLongitude", glance.place() == null ? "" : Double.toString(glance.place()[1]));
        fields.put(
                "Rating",
                glance.marks().rating() == null ? "" : glance.marks().rating().toString());
        return fields;
    }

    private static String number(double value) {
        return Double.isNaN(value) ? "" : Double.toString(value);
    }

    private static boolean same(String ours, String theirs) {
        try {
            double a = Double.parseDouble(ours);
            double b = Double.parseDouble(theirs);
            return Math.abs(a - b) <= TOLERANCE * Math.abs(b);
        } catch (NumberFormatException e) {
            return ours.strip().equalsIgnoreCase(theirs);
        }
    }

    private static JsonNode exiftool(Path file) throws IOException, InterruptedException {
        Process process = new ProcessBuilder("exiftool", "-n", "-j", file.toString())
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        byte[] out = process.getInputStream().readAllBytes();
        process.waitFor();
        return JsonMapper.builder().build().readTree(out).path(0);
    }
}
