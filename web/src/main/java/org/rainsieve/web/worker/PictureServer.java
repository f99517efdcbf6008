package org.rainsieve.web.worker;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.MessageDigest;
import java.security.SecureRandom;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.OptionalDouble;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.Semaphore;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.colour.ViewRendering;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.delivery.Delivery;
import org.rainsieve.delivery.DeliverySettings;
import org.rainsieve.dng.LinearDngFile;
import org.rainsieve.frame.CancelledException;
import org.rainsieve.frame.PixelSource;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.frame.Region;
import org.rainsieve.mask.Mask;
import org.rainsieve.mask.MaskPart;
import org.rainsieve.mask.MaskShape;
import org.rainsieve.measure.SensorHistogram;
import org.rainsieve.noise.NoiseMap;
import org.rainsieve.opening.Glance;
import org.rainsieve.opening.RawOpener;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.Draft;
import org.rainsieve.pipeline.Pace;
import org.rainsieve.pipeline.ReducedPicture;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.strip.CellFigures;
import org.rainsieve.strip.Spot;
import org.rainsieve.strip.SpotFinder;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.files.OwnFiles;
import org.rainsieve.web.files.SharedDecoder;
import org.rainsieve.web.run.ItemRow;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.setup.NotFoundException;
import org.rainsieve.web.shoot.FrameForWork;
import org.rainsieve.web.shoot.ShootService;
import org.rainsieve.xmp.Xmp;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;
import tools.jackson.databind.json.JsonMapper;

/**
 * Renders regions for the viewer, in the worker, because files are never opened in the web process. Listens on loopback;
 * only who knows the secret in the database is answered.
 */
final class PictureServer implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(PictureServer.class);
    private static final JsonMapper JSON = new JsonMapper();
    private static final int MOST_VIEWERS = 200;
    private static final int LARGEST_SIDE = 2048;
    private static final int OVERVIEW_EDGE = 1600;

    private final Returns returns;
    private final ShootService shoots;
    private final BookService book;
    private final WorkingMemory memory;
    private final ViewerFirst viewerFirst;
    private final HttpServer server;
    private final String secret;
    /** Pictures that are made at once; whoever else asks waits, and is asked again whether he still wants to. */
    private final Semaphore makers = new Semaphore(2, true);
    /** Viewers whose page was left; a page has a number of its own each time it is opened. */
    private final Set<Long> left = Collections.newSetFromMap(new LinkedHashMap<>() {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<Long, Boolean> eldest) {
            return size() > MOST_VIEWERS;
        }
    });
    /** Of each viewer and kind of picture the newest turn. */
    private final Map<String, Long> turns = new LinkedHashMap<>(16, 0.75f, true) {
        private static final long serialVersionUID = 1;

        @Override
        protected boolean removeEldestEntry(Map.Entry<String, Long> eldest) {
            return size() > MOST_VIEWERS;
        }
    };

    PictureServer(Returns returns, ShootService shoots, BookService book, WorkingMemory memory, ViewerFirst viewerFirst)
            throws IOException {
        this.returns = returns;
        this.shoots = shoots;
        this.book = book;
        this.memory = memory;
        this.viewerFirst = viewerFirst;
        byte[] random = new byte[32];
        new SecureRandom().nextBytes(random);
        secret = HexFormat.of().formatHex(random);
        server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.setExecutor(Executors.newCachedThreadPool());
        server.createContext("/region", this::answer);
        server.createContext("/left", this::leave);
        server.start();
    }

    String address() {
        return "http://127.0.0.1:" + server.getAddress().getPort();
    }

    String secret() {
        return secret;
    }

    private boolean allowed(HttpExchange exchange) throws IOException {
        byte[] given = String.valueOf(exchange.getRequestHeaders().getFirst("X-Sieve-Secret"))
                .getBytes(StandardCharsets.UTF_8);
        boolean allowed = MessageDigest.isEqual(given, secret.getBytes(StandardCharsets.UTF_8));
        if (!allowed) {
            exchange.sendResponseHeaders(403, -1);
        }
        return allowed;
    }

    /** What a page has asked for is not wanted any more: it was left. */
    private void leave(HttpExchange exchange) throws IOException {
        try (exchange) {
            if (allowed(exchange)) {
                synchronized (turns) {
                    left.add(viewer(query(exchange)));
                }
                exchange.sendResponseHeaders(204, -1);
            }
        }
    }

    private void answer(HttpExchange exchange) throws IOException {
        try (exchange) {
            if (allowed(exchange)) {
                makers.acquireUninterruptibly();
                try {
                    answerNow(exchange);
                } finally {
                    makers.release();
                }
            }
        }
    }

    private void answerNow(HttpExchange exchange) throws IOException {
        viewerFirst.begin();
        try {
            byte[] body;
            int status = 200;
            try {
                Map<String, String> query = query(exchange);
                if (query.containsKey("deliver")) {
                    deliver(exchange, Long.parseLong(query.get("deliver")));
                    return;
                }
                body = regionOnceMore(query, exchange.getRequestBody().readAllBytes());
            } catch (RefusedException | NotFoundException e) {
                status = 404;
                body = e.getMessage().getBytes(StandardCharsets.UTF_8);
            } catch (CancelledException e) {
                status = 410;
                body = "This is not asked for any more.".getBytes(StandardCharsets.UTF_8);
            } catch (DeliveryException e) {
                status = 400;
                body = e.getMessage().getBytes(StandardCharsets.UTF_8);
            } catch (OutsideException e) {
                status = 400;
                body = "The region asked for lies outside the picture.".getBytes(StandardCharsets.UTF_8);
            } catch (OutOfMemoryError e) {
                LOG.warn("A region takes more memory than there is", e);
                status = 400;
                body = "This picture takes more memory than the worker may use. Give it more with SIEVE_MEMORY_MB."
                        .getBytes(StandardCharsets.UTF_8);
            } catch (RuntimeException e) {
                LOG.warn("A region could not be rendered", e);
                status = 400;
                body =
                        "Something went wrong inside Rain Sieve while this picture was made. Look again; if it stays, report it"
                                .concat(" with the log.")
                                .getBytes(StandardCharsets.UTF_8);
            }
            exchange.sendResponseHeaders(status, body.length);
            exchange.getResponseBody().write(body);
        } finally {
            viewerFirst.end();
        }
    }

    /** With all that is only kept let go, if there was not room enough. */
    private byte[] regionOnceMore(Map<String, String> query, byte[] body) throws RefusedException, IOException {
        try {
            return region(query, body);
        } catch (OutOfMemoryError e) {
            LOG.warn("A region ran out of memory and is made again with all the room there is");
            memory.clear();
            return region(query, body);
        }
    }

    /** What was asked for lies outside the picture, or is too large. */
    private static final class OutsideException extends IllegalArgumentException {
        private static final long serialVersionUID = 1;
    }

    /** Why a delivery could not be made, in plain words. */
    private static final class DeliveryException extends Exception {
        private static final long serialVersionUID = 1;

        DeliveryException(String words) {
            super(words);
        }
    }

    /** A copy of a return as TIFF or JPEG, made in a file of its own and sent from there. */
    private void deliver(HttpExchange exchange, long item) throws IOException, RefusedException, DeliveryException {
        ItemRow row = returns.item(item);
        if (!row.form().linear()) {
            throw new DeliveryException("Copies are made from linear DNGs, and this return is a "
                    + row.form().title() + " already.");
        }
        DeliverySettings settings = JSON.readValue(exchange.getRequestBody().readAllBytes(), DeliverySettings.class);
        RawOpener.Opened opened = opened(row.path());
        Path folder = OwnFiles.scratch("delivery");
        Path file = folder.resolve("delivery");
        try {
            try {
                Delivery.write(Path.of(row.finalPath()), opened.frame().colour(), settings, file);
            } catch (IOException e) {
                throw new DeliveryException(e.getMessage());
            }
            exchange.sendResponseHeaders(200, Files.size(file));
            Files.copy(file, exchange.getResponseBody());
        } finally {
            OwnFiles.remove(file);
            OwnFiles.remove(folder);
        }
    }

    private static Map<String, String> query(HttpExchange exchange) {
        Map<String, String> query = new HashMap<>();
        for (String pair :
                String.valueOf(exchange.getRequestURI().getRawQuery()).split("&")) {
            int split = pair.indexOf('=');
            if (split > 0) {
                query.put(
                        pair.substring(0, split), URLDecoder.decode(pair.substring(split + 1), StandardCharsets.UTF_8));
            }
        }
        return query;
    }

    /** @param body the settings to show a frame with, as JSON; empty where a return is asked for */
    private byte[] region(Map<String, String> query, byte[] body) throws RefusedException, IOException {
        if (query.containsKey("frame")) {
            return regionOfFrame(query, ResolvedSettings.ofJson(new String(body, StandardCharsets.UTF_8)));
        }
        ItemRow item = returns.item(Long.parseLong(query.get("item")));
        if ("made".equals(query.get("kind"))) {
            return JSON.writeValueAsBytes(made(item));
        }
        String which = query.getOrDefault("which", "after");
        ViewLook look = look(query);
        RawOpener.Opened opened = opened(item.path());
        if ("overview".equals(query.get("kind"))) {
            return overview(item, which, look, opened);
        }
        Planes planes = new Planes(regionOf(query), 3);
        if ("before".equals(which)) {
            fill(steps(opened, item).plain(), planes);
        } else if (!item.form().linear()) {
            // What it was developed from: only linear values can be looked at like a frame.
            fill(steps(opened, item).result(), planes);
        } else {
            try (LinearDngFile file = LinearDngFile.open(Path.of(item.finalPath()))) {
                fill(file, planes);
            }
        }
        return png(opened, look, planes);
    }

    /** What a return says of how it was made. */
    private record Made(String engine, String settings, String originalSha256) {}

    private static Made made(ItemRow item) throws IOException, RefusedException {
        byte[] packet = Glance.packet(Path.of(item.finalPath()));
        return new Made(
                Xmp.property(packet, "Engine"),
                Xmp.property(packet, "Settings"),
                Xmp.property(packet, "OriginalSha256"));
    }

    private static byte[] png(RawOpener.Opened opened, ViewLook look, Planes planes) {
        Region region = planes.region();
        return ReducedPicture.png(
                new ViewRendering(opened.frame().colour(), look).render(planes), region.width(), region.height());
    }

    private static ViewLook look(Map<String, String> query) {
        return new ViewLook(
                number(query, "lift"),
                number(query, "shadows"),
                number(query, "contrast"),
                number(query, "saturation"),
                "true".equals(query.get("marks")));
    }

    private static double number(Map<String, String> query, String name) {
        return Double.parseDouble(query.getOrDefault(name, "0"));
    }

    private static Region asked(Map<String, String> query) {
        return new Region(
                Integer.parseInt(query.get("x")),
                Integer.parseInt(query.get("y")),
                Integer.parseInt(query.get("w")),
                Integer.parseInt(query.get("h")));
    }

    /** One that is small enough to be rendered. */
    private static Region regionOf(Map<String, String> query) {
        Region region = asked(query);
        if (region.isEmpty() || region.width() > LARGEST_SIDE || region.height() > LARGEST_SIDE) {
            throw new OutsideException();
        }
        return region;
    }

    /** Number of the open viewer that asks, 0 for others. */
    private static long viewer(Map<String, String> query) {
        return Long.parseLong(query.getOrDefault("viewer", "0"));
    }

    /** Called off as soon as the same viewer has asked for the same kind of picture in a later turn, or was left. */
    private Cancel stillAsked(Map<String, String> query) {
        long viewer = viewer(query);
        if (viewer == 0) {
            return Cancel.NEVER;
        }
        long turn = Long.parseLong(query.getOrDefault("asked", "0"));
        String asking = viewer + query.getOrDefault("which", query.get("kind"));
        synchronized (turns) {
            turns.merge(asking, turn, Math::max);
        }
        Cancel cancel = () -> {
            synchronized (turns) {
                return left.contains(viewer) || turns.getOrDefault(asking, turn) > turn;
            }
        };
        cancel.check();
        return cancel;
    }

    /** What the steps make of a frame that no run has been over yet; the overview is a draft, not denoised. */
    private byte[] regionOfFrame(Map<String, String> query, ResolvedSettings settings)
            throws RefusedException, IOException {
        FrameForWork frame = shoots.frame(Long.parseLong(query.get("frame")));
        ViewLook look = look(query);
        RawOpener.Opened opened = opened(frame.path());
        Steps steps = steps(opened, settings, viewer(query) != 0, stillAsked(query));
        if ("spots".equals(query.get("kind"))) {
            return JSON.writeValueAsBytes(spots(steps, settings, opened));
        }
        if ("figures".equals(query.get("kind"))) {
            return JSON.writeValueAsBytes(figures(steps, settings, regionOf(query), opened, viewer(query) != 0));
        }
        if ("histogram".equals(query.get("kind"))) {
            Region place = steps.onFrame(asked(query).intersect(steps.result().bounds()));
            return JSON.writeValueAsBytes(SensorHistogram.of(opened.frame().capture(), place));
        }
        if ("place".equals(query.get("kind"))) {
            double[] places = Arrays.stream(query.get("points").split(","))
                    .mapToDouble(Double::parseDouble)
                    .toArray();
            return JSON.writeValueAsBytes(steps.toFrame(places));
        }
        if ("mask".equals(query.get("kind"))) {
            return mask(steps, settings.masks().get(Integer.parseInt(query.get("mask"))), query);
        }
        if ("found".equals(query.get("kind"))) {
            return JSON.writeValueAsBytes(found(steps, settings));
        }
        // The size of a frame that this one is compared with.
        Region over = query.containsKey("overWidth")
                ? new Region(0, 0, Integer.parseInt(query.get("overWidth")), Integer.parseInt(query.get("overHeight")))
                : null;
        if ("overview".equals(query.get("kind"))) {
            ReducedPicture draft = open(frame.path()).draft();
            return jpeg(
                    over == null ? steps.draft(draft) : steps.draftOver(draft, over.width(), over.height()),
                    opened,
                    look);
        }
        Planes planes = new Planes(regionOf(query), 3);
        String which = query.getOrDefault("which", "after");
        PixelSource shown = over == null ? steps.result() : steps.resultOver(over.width(), over.height());
        fill(which.equals("before") ? steps.plain() : shown, planes);
        if (which.equals("taken")) {
            Planes plain = new Planes(planes.region(), 3);
            steps.plain().fill(plain);
            return grey(new ViewRendering(opened.frame().colour(), look).difference(plain, planes), planes.region());
        }
        if (which.equals("noise")) {
            return grey(NoiseMap.render(planes, settings.noise()), planes.region());
        }
        return png(opened, look, planes);
    }

    private static byte[] grey(byte[] rgb, Region region) {
        return ReducedPicture.png(rgb, region.width(), region.height());
    }

    /** How strong a mask is: a region as it is, or ({@code edge=}) the whole picture reduced. */
    private static byte[] mask(Steps steps, Mask mask, Map<String, String> query) {
        Planes strength;
        if (query.containsKey("edge")) {
            strength = steps.strengthDraft(
                    mask, Math.max(16, Math.min(OVERVIEW_EDGE, Integer.parseInt(query.get("edge")))));
        } else {
            strength = new Planes(regionOf(query), 3);
            fill(steps.strength(mask), strength);
        }
        float[] values = strength.channel(0);
        byte[] rgb = new byte[3 * values.length];
        for (int i = 0; i < rgb.length; i++) {
            rgb[i] = (byte) Math.round(255 * Math.max(0, Math.min(1, values[i / 3])));
        }
        return grey(rgb, strength.region());
    }

    /** Of each mask the share of the frame in % that its parts found; null where nothing is looked for. */
    private static List<Double> found(Steps steps, ResolvedSettings settings) {
        List<Double> shares = new ArrayList<>();
        for (Mask mask : settings.masks()) {
            shares.add(mask.parts().stream()
                    .map(MaskPart::shape)
                    .filter(shape -> shape instanceof MaskShape.InFocus || shape instanceof MaskShape.FromSpot)
                    .findFirst()
                    .map(shape -> steps.denoise().masks().found(shape).percent())
                    .orElse(null));
        }
        return shares;
    }

    /** Found on the frame inside its crop, told as places of the result. */
    private static List<Spot> spots(Steps steps, ResolvedSettings settings, RawOpener.Opened opened) {
        int width = opened.frame().capture().width();
        int height = opened.frame().capture().height();
        CropSettings crop = settings.crop().idle() ? CropSettings.WHOLE : settings.crop();
        Region inside =
                new Region((int) (crop.left() * width), (int) (crop.top() * height), (int) (crop.width() * width), (int)
                        (crop.height() * height));
        CropSettings shown = steps.cropRendered() ? crop : CropSettings.WHOLE;
        return SpotFinder.find(
                        opened.frame().capture(),
                        settings.noise(),
                        opened.frame().colour().gains(),
                        inside)
                .stream()
                .map(found -> new Spot(
                        found.kind(),
                        share((found.region().x() + found.region().width() / 2.0) / width, shown.left(), shown.width()),
                        share(
                                (found.region().y() + found.region().height() / 2.0) / height,
                                shown.top(),
                                shown.height())))
                .toList();
    }

    private static double share(double place, double from, double size) {
        return Math.max(0, Math.min(1, (place - from) / size));
    }

    /** What is measured on a cell of a strip, and what its steps take on this machine, as far as that is known. */
    private record Figures(CellFigures measured, Double seconds) {}

    private Figures figures(
            Steps steps, ResolvedSettings settings, Region region, RawOpener.Opened opened, boolean forLooking)
            throws RefusedException {
        Steps unsharpened = steps(
                opened,
                settings.with(null, settings.optics(), settings.crop(), settings.enlarge()),
                forLooking,
                Cancel.NEVER);
        CellFigures measured = CellFigures.of(
                steps,
                unsharpened.atOwnSize(),
                region,
                steps.onFrame(region),
                opened.frame().capture(),
                settings.noise(),
                opened.frame().colour().gains());
        OptionalDouble seconds = Pace.seconds(steps);
        return new Figures(measured, seconds.isPresent() ? seconds.getAsDouble() : null);
    }

    private static byte[] jpeg(ReducedPicture picture, RawOpener.Opened opened, ViewLook look) {
        return ReducedPicture.jpeg(
                picture.render(opened.frame().colour(), look), picture.width(), picture.height(), 0.92f);
    }

    private static void fill(PixelSource source, Planes planes) {
        if (!source.bounds().contains(planes.region())) {
            throw new OutsideException();
        }
        source.fill(planes);
    }

    private Steps steps(RawOpener.Opened opened, ResolvedSettings settings, boolean forLooking, Cancel cancel)
            throws RefusedException {
        return Steps.of(
                opened.frame(),
                opened.sha256(),
                settings,
                book.defectMap(settings.defects()),
                forLooking,
                memory,
                cancel);
    }

    private Steps steps(RawOpener.Opened opened, ItemRow item) throws RefusedException {
        return steps(opened, ResolvedSettings.ofJson(item.settings()), false, Cancel.NEVER);
    }

    private byte[] overview(ItemRow item, String which, ViewLook look, RawOpener.Opened opened)
            throws IOException, RefusedException {
        ReducedPicture picture;
        if ("before".equals(which) || !item.form().linear()) {
            picture = steps(opened, item).draft(open(item.path()).draft());
        } else {
            try (LinearDngFile file = LinearDngFile.open(Path.of(item.finalPath()))) {
                picture = new ReducedPicture(file.width(), file.height(), OVERVIEW_EDGE);
                for (int y = 0; y < file.height(); y += 256) {
                    Planes band = new Planes(new Region(0, y, file.width(), Math.min(256, file.height() - y)), 3);
                    file.fill(band);
                    picture.add(band);
                }
            }
        }
        return jpeg(picture, opened, look);
    }

    private RawOpener.Opened opened(String path) throws RefusedException {
        return open(path).opened;
    }

    /** Kept with the tiles, and as long: opened anew when its file has changed. */
    private OpenFrame open(String path) throws RefusedException {
        Path file = Path.of(path);
        try {
            return memory.get(
                    List.of("opened", path, file.toFile().lastModified()), () -> OpenFrame.of(file), OpenFrame::bytes);
        } catch (CannotOpenException e) {
            throw e.reason;
        }
    }

    /** Carries a refusal out of where none can be thrown. */
    private static final class CannotOpenException extends RuntimeException {
        private static final long serialVersionUID = 1;
        private final transient RefusedException reason;

        CannotOpenException(RefusedException reason) {
            super(reason);
            this.reason = reason;
        }
    }

    /** A frame that is looked at, and its reduced rendering, which every look at it begins with. */
    private static final class OpenFrame {
        private final RawOpener.Opened opened;
        private ReducedPicture draft;

        OpenFrame(RawOpener.Opened opened) {
            this.opened = opened;
        }

        static OpenFrame of(Path file) {
            try {
                return new OpenFrame(RawOpener.open(file, SharedDecoder.get()));
            } catch (RefusedException e) {
                throw new CannotOpenException(e);
            }
        }

        long bytes() {
            return opened.frame().bytes() + 12L * OVERVIEW_EDGE * OVERVIEW_EDGE;
        }

        synchronized ReducedPicture draft() {
            if (draft == null) {
                draft = Draft.of(opened.frame().capture(), OVERVIEW_EDGE);
            }
            return draft;
        }
    }

    @Override
    public void close() {
        server.stop(0);
    }
}
