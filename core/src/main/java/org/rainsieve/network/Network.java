package org.rainsieve.network;

import ai.onnxruntime.OnnxTensor;
import ai.onnxruntime.OrtEnvironment;
import ai.onnxruntime.OrtException;
import ai.onnxruntime.OrtSession;
import ai.onnxruntime.TensorInfo;
import java.nio.ByteBuffer;
import java.nio.ByteOrder;
import java.nio.FloatBuffer;
import java.util.Map;
import java.util.Objects;
import java.util.Queue;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Consumer;

/**
 * One trained network, ready to work: planes of numbers in, planes of the same size out. Any number of threads may use it at
 * once; each call works on one thread, which keeps all cores busy with tiles side by side and results alike.
 */
public final class Network {
    /** Multiples of 8 suit every network. */
    private static final int SMALL = 8;

    /** The one that worked last. */
    private static final AtomicReference<Network> LAST = new AtomicReference<>();

    private final OrtEnvironment environment = OrtEnvironment.getEnvironment();
    private final AtomicInteger atWork = new AtomicInteger();
    private final OrtSession session;
    private final String output;
    private final int planesIn;

    private Network(String name) throws OrtException {
        OrtSession.SessionOptions options = new OrtSession.SessionOptions();
        options.setIntraOpNumThreads(1);
        options.setInterOpNumThreads(1);
        // One block of memory planned for each shape of tile held 100 to 250 MB more, and was no faster.
        options.setMemoryPatternOptimization(false);
        session = environment.createSession(ModelFiles.read(name), options);
        output = session.getOutputNames().iterator().next();
        long[] shape = ((TensorInfo) session.getInputInfo().get("input").getInfo()).getShape();
        planesIn = (int) shape[1];
    }

    /**
     * @param name of a file that ships
     * @param method that needs it, as people choose it
     * @param instead what they can choose in its place
     * @throws IllegalStateException in plain words when the file is broken
     */
    public static Network load(String name, String method, String instead) {
        try {
            return new Network(name);
        } catch (OrtException e) {
            throw new IllegalStateException(
                    "The model file of the method " + method + " is broken. Install Rain Sieve again, or choose "
                            + instead + ".",
                    e);
        }
    }

    public int planesIn() {
        return planesIn;
    }

    /**
     * @param write puts {@link #planesIn} planes of width × height into what it is given, one after another
     * @param planesOut of width × height, which {@code read} is given; it may not keep the buffer
     */
    public void run(int width, int height, Consumer<FloatBuffer> write, int planesOut, Consumer<FloatBuffer> read) {
        Network before = LAST.getAndSet(this);
        if (before != null && before != this) {
            before.letGo();
        }
        atWork.incrementAndGet();
        Buffers buffers = Objects.requireNonNullElseGet(BUFFERS.poll(), Buffers::new);
        FloatBuffer input = buffers.in(planesIn * width * height);
        FloatBuffer answer = buffers.out(planesOut * width * height);
        write.accept(input);
        try (OnnxTensor in = OnnxTensor.createTensor(environment, input, new long[] {1, planesIn, height, width});
                OnnxTensor out =
                        OnnxTensor.createTensor(environment, answer, new long[] {1, planesOut, height, width})) {
            session.run(Map.of("input", in), Map.of(output, out)).close();
            read.accept(answer);
        } catch (OrtException e) {
            throw new IllegalStateException("The network could not be run", e);
        } finally {
            BUFFERS.add(buffers);
            atWork.decrementAndGet();
        }
    }

    /**
     * The runtime keeps for each network what its largest tiles took, 150 to 300 MB. It lets that go after a run that asks for it;
     * on a tile this small such a run takes a millisecond.
     */
    private void letGo() {
        if (atWork.get() > 0) {
            return;
        }
        try (OrtSession.RunOptions options = new OrtSession.RunOptions();
                OnnxTensor in = OnnxTensor.createTensor(
                        environment,
                        FloatBuffer.allocate(planesIn * SMALL * SMALL),
                        new long[] {1, planesIn, SMALL, SMALL})) {
            options.addRunConfigEntry("memory.enable_memory_arena_shrinkage", "cpu:0");
            session.run(Map.of("input", in), options).close();
        } catch (OrtException e) {
            throw new IllegalStateException("The network could not be run", e);
        }
    }

    /** What networks read and answer for one tile: as large as the largest so far. */
    private static final class Buffers {
        private FloatBuffer in = FloatBuffer.allocate(0);
        private FloatBuffer out = in;

        FloatBuffer in(int values) {
            in = atLeast(values, in);
            return in.slice(0, values);
        }

        FloatBuffer out(int values) {
            out = atLeast(values, out);
            return out.slice(0, values);
        }

        private static FloatBuffer atLeast(int values, FloatBuffer buffer) {
            return buffer.capacity() >= values
                    ? buffer
                    : ByteBuffer.allocateDirect(4 * values)
                            .order(ByteOrder.nativeOrder())
                            .asFloatBuffer();
        }
    }

    /** Those that nobody works with: no more than ever worked at once. */
    private static final Queue<Buffers> BUFFERS = new ConcurrentLinkedQueue<>();
}
