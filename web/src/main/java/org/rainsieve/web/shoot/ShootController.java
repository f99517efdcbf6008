package org.rainsieve.web.shoot;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.rainsieve.jpeg.JpegTraces;
import org.rainsieve.reading.Reading;
import org.rainsieve.web.files.Destinations;
import org.rainsieve.web.files.FolderService;
import org.rainsieve.web.setup.NotFoundException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.http.CacheControl;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;

/** The pages Shoots and Shoot. */
@Controller
@ConditionalOnWebApplication
class ShootController {
    private static final int ONE_BY_ONE = 5;

    private final ShootService shoots;
    private final FolderService folders;
    private final ContactSheet sheets;

    private final Destinations destinations;
    private final SupportReport reports;

    private final UnderWay underWay;

    ShootController(
            ShootService shoots,
            FolderService folders,
            ContactSheet sheets,
            Destinations destinations,
            SupportReport reports,
            UnderWay underWay) {
        this.underWay = underWay;
        this.destinations = destinations;
        this.shoots = shoots;
        this.sheets = sheets;
        this.folders = folders;
        this.reports = reports;
    }

    @GetMapping("/")
    String home() {
        return "redirect:/shoots";
    }

    @GetMapping("/shoots")
    String list(Model model) {
        model.addAttribute("shoots", shoots.lines());
        model.addAttribute("underWay", underWay.words());
        model.addAttribute("roots", folders.roots());
        return "shoots";
    }

    /** What comes by itself, for the first page to follow. */
    @GetMapping("/under-way")
    @ResponseBody
    Map<String, Object> underWay() {
        return Map.of("words", underWay.words(), "shoots", shoots.shoots().size());
    }

    @GetMapping("/shoots/{id}")
    String one(
            @PathVariable long id,
            @RequestParam(required = false) String camera,
            @RequestParam(required = false) Integer iso,
            @RequestParam(defaultValue = "false") boolean stops,
            @RequestParam(defaultValue = "false") boolean each,
            Model model) {
        List<FrameOnSheet> all = sheets.frames(id);
        List<FrameOnSheet> chosen = all.stream()
                .filter(frame -> camera == null || camera.equals(frame.row().camera()))
                .filter(frame -> Spread.isAt(frame.row().iso(), iso, stops))
                .toList();
        model.addAttribute("shoot", shoots.shoot(id));
        model.addAttribute("once", UUID.randomUUID().toString());
        model.addAttribute("frames", chosen);
        model.addAttribute(
                "strays",
                StrayGroup.of(
                        all.stream().filter(frame -> !frame.stray().isEmpty()).toList()));
        List<FrameOnSheet> held = all.stream()
                .filter(frame -> "held".equals(frame.row().verdict()))
                .toList();
        model.addAttribute("held", held);
        model.addAttribute("heldIds", held.stream().map(on -> on.row().id()).toList());
        model.addAttribute("refused", refused(chosen));
        model.addAttribute("destinations", destinations.available());
        model.addAttribute(
                "blockEdges",
                all.stream()
                        .anyMatch(on -> on.reading() != null
                                && JpegTraces.edgesTold(on.reading().notes())));
        model.addAttribute("spread", new Spread(all, new Spread.Chosen(camera, iso, stops), each));
        model.addAttribute("chosenCamera", camera);
        model.addAttribute("chosenIso", iso);
        model.addAttribute("chosenStops", stops);
        model.addAttribute("brightness", brightness(chosen));
        model.addAttribute("filtered", camera != null || iso != null);
        return "shoot";
    }

    /** Files that were refused for one reason. */
    record Refused(String reason, List<FrameRow> files) {}

    /** Few of a reason stand one by one, many together. */
    private static List<Refused> refused(List<FrameOnSheet> frames) {
        Map<String, List<FrameRow>> byReason = new LinkedHashMap<>();
        for (FrameOnSheet on : frames) {
            if ("refused".equals(on.row().state())) {
                byReason.computeIfAbsent(on.row().reason(), reason -> new ArrayList<>())
                        .add(on.row());
            }
        }
        List<Refused> refused = new ArrayList<>();
        byReason.forEach((reason, files) -> {
            if (files.size() > ONE_BY_ONE) {
                refused.add(new Refused(reason, files));
            } else {
                files.forEach(file -> refused.add(new Refused(reason, List.of(file))));
            }
        });
        return refused;
    }

    /** What the contact sheet shows of a frame. Texts are ready to be shown; noiseOff is 1 where it is unknown. */
    record Card(
            long id,
            String name,
            String state,
            String standing,
            String mark,
            String camera,
            String takenAt,
            double ei,
            String sensitivity,
            String exposure,
            String amounts,
            String stray,
            double noiseOff,
            boolean returned,
            boolean pictured,
            Integer rating,
            String keywords,
            Double blurPx) {
        static Card of(FrameOnSheet on) {
            FrameRow row = on.row();
            return new Card(
                    row.id(),
                    row.name(),
                    row.state(),
                    row.standing(),
                    row.mark(),
                    row.camera(),
                    row.takenAt(),
                    row.ei(),
                    on.sensitivity(),
                    row.exposure(),
                    on.amounts(),
                    on.stray(),
                    Double.isNaN(on.noiseOff()) ? 1 : on.noiseOff(),
                    row.returnedItem() != null,
                    "ready".equals(row.state()) || row.looked() == 2,
                    row.rating(),
                    row.keywords() == null ? "" : row.keywords(),
                    blurPx(on.reading()));
        }

        /** Softness and movement as one sd; null where it cannot be told. */
        private static Double blurPx(Reading reading) {
            return reading == null || reading.blur() == null
                    ? null
                    : Math.hypot(
                            reading.blur().softPx(),
                            reading.blur().moved() ? reading.blur().linePx() / Math.sqrt(12) : 0);
        }
    }

    /** The frames of a cell of the spread, or of the whole shoot, but those that were refused. */
    @GetMapping("/shoots/{id}/sheet")
    @ResponseBody
    List<Card> sheet(
            @PathVariable long id,
            @RequestParam(defaultValue = "") String camera,
            @RequestParam(required = false) Integer iso,
            @RequestParam(defaultValue = "false") boolean stops) {
        shoots.shoot(id);
        return sheets.frames(id).stream()
                .filter(frame -> !"refused".equals(frame.row().state()))
                .filter(frame -> camera.isEmpty() || camera.equals(frame.row().camera()))
                .filter(frame -> Spread.isAt(frame.row().iso(), iso, stops))
                .map(Card::of)
                .toList();
    }

    @PostMapping("/shoots/{id}/marks")
    ResponseEntity<Void> marks(@PathVariable long id, @RequestParam List<Long> frames, @RequestParam String mark) {
        shoots.mark(id, frames, mark);
        return ResponseEntity.noContent().build();
    }

    /** What the frames of a cell show of a push; only a hint, since night scenes are dark on purpose. */
    private static String brightness(List<FrameOnSheet> frames) {
        double[] stops = frames.stream()
                .filter(on -> on.reading() != null)
                .mapToDouble(on -> on.reading().middleStops())
                .sorted()
                .toArray();
        double[] compensations = frames.stream()
                .filter(on -> on.row().compensation() != null)
                .mapToDouble(on -> on.row().compensation())
                .sorted()
                .toArray();
        if (stops.length == 0) {
            return "";
        }
        String hint = String.format(
                Locale.ROOT, "middle brightness %+.1f stops from mid-grey", stops[(stops.length - 1) / 2]);
        if (compensations.length > 0 && compensations[(compensations.length - 1) / 2] < 0) {
            double set = compensations[(compensations.length - 1) / 2];
            hint += String.format(
                    Locale.ROOT, "; exposure compensation %.1f: a push of %.1f would make up for it", set, -set);
        }
        return hint;
    }

    @PostMapping("/shoots/{id}/frames/{frame}/{decision}")
    String decide(@PathVariable long id, @PathVariable long frame, @PathVariable String decision) {
        shoots.decide(id, frame, decision);
        return "redirect:/shoots/" + id + "#strays";
    }

    /** One decision on all frames that stand out for one reason. */
    @PostMapping("/shoots/{id}/decide")
    String decideAll(@PathVariable long id, @RequestParam List<Long> frames, @RequestParam String decision) {
        shoots.decideAll(id, frames, decision);
        return "redirect:/shoots/" + id + "#strays";
    }

    /** Pushes frames by what their brightness proposes, each by its own. */
    @PostMapping("/shoots/{id}/proposed-push")
    String proposedPush(@PathVariable long id, @RequestParam List<Long> frames) {
        Set<Long> chosen = Set.copyOf(frames);
        sheets.frames(id).stream()
                .filter(on -> chosen.contains(on.row().id()) && on.proposedPush() != null)
                .forEach(on -> shoots.setProposedPush(on.row().id(), on.proposedPush()));
        return "redirect:/shoots/" + id + "#strays";
    }

    /** Where the frames of a shoot stand, for the page to follow while they are read. */
    @GetMapping("/shoots/{id}/standing")
    @ResponseBody
    Map<String, Object> standing(@PathVariable long id) {
        ShootRow row = shoots.shoot(id);
        return Map.of(
                "unseen", row.unseen(),
                "unread", row.unread(),
                "ready", row.ready(),
                "refused", row.refused(),
                "frames", row.frames());
    }

    @GetMapping("/folders")
    @ResponseBody
    List<FolderService.Folder> folders(
            @RequestParam(defaultValue = "-1") int root, @RequestParam(defaultValue = "") String path) {
        return root < 0 ? folders.roots() : folders.below(root, path);
    }

    @PostMapping("/shoots")
    String takeIn(
            @RequestParam int root,
            @RequestParam(defaultValue = "") String path,
            @RequestParam(defaultValue = "") String name,
            @RequestParam(defaultValue = "false") boolean deep,
            @RequestParam(defaultValue = "false") boolean watched) {
        long id = shoots.takeIn(root, path, name, deep);
        if (watched) {
            shoots.watch(id, true);
        }
        return "redirect:/shoots/" + id;
    }

    @PostMapping("/shoots/{id}/watch")
    String watch(@PathVariable long id, @RequestParam(defaultValue = "false") boolean watched) {
        shoots.watch(id, watched);
        return "redirect:/shoots/" + id;
    }

    @PostMapping("/shoots/{id}/forget")
    String forget(@PathVariable long id) {
        shoots.forget(id);
        return "redirect:/shoots";
    }

    @GetMapping("/shoots/{id}/missing")
    @ResponseBody
    List<String> missing(@PathVariable long id) {
        return shoots.missing(id);
    }

    @PostMapping("/shoots/{id}/relocate")
    String relocate(@PathVariable long id, @RequestParam int root, @RequestParam(defaultValue = "") String path) {
        shoots.relocate(id, root, path);
        return "redirect:/shoots/" + id;
    }

    @PostMapping("/shoots/{id}/try-again")
    String tryAgain(@PathVariable long id) {
        shoots.tryAgain(id);
        return "redirect:/shoots/" + id;
    }

    /** For people who are asked for help: one text file about a frame. */
    @GetMapping("/frames/{id}/report")
    ResponseEntity<String> report(@PathVariable long id) {
        FrameForWork frame = shoots.frame(id);
        FrameRow row = shoots.frames(frame.shootId()).stream()
                .filter(one -> one.id() == id)
                .findFirst()
                .orElseThrow(() -> new NotFoundException("This file is no frame but a return."));
        return ResponseEntity.ok()
                .contentType(MediaType.parseMediaType("text/plain;charset=UTF-8"))
                .header("Content-Disposition", "attachment; filename=\"rain-sieve-report-" + id + ".txt\"")
                .body(reports.of(row, frame.file()));
    }

    @GetMapping("/frames/{id}/thumbnail")
    ResponseEntity<byte[]> thumbnail(@PathVariable long id) {
        return ResponseEntity.ok()
                .contentType(MediaType.IMAGE_JPEG)
                .cacheControl(CacheControl.maxAge(1, TimeUnit.HOURS).cachePrivate())
                .body(shoots.thumbnail(id));
    }
}
