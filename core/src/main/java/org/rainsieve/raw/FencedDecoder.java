package org.rainsieve.raw;

import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.TimeUnit;
import org.rainsieve.frame.RefusedException;
import tools.jackson.databind.JsonNode;
import tools.jackson.databind.json.JsonMapper;

/**
 * LibRaw as WebAssembly in a process of its own, behind a double fence: the process may read no file but the decoder's,
 * its memory and time are capped, and when it dies that frame is refused and nothing else happens. It is kept for many
 * files and replaced after {@value #FILES_PER_PROCESS}.
 */
public final class FencedDecoder implements AutoCloseable {
    private static final int FILES_PER_PROCESS = 50;
    /** Resident memory of the whole process; the module itself may use 1 GiB. */
    private static final long MOST_BYTES = 1400L << 20;

    private static final long MOST_PIXELS = 400_000_000;
    private static final int LONGEST_ANSWER = 1 << 20;
    private static final JsonMapper JSON = JsonMapper.builder().build();

    /**
     * What the decoder said.
     *
     * @param told its description of the file
     * @param samples the whole sensor with its margins, row by row
     */
    record Decoded(JsonNode told, short[] samples) {}

    private final List<String> command;
    private final long longestMs;
    private Process process;
    private int files;

    /**
     * @param node the JavaScript runtime's command
     * @param folder where decoder.mjs, libraw.js and libraw.wasm lie
     * @param patience with one file
     */
    public FencedDecoder(String node, Path folder, Duration patience) {
        this(
                List.of(
                        node,
                        "--no-warnings",
                        "--experimental-permission",
                        "--allow-fs-read=" + folder.toAbsolutePath() + "/*",
                        "--max-old-space-size=256",
                        folder.toAbsolutePath().resolve("decoder.mjs").toString()),
                patience.toMillis());
    }

    /** For tests: any command that speaks the same protocol, and less patience. */
    FencedDecoder(List<String> command, long longestMs) {
        this.command = command;
        this.longestMs = longestMs;
    }

    /** @throws RefusedException when the decoder cannot read the file, or died over it */
    synchronized Decoded decode(byte[] file) throws RefusedException {
        if (process == null || !process.isAlive() || files >= FILES_PER_PROCESS) {
            close();
            start();
        }
        files++;
        Watch watch = new Watch(process, longestMs);
        watch.start();
        try {
            DataOutputStream out = new DataOutputStream(process.getOutputStream());
            out.writeInt(file.length);
            out.write(file);
            out.flush();
            return answer(new DataInputStream(process.getInputStream()));
        } catch (IOException | RuntimeException e) {
            // Whatever it still says belongs to this file: the next one gets a new process.
            String why = watch.reason;
            close();
            throw new RefusedException(
                    why != null
                            ? why
                            : "The decoder broke down over this file; it is damaged, or of a kind that LibRaw does not know.",
                    e);
        } finally {
            watch.done = true;
        }
    }

    private void start() throws RefusedException {
        try {
            ProcessBuilder builder = new ProcessBuilder(command);
            builder.environment().clear();
            builder.redirectError(ProcessBuilder.Redirect.DISCARD);
            process = builder.start();
            files = 0;
        } catch (IOException e) {
            throw new RefusedException(
                    "The decoder for raw files other than DNG could not be started: Node is missing. Install it and try again.",
                    e);
        }
    }

    private Decoded answer(DataInputStream in) throws IOException, RefusedException {
        int length = in.readInt();
        if (length < 2 || length > LONGEST_ANSWER) {
            throw new EOFException("An answer of " + length + " bytes");
        }
        JsonNode told = JSON.readTree(in.readNBytes(length));
        if (told.has("error")) {
            close(); // it ends itself after an error
            throw new RefusedException(
                    "This is no raw file that can be read: it is damaged, or LibRaw does not know its kind.");
        }
        long bytes = told.path("bytes").asLong();
        if (bytes == 0) {
            return new Decoded(told, null);
        }
        long pixels = told.path("rawWidth").asLong() * told.path("rawHeight").asLong();
        if (pixels <= 0 || pixels > MOST_PIXELS || bytes != 2 * pixels) {
            throw new EOFException("The decoder's picture does not fit its size");
        }
        short[] samples = new short[(int) pixels];
        byte[] part = new byte[1 << 20];
        int at = 0;
        while (at < samples.length) {
            int wanted = (int) Math.min(part.length, 2L * (samples.length - at));
            in.readFully(part, 0, wanted);
            ByteBuffer.wrap(part, 0, wanted)
                    .order(ByteOrder.LITTLE_ENDIAN)
                    .asShortBuffer()
                    .get(samples, at, wanted / 2);
            at += wanted / 2;
        }
        return new Decoded(told, samples);
    }

    @Override
    public synchronized void close() {
        if (process != null) {
            process.destroyForcibly();
            process = null;
        }
    }

    /** Ends the process when it takes too long or too much. */
    private static final class Watch extends Thread {
        private final Process process;
        private final long longestMs;
        private volatile boolean done;
        private volatile String reason;

        Watch(Process process, long longestMs) {
            super("decoder-watch");
            this.process = process;
            this.longestMs = longestMs;
            setDaemon(true);
        }

        @Override
        public void run() {
            long end = System.nanoTime() + TimeUnit.MILLISECONDS.toNanos(longestMs);
            try {
                while (!done && process.isAlive()) {
                    if (System.nanoTime() > end) {
                        end("The decoder took longer than " + longestMs / 1000 + " s over this file and was ended.");
                    } else if (residentBytes() > MOST_BYTES) {
                        end("The decoder wanted more memory for this file than it may have and was ended.");
                    }
                    Thread.sleep(50);
                }
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
        }

        private void end(String why) {
            reason = why;
            process.descendants().forEach(ProcessHandle::destroyForcibly);
            process.destroyForcibly();
        }

        /** From Linux' process table; 0 where there is none. */
        private long residentBytes() {
            try {
                String[] pages = Files.readString(Path.of("/proc/" + process.pid() + "/statm"))
                        .split(" ");
                return Long.parseLong(pages[1]) * 4096;
            } catch (IOException | RuntimeException e) {
                return 0;
            }
        }
    }
}
