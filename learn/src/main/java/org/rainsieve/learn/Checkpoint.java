package org.rainsieve.learn;

import java.io.BufferedInputStream;
import java.io.BufferedOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.LinkedHashMap;
import java.util.Map;

/** Training state on disk: step, seconds spent, best score, and named arrays (weights, their running mean, moments). */
record Checkpoint(long step, double seconds, double bestDb, Map<String, float[]> arrays) {
    private static final int MAGIC = 0x52534c31;

    /** One file for each kind of array, so that none is too large for an ordinary repository. */
    private static final Map<String, String> FILES =
            Map.of("", "weights.bin", "mean:", "mean.bin", "m:", "first.bin", "v:", "second.bin");

    void write(Path folder) throws IOException {
        for (Map.Entry<String, String> kind : FILES.entrySet()) {
            Map<String, float[]> own = new LinkedHashMap<>();
            arrays.forEach((name, values) -> {
                if (kindOf(name).equals(kind.getKey())) {
                    own.put(name, values);
                }
            });
            write(folder.resolve(kind.getValue()), own);
        }
    }

    private static String kindOf(String name) {
        return name.substring(0, name.indexOf(':') + 1);
    }

    private void write(Path file, Map<String, float[]> own) throws IOException {
        Path part = file.resolveSibling(file.getFileName() + ".part");
        try (DataOutputStream out =
                new DataOutputStream(new BufferedOutputStream(Files.newOutputStream(part), 1 << 16))) {
            out.writeInt(MAGIC);
            out.writeLong(step);
            out.writeDouble(seconds);
            out.writeDouble(bestDb);
            out.writeInt(own.size());
            for (Map.Entry<String, float[]> entry : own.entrySet()) {
                out.writeUTF(entry.getKey());
                out.writeInt(entry.getValue().length);
                for (float value : entry.getValue()) {
                    out.writeFloat(value);
                }
            }
        }
        Files.move(part, file, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
    }

    static boolean isIn(Path folder) {
        return FILES.values().stream().allMatch(name -> Files.exists(folder.resolve(name)));
    }

    static Checkpoint read(Path folder) throws IOException {
        Map<String, float[]> arrays = new LinkedHashMap<>();
        Checkpoint last = null;
        for (String name : FILES.values()) {
            last = readOne(folder.resolve(name));
            arrays.putAll(last.arrays);
        }
        return new Checkpoint(last.step, last.seconds, last.bestDb, arrays);
    }

    private static Checkpoint readOne(Path file) throws IOException {
        try (DataInputStream in = new DataInputStream(new BufferedInputStream(Files.newInputStream(file), 1 << 16))) {
            if (in.readInt() != MAGIC) {
                throw new IOException(file + " is not a training state");
            }
            long step = in.readLong();
            double seconds = in.readDouble();
            double best = in.readDouble();
            Map<String, float[]> arrays = new LinkedHashMap<>();
            int count = in.readInt();
            for (int i = 0; i < count; i++) {
                String name = in.readUTF();
                float[] values = new float[in.readInt()];
                for (int k = 0; k < values.length; k++) {
                    values[k] = in.readFloat();
                }
                arrays.put(name, values);
            }
            return new Checkpoint(step, seconds, best, arrays);
        }
    }
}
