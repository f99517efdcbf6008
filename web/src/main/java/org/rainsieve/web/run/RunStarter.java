package org.rainsieve.web.run;

import java.io.IOException;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Collectors;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.stereotype.Service;
import org.springframework.transaction.annotation.Transactional;

/** Starts runs, with settings resolved from the camera book: of a shoot, once more, of single returns, of copies. */
@Service
public class RunStarter {
    private final RunRepository repository;
    private final RunService runs;
    private final Returns returns;
    private final Workers workers;
    private final RunPlanning planning;
    private final ShootService shoots;
    private final BookService book;
    private final Destinations destinations;

    RunStarter(
            RunRepository repository,
            RunService runs,
            Returns returns,
            Workers workers,
            RunPlanning planning,
            ShootService shoots,
            BookService book,
            Destinations destinations) {
        this.repository = repository;
        this.runs = runs;
        this.returns = returns;
        this.workers = workers;
        this.planning = planning;
        this.shoots = shoots;
        this.book = book;
        this.destinations = destinations;
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
        return planning.forecast(request, plan, workers.workers().size());
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
        Map<Long, Returns.Version> chosen = new LinkedHashMap<>();
        for (Returns.Version version : repository.versions(request.shootId())) {
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
        for (Returns.Version version : chosen.values()) {
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

    /** Starts the same run again: the same frames with the same settings, whatever the camera book says by now. */
    @Transactional
    public long repeat(long runId) {
        if (runs.run(runId).open()) {
            throw new NotPossibleException("This run is not finished yet. Wait for its end, or stop it first.");
        }
        long copy = repository.copyRun(runId);
        repository.copyItems(runId, copy);
        return copy;
    }

    /** Starts a run of the same frames with the same choices, and with the settings that are in force now. */
    @Transactional
    public long repeatNow(long runId) {
        if (runs.run(runId).open()) {
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
        ItemRow item = returns.item(itemId);
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
        ItemRow item = returns.item(itemId);
        return start(repository.request(item.runId(), EnumSet.of(item.form())).of(Set.of(item.frameId())));
    }
}
