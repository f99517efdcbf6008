package org.rainsieve.web.bench;

import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.web.run.ItemRow;
import org.rainsieve.web.run.RunService;
import org.rainsieve.web.run.WorkerRow;
import org.rainsieve.web.setup.NotFoundException;
import org.springframework.boot.autoconfigure.condition.ConditionalOnWebApplication;
import org.springframework.core.io.FileSystemResource;
import org.springframework.core.io.Resource;
import org.springframework.http.CacheControl;
import org.springframework.http.ContentDisposition;
import org.springframework.http.MediaType;
import org.springframework.http.ResponseEntity;
import org.springframework.stereotype.Controller;
import org.springframework.ui.Model;
import org.springframework.web.bind.annotation.GetMapping;
import org.springframework.web.bind.annotation.PathVariable;
import org.springframework.web.bind.annotation.RequestParam;

/** Before and after of one return, and the regions that the viewer shows, which a worker renders. */
@Controller
@ConditionalOnWebApplication
class BenchController {
    private final RunService runs;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();

    BenchController(RunService runs) {
        this.runs = runs;
    }

    @GetMapping("/returns/{item}")
    String show(@PathVariable long item, Model model) {
        ItemRow row = runs.item(item);
        if (!row.state().equals("returned")) {
            throw new NotFoundException("This frame has no return yet.");
        }
        List<ItemRow> returned = runs.items(row.runId()).stream()
                .filter(other -> other.state().equals("returned"))
                .toList();
        int place = 0;
        while (returned.get(place).id() != item) {
            place++;
        }
        model.addAttribute("item", row);
        model.addAttribute("settings", ResolvedSettings.ofJson(row.settings()));
        model.addAttribute("previous", place > 0 ? returned.get(place - 1).id() : null);
        model.addAttribute(
                "next", place + 1 < returned.size() ? returned.get(place + 1).id() : null);
        model.addAttribute("place", place + 1);
        model.addAttribute("count", returned.size());
        return "compare";
    }

    /** The return itself, for shoots whose folder the photographer does not see. */
    @GetMapping("/returns/{item}/file")
    ResponseEntity<Resource> download(@PathVariable long item) {
        ItemRow row = runs.item(item);
        Path file = row.state().equals("returned") && row.finalPath() != null ? Path.of(row.finalPath()) : null;
        if (file == null || !Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)) {
            throw new NotFoundException("The return is not there any more.");
        }
        return ResponseEntity.ok()
                .contentType(MediaType.parseMediaType("image/x-adobe-dng"))
                .header(
                        "Content-Disposition",
                        ContentDisposition.attachment()
                                .filename(row.returnName(), StandardCharsets.UTF_8)
                                .build()
                                .toString())
                .body(new FileSystemResource(file));
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
            @RequestParam(defaultValue = "0") double lift)
            throws InterruptedException {
        if (!which.equals("before") && !which.equals("after")) {
            throw new NotFoundException("There is no such picture.");
        }
        boolean overview = kind.equals("overview");
        String query = "/region?item=" + item + "&which=" + which + "&kind=" + (overview ? "overview" : "region")
                + "&x=" + x + "&y=" + y + "&w=" + w + "&h=" + h + "&lift=" + lift;
        // A worker that was killed is listed until its lease ends: ask the next one.
        for (WorkerRow worker : runs.workers()) {
            HttpRequest request = HttpRequest.newBuilder(URI.create(worker.address() + query))
                    .header("X-Sieve-Secret", worker.secret())
                    .timeout(Duration.ofSeconds(60))
                    .build();
            try {
                HttpResponse<byte[]> answer = client.send(request, HttpResponse.BodyHandlers.ofByteArray());
                if (answer.statusCode() != 200) {
                    return ResponseEntity.status(answer.statusCode() == 404 ? 404 : 422)
                            .contentType(MediaType.TEXT_PLAIN)
                            .body(answer.body());
                }
                return ResponseEntity.ok()
                        .contentType(overview ? MediaType.IMAGE_JPEG : MediaType.IMAGE_PNG)
                        .cacheControl(
                                CacheControl.maxAge(Duration.ofMinutes(10)).cachePrivate())
                        .body(answer.body());
            } catch (IOException e) {
                continue;
            }
        }
        return ResponseEntity.status(503)
                .contentType(MediaType.TEXT_PLAIN)
                .body("No worker is running, so nothing can be rendered. Start one with ./sieve worker."
                        .getBytes(StandardCharsets.UTF_8));
    }
}
