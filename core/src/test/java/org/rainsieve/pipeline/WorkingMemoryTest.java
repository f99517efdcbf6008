package org.rainsieve.pipeline;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.Test;
import org.rainsieve.denoise.DenoisedTile;
import org.rainsieve.frame.CancelledException;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;

class WorkingMemoryTest {
    private static final long BYTES = 24L * 64 * 64;

    private static DenoisedTile tile() {
        Region region = new Region(0, 0, 64, 64);
        return new DenoisedTile(new Planes(region, 3), new Planes(region, 3));
    }

    /** Sixteen threads ask for four tiles: each is made once, and all get the same one. */
    @Test
    void nothingIsMadeTwice() throws Exception {
        WorkingMemory cache = new WorkingMemory(100 * BYTES);
        AtomicInteger made = new AtomicInteger();
        ExecutorService threads = Executors.newFixedThreadPool(16);
        CountDownLatch start = new CountDownLatch(1);
        List<Future<DenoisedTile>> answers = new ArrayList<>();
        for (int i = 0; i < 64; i++) {
            int key = i % 4;
            answers.add(threads.submit(() -> {
                start.await();
                return get(cache, key, () -> {
                    made.incrementAndGet();
                    try {
                        Thread.sleep(30);
                    } catch (InterruptedException e) {
                        throw new IllegalStateException(e);
                    }
                    return tile();
                });
            }));
        }
        start.countDown();
        for (int i = 4; i < 64; i++) {
            assertThat(answers.get(i).get()).isSameAs(answers.get(i % 4).get());
        }
        assertThat(made).hasValue(4);
        threads.shutdownNow();
    }

    @Test
    void theOneNotUsedForLongestGoesFirst() {
        WorkingMemory cache = new WorkingMemory(3 * BYTES);
        for (String key : new String[] {"a", "b", "c"}) {
            get(cache, key, WorkingMemoryTest::tile);
        }
        get(cache, "a", WorkingMemoryTest::tile);
        get(cache, "d", WorkingMemoryTest::tile);
        assertThat(cache.made()).isEqualTo(4);
        get(cache, "a", WorkingMemoryTest::tile);
        get(cache, "c", WorkingMemoryTest::tile);
        assertThat(cache.made()).as("a and c were kept").isEqualTo(4);
        get(cache, "b", WorkingMemoryTest::tile);
        assertThat(cache.made()).as("b had gone").isEqualTo(5);
    }

    /** A viewer that leaves must not leave its failure behind for the writer. */
    @Test
    void whoGivesUpDoesNotSpoilItForOthers() throws Exception {
        WorkingMemory cache = new WorkingMemory(3 * BYTES);
        CountDownLatch inside = new CountDownLatch(1);
        ExecutorService threads = Executors.newFixedThreadPool(2);
        Future<?> viewer = threads.submit(() -> get(cache, "a", () -> {
            inside.countDown();
            try {
                Thread.sleep(100);
            } catch (InterruptedException e) {
                throw new IllegalStateException(e);
            }
            throw new CancelledException();
        }));
        inside.await();
        Future<DenoisedTile> writer = threads.submit(() -> get(cache, "a", WorkingMemoryTest::tile));
        assertThatThrownBy(viewer::get).hasCauseInstanceOf(CancelledException.class);
        assertThat(writer.get()).isNotNull();
        threads.shutdownNow();
    }

    private static <T> T get(WorkingMemory cache, Object key, java.util.function.Supplier<T> maker) {
        return cache.get(
                key,
                maker,
                tile -> 24L * ((DenoisedTile) tile).estimate().region().area());
    }

    /** What is held makes room among what is kept, and gives it back; what was being made while all was let go is kept as usual. */
    @Test
    void whatIsHeldLeavesLessRoom() {
        WorkingMemory memory = new WorkingMemory(4 * BYTES);
        for (String key : new String[] {"a", "b", "c", "d"}) {
            get(memory, key, WorkingMemoryTest::tile);
        }
        try (WorkingMemory.Hold frame = memory.hold(3 * BYTES)) {
            assertThat(memory.used()).isEqualTo(4 * BYTES);
            get(memory, "d", WorkingMemoryTest::tile);
            assertThat(memory.made()).as("the last one was kept").isEqualTo(4);
            get(memory, "a", WorkingMemoryTest::tile);
            assertThat(memory.used()).isEqualTo(4 * BYTES);
        }
        assertThat(memory.used()).isEqualTo(BYTES);
        try (WorkingMemory.Hold more = memory.hold(10 * BYTES)) {
            assertThat(get(memory, "e", WorkingMemoryTest::tile)).isNotNull();
            assertThat(memory.used()).as("nothing is kept beside it").isEqualTo(10 * BYTES);
        }
        get(memory, "f", WorkingMemoryTest::tile);
        memory.clear();
        assertThat(memory.used()).isZero();
        get(memory, "g", () -> {
            memory.clear();
            return tile();
        });
        assertThat(memory.used()).isEqualTo(BYTES);
    }
}
