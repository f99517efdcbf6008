package org.rainsieve.file;

import java.io.IOException;
import java.util.concurrent.TimeUnit;
import javax.imageio.stream.ImageInputStreamImpl;
import org.rainsieve.frame.RefusedException;

/**
 * Bytes for one of the platform's picture readers, which know no limits of their own: a JPEG of few bytes and hundreds of passes,
 * each over the whole picture, would hold one for minutes (libjpeg-turbo, <i>Two Issues with the JPEG Standard</i>, 2015).
 */
public final class BoundedInput extends ImageInputStreamImpl {
    /** Cameras and programs write about ten; one for each coefficient of each colour would be 192. */
    private static final int MOST_PASSES = 100;

    /** As long as another maker's raw file may take. */
    private static final long PATIENCE_S = 60;

    private final byte[] data;
    private final int from;
    private final int length;
    private final long until = System.nanoTime() + TimeUnit.SECONDS.toNanos(PATIENCE_S);

    private BoundedInput(byte[] data, int from, int length) {
        this.data = data;
        this.from = from;
        this.length = length;
    }

    /** @throws RefusedException when it is a JPEG of too many passes */
    public static BoundedInput of(byte[] data) throws RefusedException {
        return of(data, 0, data.length);
    }

    /** @throws RefusedException when it is a JPEG of too many passes */
    public static BoundedInput of(byte[] data, int from, int length) throws RefusedException {
        int passes = passes(data, from, from + length);
        if (passes > MOST_PASSES) {
            throw new RefusedException("The picture is stored in " + passes + " passes; up to " + MOST_PASSES
                    + " are read. Save it anew with another program.");
        }
        return new BoundedInput(data, from, length);
    }

    /** Scans of a JPEG stream (ITU-T T.81, B.1.1); 0 for anything else. */
    private static int passes(byte[] data, int from, int end) {
        if (end - from < 4 || (data[from] & 0xff) != 0xff || (data[from + 1] & 0xff) != 0xd8) {
            return 0;
        }
        int passes = 0;
        int at = from + 2;
        while (at + 3 < end) {
            int marker = data[at + 1] & 0xff;
            if ((data[at] & 0xff) != 0xff || marker == 0 || marker == 0xff || marker >= 0xd0 && marker <= 0xd7) {
                at++; // coded data, fill bytes, restarts
            } else if (marker == 0xd9) {
                break;
            } else {
                passes += marker == 0xda ? 1 : 0;
                at += 2 + Math.max(2, (data[at + 2] & 0xff) << 8 | data[at + 3] & 0xff);
            }
        }
        return passes;
    }

    @Override
    public int read() throws IOException {
        byte[] one = new byte[1];
        return read(one, 0, 1) < 0 ? -1 : one[0] & 0xff;
    }

    @Override
    public int read(byte[] into, int offset, int count) throws IOException {
        checkClosed();
        bitOffset = 0;
        if (System.nanoTime() - until > 0) {
            throw new IOException("It takes too long to read.");
        }
        int left = (int) Math.min(count, length - streamPos);
        if (left <= 0) {
            return count == 0 ? 0 : -1;
        }
        System.arraycopy(data, from + (int) streamPos, into, offset, left);
        streamPos += left;
        return left;
    }

    @Override
    public long length() {
        return length;
    }
}
