package org.rainsieve.web.bench;

import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.util.List;
import org.rainsieve.colour.DeliverySpace;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.enlarge.EnlargeSettings;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.web.rendering.HowMade;
import org.rainsieve.web.rendering.Pictures;
import org.rainsieve.web.rendering.Question;
import org.rainsieve.web.run.ItemRow;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.run.RunService;
import org.rainsieve.web.run.RunStarter;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.setup.NotPossibleException;
import org.rainsieve.web.shoot.ShootService;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.core.io.FileSystemResource;
import org.springframework.core.io.InputStreamResource;
import org.springframework.core.io.Resource;
import org.springframework.http.ContentDisposition;
import org.springframework.http.HttpStatus;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.PostMapping;
import org.springframework.web.bind.annotation.RequestParam;
import org.springframework.web.bind.annotation.ResponseBody;
import org.springframework.web.bind.annotation.ResponseStatus;
import tools.jackson.databind.json.JsonMapper;

/** Before and after of one return, and the regions that the viewer shows, which a worker renders. */
@Controller
@ConditionalOnWebApplication
class BenchController {
    private static final JsonMapper JSON = new JsonMapper();

    private final Returns returns;
    private final RunService runs;
    private final RunStarter starter;
    private final Pictures pictures;
    private final ShootService shoots;

    BenchController(Returns returns, RunService runs, RunStarter starter, Pictures pictures, ShootService shoots) {
        this.pictures = pictures;
        this.returns = returns;
        this.runs = runs;
        this.starter = starter;
        this.shoots = shoots;
    }

    /** A page with a viewer was left. */
    @PostMapping("/viewers/{viewer}/left")
    @ResponseStatus(HttpStatus.NO_CONTENT)
    void left(@PathVariable long viewer) {
        pictures.left(viewer);
    }

    @GetMapping("/returns/{item}")
    String show(@PathVariable long item, Model model) {
        ItemRow row = returns.item(item);
        if (!row.state().equals("returned")) {
            throw new NotFoundException("This frame has no return yet.");
        }
        List<Long> returned = runs.returnedIds(row.runId());
        int place = returned.indexOf(item);
        model.addAttribute("item", row);
        ResolvedSettings settings = ResolvedSettings.ofJson(row.settings());
        EnlargeSettings.Size size = Steps.size(row.width(), row.height(), settings.crop(), settings.enlarge());
        model.addAttribute("settings", settings);
        model.addAttribute("width", size.width());
        model.addAttribute("height", size.height());
        model.addAttribute(
                "sharpest",
                Steps.cropRendered(settings.crop(), settings.enlarge())
                        ? null
                        : shoots.sharpest(row.frameId(), row.width(), row.height())
                                .orElse(null));
        model.addAttribute("previous", place > 0 ? returned.get(place - 1) : null);
        model.addAttribute("next", place + 1 < returned.size() ? returned.get(place + 1) : null);
        model.addAttribute("place", place + 1);
        model.addAttribute("count", returned.size());
        return "compare";
    }

    /**
     * Whether a return was made by what is installed now.
     *
     * @param words empty when it was
     */
    record Made(String engine, String words) {}

    private HowMade told(long item) throws InterruptedException {
        Pictures.Answer answer = pictures.ask(new Question.Made(item));
        if (!answer.ok()) {
            throw new NotPossibleException(answer.words());
        }
        HowMade told = JSON.readValue(answer.body(), HowMade.class);
        if (told.settings().isEmpty()) {
            throw new NotPossibleException(
                    "This return no longer says how it was made; another program has changed it.");
        }
        return told;
    }

    @GetMapping("/returns/{item}/made")
    @ResponseBody
    Made made(@PathVariable long item) throws InterruptedException {
        HowMade told = told(item);
        return new Made(
                told.engine(),
                told.engine().equals(ResolvedSettings.ENGINE)
                        ? ""
                        : "made by " + told.engine() + "; " + ResolvedSettings.ENGINE
                                + " may make it a little differently, as a new version");
    }

    @PostMapping("/returns/{item}/again")
    String again(@PathVariable long item) throws InterruptedException {
        HowMade told = told(item);
        return "redirect:/runs/" + starter.again(item, told.settings(), told.originalSha256());
    }

    @PostMapping("/returns/{item}/again-now")
    String againNow(@PathVariable long item) {
        return "redirect:/runs/" + starter.againNow(item);
    }

    /** The return itself, for shoots whose folder the photographer does not see. */
    @GetMapping("/returns/{item}/file")
    ResponseEntity<Resource> download(@PathVariable long item) {
        ItemRow row = returns.item(item);
        Path file = row.state().equals("returned") && row.finalPath() != null ? Path.of(row.finalPath()) : null;
        if (file == null || !Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)) {
            throw new NotFoundException("The return is not there any more.");
        }
        return ResponseEntity.ok()
                .contentType(
                        switch (row.form()) {
                            case DNG, COMPACT -> MediaType.parseMediaType("image/x-adobe-dng");
                            case TIFF -> MediaType.parseMediaType("image/tiff");
                            case JPEG -> MediaType.IMAGE_JPEG;
                        })
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(row.returnName(), StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(new FileSystemResource(file));
    }

    /** A copy for clients or printers: 16-bit TIFF or JPEG in a named colour space. */
    @GetMapping("/returns/{item}/deliver")
    ResponseEntity<Resource> deliver(
            @PathVariable long item,
            @RequestParam DeliverySettings.Form form,
            @RequestParam(defaultValue = "SRGB") DeliverySpace space,
            @RequestParam(defaultValue = "300") double ppi,
            @RequestParam(defaultValue = "false") boolean deflate,
            @RequestParam(defaultValue = "90") int quality,
            @RequestParam(defaultValue = "0") int mostKilobytes,
            @RequestParam(defaultValue = "0") int longEdge)
            throws InterruptedException {
        ItemRow row = returns.item(item);
        if (!row.state().equals("returned")) {
            throw new NotFoundException("This frame has no return yet.");
        }
        DeliverySettings settings;
        try {
            settings = new DeliverySettings(form, space, ppi, deflate, quality, mostKilobytes, longEdge);
        } catch (IllegalArgumentException e) {
            throw new NotPossibleException(e.getMessage() + ". Nothing was made.");
        }
        boolean jpeg = form == DeliverySettings.Form.JPEG;
        String name = row.returnName().replaceAll("\\.dng$", jpeg ? ".jpg" : ".tif");
        return ResponseEntity.ok()
                .contentType(jpeg ? MediaType.IMAGE_JPEG : MediaType.parseMediaType("image/tiff"))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(name, StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(new InputStreamResource(pictures.deliver(item, settings)));
    }

    /** A region at whole pixels as PNG, or ({@code kind=overview}) the whole picture reduced, as JPEG. */
    @GetMapping("/returns/{item}/{which}")
    ResponseEntity<byte[]> region(
            @PathVariable long item,
            @PathVariable String which,
            @RequestParam(defaultValue = "region") String kind,
            @RequestParam(defaultValue = "0") int x,
            @RequestParam(defaultValue = "0") int y,
            @RequestParam(defaultValue = "0") int w,
            @RequestParam(defaultValue = "0") int h,
            View.Look look)
            throws InterruptedException {
        return pictures.render(new View(which, kind, x, y, w, h, look).ofReturn(item));
    }
}
