package org.rainsieve.web.run;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.LocalTime;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.rainsieve.measure.Evenness;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.ReturnCheck;
import org.rainsieve.pipeline.ReturnWriter;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.Discarded;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.setup.SieveProperties;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;
import tools.jackson.databind.json.JsonMapper;

/** Runs: starting them with settings resolved from the camera book, following them, and what workers do to their items. */
@Service
public class RunService {
    private static final JsonMapper JSON = JsonMapper.builder().build();

    /** A return whose grain differs from its group's middle by this factor stands out. (Common practice.) */
    private static final double OUTLIER = 1.25;

    private final RunRepository repository;
    private final ShootService shoots;
    private final BookService book;
    private final RunPlanning planning;
    private final Destinations destinations;
    private final SieveProperties properties;
    private final QuietHours quiet;

    RunService(
            RunRepository repository,
            ShootService shoots,
            RunPlanning planning,
            BookService book,
            Destinations destinations,
            SieveProperties properties) {
        this.destinations = destinations;
        this.repository = repository;
        this.shoots = shoots;
        this.planning = planning;
        this.book = book;
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

    /**
     * Starts a run.
     *
     * @param once a word of the form that asks: sent again it starts nothing, and the run that it started is answered; empty for none
     */
    @Transactional
    public long start(RunRequest request, String once) {
        if (once.isBlank()) {
            return start(request);
        }
        Optional<Long> begun = repository.begun(once);
        if (begun.isPresent()) {
            return begun.get();
        }
        long run = start(request);
        repository.setBegun(once, run);
        return run;
    }

    private long start(RunRequest request) {
        if (request.forms().isEmpty()) {
            throw new NotPossibleException("Choose what the frames are to be returned as.");
        }
        RunPlanning.Plan plan = planning.plan(request);
        if (plan.items().isEmpty()) {
            throw new NotPossibleException(whyNothing(request, plan));
        }
        plan.items().forEach(item -> RunPlanning.name(request, item));
        // From its first run on a page stands, and the versions it is made with do not change by themselves.
        plan.items().stream().map(item -> item.frame().camera()).distinct().forEach(book::begin);
        long run = repository.addRun(request);
        List<RunRepository.NewItem> items = new ArrayList<>();
        for (RunPlanning.Item item : plan.items()) {
            String settings = item.settings().toJson();
            // In the order of forms: linear ones first.
            for (ReturnForm form : item.forms()) {
                items.add(new RunRepository.NewItem(item.frame().id(), form, settings));
            }
        }
        repository.addItems(run, items);
        for (ReturnForm form : request.forms()) {
            List<Long> developed = plan.items().stream()
                    .filter(item -> item.forms().contains(form) && RunPlanning.developed(item, form))
                    .map(item -> item.frame().id())
                    .toList();
            repository.developFromLinear(run, developed, form);
        }
        return run;
    }

    private static String whyNothing(RunRequest request, RunPlanning.Plan plan) {
        if (!plan.tooLarge().isEmpty()) {
            return plan.tooLarge().get(0)
                    + (plan.tooLarge().size() > 1 ? " and " + (plan.tooLarge().size() - 1) + " more" : "")
                    + " cannot be made so large: between 1 and 6 times, and no more than 65,535 px a side. Nothing was started.";
        }
        if (plan.upToDate() > 0) {
            return "These frames have returns that are up to date. Choose “again” to make them anew. Nothing was started.";
        }
        return switch (request.take()) {
            case CHOSEN ->
                "No frame is chosen that could be worked on. Choose some on the contact sheet. Nothing was started.";
            case OPEN -> "Every frame that is ready has a return. Nothing was started.";
            case CHANGED -> "No frame was changed since its return. Nothing was started.";
            default ->
                "No frame of this shoot is ready yet. Wait until they are read, or see why they are left out. Nothing was started.";
        };
    }

    /** What a run would do. */
    RunPlanning.Plan plan(RunRequest request) {
        return planning.plan(request);
    }

    Forecast forecast(RunRequest request, RunPlanning.Plan plan) {
        return planning.forecast(request, plan, workers().size());
    }

    String folder(RunRequest request, RunPlanning.Item item) {
        return destinations.folder(request.destination(), item.frame().file()).toString();
    }

    /**
     * Starts a run that makes copies of returns for clients and printers.
     *
     * @param items linear returns; empty for the newest of every frame of the shoot
     * @param request of which enlarge and even grain do not count: the returns are as they are
     */
    @Transactional
    public long deliver(RunRequest request, Set<Long> items) {
        if (!destinations.available().containsKey(request.destination())) {
            throw new NotPossibleException("Copies cannot go there. Choose one of the places that the page offers.");
        }
        Map<Long, Version> chosen = new LinkedHashMap<>();
        for (Version version : repository.versions(request.shootId())) {
            if (version.state().equals("returned")
                    && version.form().linear()
                    && (items.isEmpty() || items.contains(version.id()))) {
                // In the order of versions: the newest stays, unless several were asked for.
                chosen.put(items.isEmpty() ? version.frameId() : version.id(), version);
            }
        }
        if (chosen.isEmpty()) {
            throw new NotPossibleException("Copies are made from linear DNGs. None of these returns is one.");
        }
        long run = repository.addRun(request);
        List<RunRepository.NewItem> copies = new ArrayList<>();
        for (Version version : chosen.values()) {
            for (ReturnForm form : request.forms()) {
                copies.add(new RunRepository.NewItem(version.frameId(), form, version.settings(), version.id()));
            }
        }
        repository.addItems(run, copies);
        return run;
    }

    /** What the first frame of a shoot would be named by a pattern. */
    public String nameExample(long shootId, String naming) {
        List<FrameForWork> frames = shoots.readyFrames(shootId);
        try {
            return frames.isEmpty()
                    ? ""
                    : ReturnNames.of(naming, frames.get(0).named()).name(1, ".dng");
        } catch (IOException e) {
            throw new NotPossibleException(e.getMessage());
        }
    }

    /**
     * Whether there is room for a return and what must stay free. Without it the item's run is halted with the reason, until
     * there is.
     *
     * @param folder where the return goes, or its parent while it does not exist
     * @param pixels of the return
     * @param bytes of what comes along with it
     */
    public boolean room(TakenItem item, Path folder, double pixels, long bytes) {
        long free = RunPlanning.free(Files.isDirectory(folder) ? folder : folder.getParent());
        long kept = (long) properties.keepFreeMb() << 20;
        double needed = LARGEST_BYTES_PER_PIXEL * pixels + bytes;
        boolean room = free < 0 || free - needed >= kept;
        repository.setHalted(
                item.runId(),
                room
                        ? null
                        : String.format(
                                Locale.ROOT,
                                "The disk of the returns has %.1f GB free, the next return needs up to %.1f GB and %.1f GB are"
                                        + " kept free. The run goes on by itself when there is room.",
                                free / 1e9,
                                needed / 1e9,
                                kept / 1e9));
        return room;
    }

    /** Says of an item's run what it waits for; told no more when there is room. */
    public void halted(TakenItem item, String why) {
        repository.setHalted(item.runId(), why);
    }

    /** Of a return whose grain was all kept; with the room that its directories and previews take. */
    private static final double LARGEST_BYTES_PER_PIXEL = 6;

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

    public ItemRow item(long id) {
        return repository.item(id).orElseThrow(() -> new NotFoundException("There is no such return."));
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

    /** Starts the same run again: the same frames with the same settings, whatever the camera book says by now. */
    @Transactional
    public long repeat(long runId) {
        if (run(runId).open()) {
            throw new NotPossibleException("This run is not finished yet. Wait for its end, or stop it first.");
        }
        long copy = repository.copyRun(runId);
        repository.copyItems(runId, copy);
        return copy;
    }

    /** Starts a run of the same frames with the same choices, and with the settings that are in force now. */
    @Transactional
    public long repeatNow(long runId) {
        if (run(runId).open()) {
            throw new NotPossibleException("This run is not finished yet. Wait for its end, or stop it first.");
        }
        List<ItemRow> items = repository.items(runId);
        Set<ReturnForm> forms = EnumSet.noneOf(ReturnForm.class);
        items.forEach(item -> forms.add(item.form()));
        return start(repository
                .request(runId, forms)
                .of(items.stream().map(ItemRow::frameId).collect(Collectors.toSet())));
    }

    /**
     * Makes one return anew from the settings that it carries, as a new version.
     *
     * @param settings as JSON
     * @param originalSha256 of the original that it was made from
     */
    @Transactional
    public long again(long itemId, String settings, String originalSha256) {
        ItemRow item = item(itemId);
        FrameForWork frame = shoots.frame(item.frameId());
        if (!originalSha256.equals(frame.sha256())) {
            throw new NotPossibleException(
                    "This return was made from another original than the one that lies there now, so it cannot be made again.");
        }
        String now;
        try {
            now = ResolvedSettings.ofJson(settings).madeNow().toJson();
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(
                    "The settings in this return cannot be read by this version of Rain Sieve, so it cannot be made again.");
        }
        long run = repository.copyRun(item.runId());
        repository.addItems(run, List.of(new RunRepository.NewItem(item.frameId(), item.form(), now)));
        return run;
    }

    /** Makes one return anew with the settings that are in force now, as a new version. */
    @Transactional
    public long againNow(long itemId) {
        ItemRow item = item(itemId);
        return start(repository.request(item.runId(), EnumSet.of(item.form())).of(Set.of(item.frameId())));
    }

    /** Moves all returns of an ended run out of the way; originals are never touched. */
    public void discard(long runId) {
        if (run(runId).open()) {
            throw new NotPossibleException("This run is at work still. Stop it first.");
        }
        movedAll(
                runId,
                "returned",
                "discarded",
                RunService::put,
                " left alone: in the catalogue, not where it was put, or changed since.");
    }

    /** What a catalogue took is the catalogue's. */
    private static boolean put(ItemRow item) throws IOException {
        return !item.pickedUp() && Discarded.put(Path.of(item.finalPath()), item.id(), item.sizeBytes(), item.hash());
    }

    /** Puts what was discarded back where it lay. */
    public void bringBack(long runId) {
        movedAll(
                runId,
                "discarded",
                "returned",
                item -> Discarded.bringBack(Path.of(item.finalPath()), item.id()),
                " not put back: the name is taken, or the file is gone.");
    }

    /** A return as one of the versions of its frame. */
    public record Version(
            long id,
            long runId,
            long frameId,
            String frame,
            int version,
            ReturnForm form,
            String state,
            Long sizeBytes,
            Double noiseLeft,
            String settings,
            String path,
            boolean pickedUp,
            String destination) {}

    /** All returns of a shoot's frames, discarded ones too, frame by frame. */
    public List<Version> versions(long shootId) {
        return repository.versions(shootId);
    }

    /** How many items of all runs stand in each state. */
    public Map<String, Long> itemsByState() {
        return repository.itemsByState();
    }

    public FrameReturn newestOf(long frameId) {
        return repository.newestOf(frameId).orElse(FrameReturn.NONE);
    }

    public List<Version> versionsOf(long frameId) {
        return repository.versionsOf(frameId);
    }

    /** A return that was put into a catalogue's inbox and not picked up as far as is known. */
    public record InInbox(long id, String path, String hash, long sizeBytes) {}

    public List<InInbox> inInbox() {
        return repository.inInbox();
    }

    public void pickedUp(long itemId, Path place) {
        repository.pickedUp(itemId, place.toString());
    }

    /** @return false when the file is not the one that was put there; it is left alone then */
    public boolean discardOne(long itemId) {
        ItemRow item = item(itemId);
        return movedOne(item, "returned", "discarded", RunService::put);
    }

    public boolean bringBackOne(long itemId) {
        ItemRow item = item(itemId);
        return movedOne(item, "discarded", "returned", one -> Discarded.bringBack(Path.of(one.finalPath()), one.id()));
    }

    private boolean movedOne(ItemRow item, String from, String to, Move move) {
        try {
            if (!item.state().equals(from) || item.finalPath() == null || !move.done(item)) {
                return false;
            }
            repository.setItemState(item.id(), from, to);
            return true;
        } catch (IOException e) {
            return false;
        }
    }

    private interface Move {
        boolean done(ItemRow item) throws IOException;
    }

    private void movedAll(long runId, String from, String to, Move move, String otherwise) {
        int left = 0;
        for (ItemRow item : repository.items(runId)) {
            if (!item.state().equals(from) || item.finalPath() == null) {
                continue;
            }
            if (!movedOne(item, from, to, move)) {
                left++;
            }
        }
        if (left > 0) {
            throw new NotPossibleException(left + (left == 1 ? " return" : " returns") + " of this run" + otherwise);
        }
    }

    @Transactional
    public void retryFailed(long runId) {
        repository.retryFailed(runId);
    }

    public List<WorkerRow> workers() {
        return repository.workers(properties.leaseMs());
    }

    public long addWorker(String address, String secret) {
        return repository.addWorker(address, secret);
    }

    public void removeWorker(long id) {
        repository.removeWorker(id);
    }

    public void heartbeat(long workerId, HeldMemory memory) {
        repository.heartbeat(workerId, memory);
    }

    /** The database's clock, in milliseconds since 1970. */
    public long clockMs() {
        return repository.clockMs();
    }

    /** Items to be done next, at most one for each worker; none in quiet hours. */
    public List<Long> next() {
        return quiet.at(LocalTime.now())
                ? List.of()
                : repository.next(Math.max(1, workers().size()));
    }

    /** Items that some worker is at work on, or was when it ended; none in quiet hours. */
    public List<Long> taken() {
        return quiet.at(LocalTime.now()) ? List.of() : repository.taken();
    }

    /** Empty when there is nothing to do for it any more, or not now. */
    @Transactional
    public Optional<TakenItem> take(long itemId, long workerId) {
        return quiet.at(LocalTime.now()) ? Optional.empty() : repository.take(itemId, workerId);
    }

    public void progress(TakenItem item, double share) {
        repository.progress(item.id(), item.attempt(), share);
    }

    public boolean stillMine(TakenItem item) {
        return repository.stillMine(item.id(), item.attempt());
    }

    /** Whether there was such an attempt at an item, and nobody is at it any more. */
    public boolean abandoned(long itemId, int attempt) {
        return repository.abandoned(itemId, attempt);
    }

    public boolean wanted(TakenItem item) {
        return repository.wanted(item.id());
    }

    public int nextVersion(TakenItem item) {
        return repository.nextVersion(item.frameId(), item.form(), item.id());
    }

    @Transactional
    public boolean record(
            TakenItem item, int version, String finalPath, String hash, long size, ReturnWriter.Written written) {
        return repository.record(item.id(), item.attempt(), version, finalPath, hash, size, written);
    }

    public List<String> publications(TakenItem item, String finalPath) {
        return repository.publications(item.id(), finalPath);
    }

    /** The return stands; where its run says so, those of before make room for it. */
    public boolean returned(TakenItem item, String hash) {
        boolean mine = repository.returned(item.id(), item.attempt(), hash);
        if (mine) {
            repository.replacedBy(item.id()).forEach(this::discardOne);
        }
        return mine;
    }

    public void failed(TakenItem item, String reason) {
        repository.failed(item.id(), item.attempt(), reason);
    }

    public void endedWorker(long itemId) {
        repository.endedWorker(itemId);
    }

    public void giveBack(TakenItem item) {
        repository.giveBack(item.id(), item.attempt());
    }

    /** Whether this engine's speed on this machine is known. */
    public boolean tried() {
        return !Double.isNaN(repository.trial(ResolvedSettings.ENGINE));
    }

    public void keepTrial(double slower) {
        repository.keepTrial(ResolvedSettings.ENGINE, slower);
    }
}
