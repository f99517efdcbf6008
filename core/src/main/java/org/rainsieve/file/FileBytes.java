package org.rainsieve.file;

import java.io.Closeable;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.file.FileSystemException;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.util.Arrays;
import java.util.Set;

/** The bytes of a file, in memory or read piece by piece where they lie. */
public interface FileBytes extends Closeable {
    long length();

    /**
     * @return the bytes from {@code from} on; fewer where the file ends before
     * @throws UncheckedIOException when the file cannot be read
     */
    byte[] slice(long from, int count);

    @Override
    default void close() throws IOException {}

    static FileBytes of(byte[] data) {
        return new FileBytes() {
            @Override
            public long length() {
                return data.length;
            }

            @Override
            public byte[] slice(long from, int count) {
                int start = (int) Math.min(data.length, from);
                return Arrays.copyOfRange(data, start, (int) Math.min(data.length, from + count));
            }
        };
    }

    /** Opens a file; links are not followed. */
    static FileBytes open(Path file) throws IOException {
        // Opening a pipe would wait for whoever writes into it, for ever.
        if (!Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)) {
            throw new FileSystemException(file.toString(), null, "not an ordinary file");
        }
        FileChannel channel = FileChannel.open(file, Set.of(StandardOpenOption.READ, LinkOption.NOFOLLOW_LINKS));
        long length = channel.size();
        return new FileBytes() {
            @Override
            public long length() {
                return length;
            }

            @Override
            public byte[] slice(long from, int count) {
                ByteBuffer into = ByteBuffer.allocate((int) Math.max(0, Math.min(count, length - from)));
                try {
                    while (into.hasRemaining() && channel.read(into, from + into.position()) > 0) {
                        continue;
                    }
                } catch (IOException e) {
                    throw new UncheckedIOException(e);
                }
                return into.hasRemaining() ? Arrays.copyOf(into.array(), into.position()) : into.array();
            }

            @Override
            public void close() throws IOException {
                channel.close();
            }
        };
    }
}
