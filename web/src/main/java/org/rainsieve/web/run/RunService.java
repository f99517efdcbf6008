package org.rainsieve.web.run;

import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.rainsieve.measure.Evenness;
import org.rainsieve.pipeline.ReturnCheck;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.SieveProperties;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Runs as they stand: their items, what is odd in them, pausing and stopping. */
@Service
public class RunService {
    /** A return whose grain differs from its group's middle by this factor stands out. (Common practice.) */
    private static final double OUTLIER = 1.25;

    /** A return in which something stands out; places are those of the frame. */
    public record Odd(long id, String name, int width, int height, List<ReturnCheck.Oddity> oddities) {
        /** Of the sample that shows the first of them: its left and top edge. */
        public int x() {
            return inside(oddities.get(0).x(), width);
        }

        public int y() {
            return inside(oddities.get(0).y(), height);
        }

        public int sample() {
            return Math.min(SAMPLE, Math.min(width, height));
        }

        private int inside(int at, int size) {
            return Math.max(0, Math.min(size - sample(), at - sample() / 2));
        }

        private static final int SAMPLE = 120;
    }

    private final RunRepository repository;
    private final SieveProperties properties;
    private final QuietHours quiet;

    RunService(RunRepository repository, SieveProperties properties) {
        this.repository = repository;
        this.properties = properties;
        this.quiet = QuietHours.parse(properties.quiet());
    }

    /** Why no frame is begun now; empty when nothing is in the way. */
    public String quietInWords() {
        return quiet.at(LocalTime.now()) ? "Quiet hours: no frame is begun before " + quiet.until() + "." : "";
    }

    /** Whether frames of other runs wait, too. */
    public boolean others(long runId) {
        return repository.others(runId);
    }

    /** Its waiting frames come before those of all other runs. */
    @Transactional
    public void first(long runId) {
        run(runId);
        repository.first(runId);
    }

    /** How even the grain of each camera's returns in a run is. */
    public record GroupEvenness(String camera, Evenness evenness, List<Measured> outliers) {}

    /** A return whose grain was measured. */
    public record Measured(long id, String name, String camera, double grain) {}

    /** The groups of a run of which at least two returns were measured, and the returns furthest off in each. */
    public List<GroupEvenness> evenness(long runId) {
        Map<String, List<Measured>> groups = new TreeMap<>();
        for (Measured item : repository.measured(runId)) {
            groups.computeIfAbsent(item.camera(), camera -> new ArrayList<>()).add(item);
        }
        List<GroupEvenness> result = new ArrayList<>();
        groups.forEach((camera, items) -> {
            double[] sds = items.stream().mapToDouble(Measured::grain).toArray();
            Evenness evenness = Evenness.of(sds);
            if (evenness != null) {
                double[] sorted = sds.clone();
                Arrays.sort(sorted);
                double middle = sorted[sorted.length / 2];
                List<Measured> outliers = items.stream()
                        .filter(item -> Math.abs(Math.log(item.grain() / middle)) > Math.log(OUTLIER))
                        .toList();
                result.add(new GroupEvenness(camera, evenness, outliers));
            }
        });
        return result;
    }

    List<Odd> odd(long runId) {
        return repository.odd(runId);
    }

    public List<RunRow> runs() {
        return repository.runs();
    }

    public RunRow run(long id) {
        return repository.run(id).orElseThrow(() -> new NotFoundException("There is no such run."));
    }

    /** A part of a run's items, failed ones first. */
    List<ItemRow> items(long runId, int from, int most) {
        return repository.items(runId, from, most);
    }

    /** What is shown of a run at a time of the database. */
    record Changes(String at, RunRow run, List<ItemEvent> items) {}

    String now() {
        return repository.now();
    }

    /**
     * A run and those of its items that have changed since then.
     *
     * @param since as {@link #now} tells it
     */
    Changes changes(long runId, String since) {
        String at = repository.now();
        return new Changes(at, run(runId), repository.changed(runId, since));
    }

    /** Items of a run that were returned, in their order. */
    public List<Long> returnedIds(long runId) {
        return repository.returnedIds(runId);
    }

    /** For each step, on how many of a run's items it is on: {@code off}, {@code on} or a number of frames. */
    public List<String> stepsOf(long runId) {
        RunRepository.StepCounts counts = repository.stepCounts(runId);
        return Stream.of(counts.denoise(), counts.sharpen(), counts.optics(), counts.crop(), counts.enlarge())
                .map(count -> count == 0
                        ? "off"
                        : count == counts.items() ? "on" : count + (count == 1 ? " frame" : " frames"))
                .toList();
    }

    public void pause(long runId) {
        repository.setState(runId, "running", "paused");
    }

    public void resume(long runId) {
        repository.setState(runId, "paused", "running");
    }

    public void stop(long runId) {
        repository.stop(runId);
    }

    /** How many items of all runs stand in each state. */
    public Map<String, Long> itemsByState() {
        return repository.itemsByState();
    }

    @Transactional
    public void retryFailed(long runId) {
        repository.retryFailed(runId);
    }
}
