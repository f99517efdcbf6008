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

    void write(Path file) throws IOException {
        Path part = file.resolveSibling(file.getFileName() + ".part");
        try (DataOutputStream out =
                new DataOutputStream(new BufferedOutputStream(Files.newOutputStream(part), 1 << 16))) {
            out.writeInt(MAGIC);
            out.writeLong(step);
            out.writeDouble(seconds);
            out.writeDouble(bestDb);
            out.writeInt(arrays.size());
            for (Map.Entry<String, float[]> entry : arrays.entrySet()) {
                out.writeUTF(entry.getKey());
                out.writeInt(entry.getValue().length);
                for (float value : entry.getValue()) {
                    out.writeFloat(value);
                }
            }
        }
        Files.move(part, file, StandardCopyOption.REPLACE_EXISTING, StandardCopyOption.ATOMIC_MOVE);
    }

    static Checkpoint read(Path file) throws IOException {
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
