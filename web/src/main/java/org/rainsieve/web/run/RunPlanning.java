package org.rainsieve.web.run;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.EnumSet;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.rainsieve.book.EvenGrain;
import org.rainsieve.book.FrameSteps;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.jpeg.JpegTraces;
import org.rainsieve.noise.NoiseLaw;
import org.rainsieve.noise.SettledLaw;
import org.rainsieve.optics.LensChoice;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.UnreadableSettingsException;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.ReturnNames;
import org.rainsieve.web.lens.LensService;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ContactSheet;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.FrameOnSheet;
import org.rainsieve.web.shoot.InForce;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.stereotype.Service;

/**
 * What a run would do: which frames it takes, what becomes of each and with what settings, and what that takes. A run that is started
 * and a form that is looked at go by the same plan.
 */
@Service
class RunPlanning {
    /** So many returns tell the speed and the size of the next ones. */
    private static final int MEASURED = 300;

    private static final int MOST_KEPT = 50_000;
    private static final String[] NOTHING = {"", "", ""};

    private final RunRepository repository;
    private final ShootService shoots;
    private final ContactSheet sheets;
    private final BookService book;
    private final LensService lenses;
    private final Destinations destinations;
    /** Of returns what their settings ask for; a return never changes. */
    private final Map<Long, String[]> asked = new ConcurrentHashMap<>();

    RunPlanning(
            RunRepository repository,
            ShootService shoots,
            ContactSheet sheets,
            BookService book,
            LensService lenses,
            Destinations destinations) {
        this.repository = repository;
        this.shoots = shoots;
        this.sheets = sheets;
        this.book = book;
        this.lenses = lenses;
        this.destinations = destinations;
    }

    /** Where a frame's returns stand against what would be made now. */
    enum Standing {
        NEW,
        CHANGED,
        UP_TO_DATE
    }

    /** A frame that a run takes, with the forms that it lacks. */
    record Item(FrameForWork frame, Standing standing, ResolvedSettings settings, Set<ReturnForm> forms) {}

    /**
     * @param items to be made
     * @param upToDate frames that would come out as they are
     * @param ownSize frames that are as large already as was asked for
     * @param tooLarge names of frames that cannot be made so large, which are left out
     * @param changed frames of the whole shoot whose amounts are others than those of their last return
     * @param leftOut of the whole shoot
     */
    record Plan(
            List<Item> items,
            int upToDate,
            int ownSize,
            List<String> tooLarge,
            List<Long> changed,
            ShootService.LeftOut leftOut) {
        int count(Standing standing) {
            return (int)
                    items.stream().filter(item -> item.standing == standing).count();
        }

        int files() {
            return items.stream().mapToInt(item -> item.forms.size()).sum();
        }
    }

    /** The newest return of a frame in a form at a place. */
    record Returned(long id, long frameId, ReturnForm form, String destination, String delivery, boolean evenGrain) {}

    private record Resolved(
            FrameForWork frame, FrameSteps steps, SettledLaw noise, DenoiseSettings denoise, EnlargeSettings enlarge) {
        Resolved withJpegQuality(int quality) {
            return new Resolved(frame, steps, noise, denoise, enlarge.withJpegQuality(quality));
        }
    }

    /** @throws NotPossibleException in plain words for what cannot be asked for */
    Plan plan(RunRequest request) {
        if (!destinations.available().containsKey(request.destination())) {
            throw new NotPossibleException(
                    "Returns cannot go there. Choose one of the places that the shoot's page offers.");
        }
        List<FrameForWork> ready = shoots.readyFrames(request.shootId());
        Settings settings = new Settings();
        InForce inForce = settings.inForce;
        Map<Long, List<Returned>> returned = returned(request.shootId());
        boolean someKept = ready.stream().anyMatch(frame -> "keep".equals(frame.mark()));
        List<Long> changed = new ArrayList<>();
        List<String> tooLarge = new ArrayList<>();
        List<Resolved> taken = new ArrayList<>();
        int ownSize = 0;
        for (FrameForWork frame : ready) {
            FrameSteps steps = ShootService.steps(frame.steps());
            Resolved as = new Resolved(
                    frame,
                    steps,
                    inForce.law(frame.camera(), frame.iso()),
                    inForce.settings(frame.camera(), frame.ei(), steps),
                    EnlargeSettings.OFF);
            List<Returned> before = returned.getOrDefault(frame.id(), List.of());
            boolean differs = !before.isEmpty() && changed(settings.of(as), before);
            if (differs) {
                changed.add(frame.id());
            }
            if (!wanted(request, frame, someKept, before.isEmpty(), differs)) {
                continue;
            }
            EnlargeSettings enlarge = request.enlarge();
            if (enlarge.on()) {
                double factor = factor(frame, steps, enlarge);
                if (factor < 1 + 1e-9) {
                    enlarge = EnlargeSettings.OFF;
                    ownSize++;
                } else if (!possible(frame, steps, enlarge)) {
                    tooLarge.add(frame.name());
                    continue;
                }
            }
            taken.add(new Resolved(frame, steps, as.noise, as.denoise, enlarge));
        }
        Map<Long, Integer> qualities = request.enlarge().blockEdges() ? jpegQualities(request.shootId()) : Map.of();
        List<Item> items = new ArrayList<>();
        int upToDate = 0;
        for (Resolved one : request.evenGrain() ? evened(taken) : taken) {
            Item item = item(
                    one.frame,
                    settings.of(one.withJpegQuality(qualities.getOrDefault(one.frame.id(), 0))),
                    returned.getOrDefault(one.frame.id(), List.of()),
                    request);
            if (item.standing == Standing.UP_TO_DATE && !request.again()) {
                upToDate++;
            } else {
                items.add(item);
            }
        }
        return new Plan(items, upToDate, ownSize, tooLarge, changed, shoots.leftOut(request.shootId()));
    }

    private Map<Long, List<Returned>> returned(long shootId) {
        Map<Long, List<Returned>> returned = new HashMap<>();
        for (Returned one : repository.newestReturns(shootId)) {
            returned.computeIfAbsent(one.frameId, key -> new ArrayList<>()).add(one);
        }
        learn(returned);
        return returned;
    }

    private static boolean wanted(
            RunRequest request, FrameForWork frame, boolean someKept, boolean open, boolean changed) {
        return switch (request.take()) {
            case ALL -> true;
            case KEPT -> !someKept || "keep".equals(frame.mark());
            case CHOSEN -> request.chosen().contains(frame.id());
            case OPEN -> open;
            case CHANGED -> changed;
        };
    }

    /** The frame with the forms that it lacks, or all of them where they are to be made again. */
    private Item item(FrameForWork frame, ResolvedSettings settings, List<Returned> before, RunRequest request) {
        Set<ReturnForm> forms = frame.comesBackAsTiff() ? EnumSet.of(ReturnForm.TIFF) : request.forms();
        Set<ReturnForm> lacking = EnumSet.noneOf(ReturnForm.class);
        boolean some = false;
        for (ReturnForm form : forms) {
            List<Returned> there = before.stream().filter(of -> of.form == form).toList();
            some |= !there.isEmpty();
            if (there.stream().noneMatch(of -> same(of, request, settings))) {
                lacking.add(form);
            }
        }
        Standing standing = !some ? Standing.NEW : lacking.isEmpty() ? Standing.UP_TO_DATE : Standing.CHANGED;
        return new Item(frame, standing, settings, request.again() ? forms : lacking);
    }

    /** What settings depend on; a shoot has many frames for which all of it is the same. */
    private record Alike(
            String camera,
            double ei,
            Integer iso,
            Integer width,
            Integer height,
            String lens,
            Double focalLengthMm,
            Double aperture,
            String ownOptics,
            FrameSteps steps,
            DenoiseSettings denoise,
            EnlargeSettings enlarge) {
        static Alike of(Resolved one) {
            FrameForWork frame = one.frame;
            return new Alike(
                    frame.camera(),
                    frame.ei(),
                    frame.iso(),
                    frame.width(),
                    frame.height(),
                    frame.reportedLens(),
                    frame.focalLengthMm(),
                    frame.aperture(),
                    frame.ownOptics(),
                    one.steps,
                    one.denoise,
                    one.enlarge);
        }
    }

    /** Settings of one plan. */
    private final class Settings {
        private final InForce inForce = new InForce(book);
        private final Map<String, LensChoice> choices = new HashMap<>();
        private final Map<Alike, ResolvedSettings> known = new HashMap<>();

        ResolvedSettings of(Resolved one) {
            return known.computeIfAbsent(Alike.of(one), key -> settings(one));
        }

        private ResolvedSettings settings(Resolved one) {
            FrameForWork frame = one.frame;
            LensChoice lens = choices.computeIfAbsent(
                    frame.camera() + "\n" + frame.reportedLens(),
                    pair -> lenses.choice(frame.camera(), frame.reportedLens()));
            return ResolvedSettings.of(
                            frame.ei(),
                            one.noise.law(),
                            one.denoise,
                            inForce.page(frame.camera()).model(),
                            inForce.defects(frame.camera(), frame.width(), frame.height()),
                            inForce.pattern(frame.camera()))
                    .with(one.noise)
                    .with(
                            inForce.sharpen(frame.camera(), frame.ei(), one.steps),
                            lenses.settings(frame, lens),
                            one.steps.crop(),
                            one.enlarge)
                    .with(inForce.masks(frame.camera(), frame.ei(), one.steps));
        }
    }

    /** Whether none of a frame's returns asks for what would be asked for now, but for its size, which is a run's own choice. */
    private boolean changed(ResolvedSettings settings, List<Returned> returned) {
        String all = settings.asked(true, false);
        String evened = settings.asked(false, false);
        return returned.stream().noneMatch(of -> of.evenGrain ? asked(of)[1].equals(evened) : asked(of)[0].equals(all));
    }

    private boolean same(Returned of, RunRequest request, ResolvedSettings settings) {
        return of.destination.equals(request.destination())
                && (of.form.linear() || of.delivery.equals(RunRepository.json(request.delivery())))
                && asked(of)[2].equals(settings.asked(true, true));
    }

    private String[] asked(Returned of) {
        return asked.getOrDefault(of.id, NOTHING);
    }

    /** What returns ask for is worked out once. */
    private void learn(Map<Long, List<Returned>> returned) {
        if (asked.size() > MOST_KEPT) {
            asked.clear();
        }
        Set<Long> unknown = new HashSet<>();
        returned.values().forEach(list -> list.forEach(of -> unknown.add(of.id)));
        unknown.removeAll(asked.keySet());
        repository.settingsOf(unknown).forEach((id, json) -> {
            try {
                ResolvedSettings settings = ResolvedSettings.ofJson(json);
                asked.put(id, new String[] {
                    settings.asked(true, false), settings.asked(false, false), settings.asked(true, true)
                });
            } catch (UnreadableSettingsException e) {
                asked.put(id, NOTHING); // another version's: as if changed
            }
        });
    }

    /** By how much a frame would become larger; a crop is carried out by enlarging. */
    private static double factor(FrameForWork frame, FrameSteps steps, EnlargeSettings enlarge) {
        if (!Steps.cropRendered(steps.crop(), enlarge)) {
            return enlarge.factor(frame.width(), frame.height());
        }
        CropSettings fitted = steps.crop().fitted(frame.width(), frame.height());
        return enlarge.factor(fitted.widthPx(frame.width()), fitted.heightPx(frame.height()));
    }

    private static boolean possible(FrameForWork frame, FrameSteps steps, EnlargeSettings enlarge) {
        try {
            Steps.size(frame.width(), frame.height(), steps.crop(), enlarge);
            return true;
        } catch (IllegalArgumentException e) {
            return false;
        }
    }

    /** Each camera's frames brought to the same grain. */
    private static List<Resolved> evened(List<Resolved> taken) {
        Map<String, List<Resolved>> groups = new LinkedHashMap<>();
        for (Resolved one : taken) {
            groups.computeIfAbsent(one.frame.camera(), camera -> new ArrayList<>())
                    .add(one);
        }
        List<Resolved> evened = new ArrayList<>();
        for (List<Resolved> group : groups.values()) {
            List<Resolved> on = group.stream().filter(one -> one.denoise.on()).toList();
            double[] kept = EvenGrain.keptPercent(
                    on.stream()
                            .mapToDouble(
                                    one -> NoiseLaw.sigmaAsShown(one.noise.law(), one.frame.ei() / one.frame.iso()))
                            .toArray(),
                    on.stream()
                            .mapToDouble(one -> one.denoise.grainKeptPercent())
                            .toArray());
            for (int i = 0; i < on.size(); i++) {
                Resolved one = on.get(i);
                evened.add(
                        new Resolved(one.frame, one.steps, one.noise, one.denoise.withGrainKept(kept[i]), one.enlarge));
            }
            group.stream().filter(one -> !one.denoise.on()).forEach(evened::add);
        }
        return evened;
    }

    /** What the readings of a shoot's JPEGs tell of their compression. */
    private Map<Long, Integer> jpegQualities(long shootId) {
        Map<Long, Integer> qualities = new HashMap<>();
        for (FrameOnSheet on : sheets.frames(shootId)) {
            if (on.reading() != null) {
                qualities.put(on.row().id(), JpegTraces.qualityTold(on.reading().notes()));
            }
        }
        return qualities;
    }

    Forecast forecast(RunRequest request, Plan plan, int workers) {
        List<Forecast.Wanted> wanted = new ArrayList<>();
        for (Item item : plan.items) {
            FrameForWork frame = item.frame;
            ResolvedSettings settings = item.settings;
            EnlargeSettings.Size size = Steps.size(frame.width(), frame.height(), settings.crop(), settings.enlarge());
            for (ReturnForm form : item.forms) {
                wanted.add(new Forecast.Wanted(
                        method(settings.denoise()),
                        form,
                        frame.width() / 1e6 * frame.height(),
                        size.width() / 1e6 * size.height(),
                        settings.enlarge().on() ? settings.enlarge().edges() : null,
                        developed(item, form)));
            }
        }
        List<Forecast.Made> made = repository.made(MEASURED).stream()
                .map(row -> new Forecast.Made(
                        methodOf(row.settings()), row.form(), row.megapixels(), row.seconds(), row.bytes()))
                .toList();
        long free = plan.items.isEmpty() ? -1 : free(folder(request, plan.items.get(0)));
        return Forecast.of(wanted, made, workers, free, repository.trial(ResolvedSettings.ENGINE));
    }

    /** Whether a form is developed from the linear DNG that the same run makes of the frame: it is denoised once. */
    static boolean developed(Item item, ReturnForm form) {
        // A rendered picture's TIFF keeps its own colours, which a linear DNG does not hold.
        return !form.linear()
                && item.forms.contains(ReturnForm.DNG)
                && !item.frame.camera().endsWith("(rendered)");
    }

    /** Where the return of a frame would go. */
    Path folder(RunRequest request, Item item) {
        Path folder = destinations.folder(request.destination(), item.frame.file());
        while (folder.getParent() != null && !Files.isDirectory(folder)) {
            folder = folder.getParent();
        }
        return folder;
    }

    /** The name that a frame's return would have in the first of its forms, by what there is now. */
    static String name(RunRequest request, Item item) {
        ReturnForm form = item.forms.iterator().next();
        ResolvedSettings settings = item.settings;
        try {
            return ReturnNames.of(request.naming(), item.frame.named())
                    .of(
                            settings,
                            Steps.size(item.frame.width(), item.frame.height(), settings.crop(), settings.enlarge()))
                    .name(1, form.ending());
        } catch (IOException e) {
            throw new NotPossibleException(e.getMessage());
        }
    }

    private static String method(DenoiseSettings settings) {
        return settings.on() ? settings.method() : "off";
    }

    /** Of returns that another version made only the pixels count. */
    private static String methodOf(String settings) {
        try {
            return method(ResolvedSettings.ofJson(settings).denoise());
        } catch (UnreadableSettingsException e) {
            return "";
        }
    }

    /** Bytes that are free on a folder's disk; −1 when it cannot be told. */
    static long free(Path folder) {
        try {
            return Files.getFileStore(folder).getUsableSpace();
        } catch (IOException e) {
            return -1;
        }
    }
}
