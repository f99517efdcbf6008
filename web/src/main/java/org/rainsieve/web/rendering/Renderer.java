package org.rainsieve.web.rendering;

import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.OptionalDouble;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.colour.ViewRendering;
import org.rainsieve.colour.White;
import org.rainsieve.crop.CropSettings;
import org.rainsieve.dng.LinearDngFile;
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
import org.rainsieve.pipeline.Pace;
import org.rainsieve.pipeline.ReducedPicture;
import org.rainsieve.pipeline.ResolvedSettings;
import org.rainsieve.pipeline.Steps;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.strip.CellFigures;
import org.rainsieve.strip.Spot;
import org.rainsieve.strip.SpotFinder;
import org.rainsieve.web.book.BookService;
import org.rainsieve.web.run.ItemRow;
import org.rainsieve.web.run.Returns;
import org.rainsieve.web.shoot.ShootService;
import org.rainsieve.xmp.Xmp;
import tools.jackson.databind.json.JsonMapper;

/** Answers what pages ask. Safe for several threads. */
final class Renderer implements Question.Answering {
    private static final JsonMapper JSON = new JsonMapper();
    private static final int LARGEST_SIDE = 2048;
    private static final int BAND = 256;

    private final Returns returns;
    private final ShootService shoots;
    private final BookService book;
    private final WorkingMemory memory;
    private final OpenFrames frames;
    private final Turns turns;

    Renderer(
            Returns returns,
            ShootService shoots,
            BookService book,
            WorkingMemory memory,
            OpenFrames frames,
            Turns turns) {
        this.returns = returns;
        this.shoots = shoots;
        this.book = book;
        this.memory = memory;
        this.frames = frames;
        this.turns = turns;
    }

    /** What was asked for lies outside the picture, or is too large. */
    static final class OutsideException extends IllegalArgumentException {
        private static final long serialVersionUID = 1;
    }

    /** A frame that is asked about, with what its settings make of it. */
    private record Asked(OpenFrames.OpenFrame frame, ResolvedSettings settings, Steps steps, Region over) {
        RawOpener.Opened opened() {
            return frame.opened;
        }

        PixelSource result() {
            return over == null ? steps.result() : steps.resultOver(over.width(), over.height());
        }
    }

    private Asked asked(Question.Subject subject) throws RefusedException {
        return asked(subject, Question.Asker.NOBODY, "");
    }

    private Asked asked(Question.Subject subject, Question.Asker asker, String kind) throws RefusedException {
        OpenFrames.OpenFrame frame = frames.of(shoots.frame(subject.frame()).path());
        ResolvedSettings settings = ResolvedSettings.ofJson(subject.settings());
        Steps steps = steps(frame.opened, settings, asker.looks(), turns.stillAsked(asker, kind));
        Region over = subject.overWidth() == null ? null : new Region(0, 0, subject.overWidth(), subject.overHeight());
        return new Asked(frame, settings, steps, over);
    }

    /** One that is small enough to be rendered. */
    private static Region within(Region region) {
        if (region.isEmpty() || region.width() > LARGEST_SIDE || region.height() > LARGEST_SIDE) {
            throw new OutsideException();
        }
        return region;
    }

    @Override
    public byte[] answer(Question.OfFrame question) throws RefusedException {
        Question.Which which = question.which();
        Asked asked = asked(question.subject(), question.asker(), which.name());
        Planes planes = new Planes(within(question.region()), 3);
        fill(which == Question.Which.BEFORE ? asked.steps.plain() : asked.result(), planes);
        if (which == Question.Which.TAKEN) {
            Planes plain = new Planes(planes.region(), 3);
            asked.steps.plain().fill(plain);
            ViewRendering view = new ViewRendering(asked.opened().frame().colour(), question.look());
            return grey(view.difference(plain, planes), planes.region());
        }
        return which == Question.Which.NOISE
                ? grey(NoiseMap.render(planes, asked.settings.noise()), planes.region())
                : png(asked.opened(), question.look(), planes);
    }

    @Override
    public byte[] answer(Question.FrameReduced question) throws RefusedException {
        Asked asked = asked(question.subject(), question.asker(), Question.Which.AFTER.name());
        ReducedPicture draft = asked.frame.draft();
        Region over = asked.over;
        return jpeg(
                over == null ? asked.steps.draft(draft) : asked.steps.draftOver(draft, over.width(), over.height()),
                asked.opened(),
                question.look());
    }

    @Override
    public byte[] answer(Question.OfReturn question) throws RefusedException, IOException {
        ItemRow item = returns.item(question.item());
        RawOpener.Opened opened = frames.of(item.path()).opened;
        Planes planes = new Planes(within(question.region()), 3);
        if (question.which() == Question.Which.BEFORE) {
            fill(steps(opened, item).plain(), planes);
        } else if (!item.form().linear()) {
            // What it was developed from: only linear values can be looked at like a frame.
            fill(steps(opened, item).result(), planes);
        } else {
            try (LinearDngFile file = LinearDngFile.open(Path.of(item.finalPath()))) {
                fill(file, planes);
            }
        }
        return png(opened, question.look(), planes);
    }

    @Override
    public byte[] answer(Question.ReturnReduced question) throws RefusedException, IOException {
        ItemRow item = returns.item(question.item());
        OpenFrames.OpenFrame frame = frames.of(item.path());
        if (question.which() == Question.Which.BEFORE || !item.form().linear()) {
            return jpeg(steps(frame.opened, item).draft(frame.draft()), frame.opened, question.look());
        }
        try (LinearDngFile file = LinearDngFile.open(Path.of(item.finalPath()))) {
            ReducedPicture picture = new ReducedPicture(file.width(), file.height(), OpenFrames.OVERVIEW_EDGE);
            for (int y = 0; y < file.height(); y += BAND) {
                Planes band = new Planes(new Region(0, y, file.width(), Math.min(BAND, file.height() - y)), 3);
                file.fill(band);
                picture.add(band);
            }
            return jpeg(picture, frame.opened, question.look());
        }
    }

    @Override
    public byte[] answer(Question.Spots question) throws RefusedException {
        Asked asked = asked(question.subject());
        return JSON.writeValueAsBytes(spots(asked.steps, asked.settings, asked.opened()));
    }

    @Override
    public byte[] answer(Question.Figures question) throws RefusedException {
        Asked asked = asked(question.subject(), question.asker(), "figures");
        return JSON.writeValueAsBytes(figures(
                asked.steps,
                asked.settings,
                within(question.region()),
                asked.opened(),
                question.asker().looks()));
    }

    @Override
    public byte[] answer(Question.Histogram question) throws RefusedException {
        Asked asked = asked(question.subject(), question.asker(), "histogram");
        Region place = asked.steps.onFrame(
                question.region().intersect(asked.steps.result().bounds()));
        return JSON.writeValueAsBytes(SensorHistogram.of(asked.opened().frame().capture(), place));
    }

    @Override
    public byte[] answer(Question.SidecarWhite question) throws RefusedException, IOException {
        String path = shoots.frame(question.frame()).path();
        Optional<Xmp.Light> told = Xmp.white(Glance.sidecar(Path.of(path)));
        if (told.isEmpty()) {
            return JSON.writeValueAsBytes(List.of());
        }
        White light = White.ofTemperature(told.get().kelvin(), told.get().tint());
        return JSON.writeValueAsBytes(frames.of(path).opened.frame().colour().whiteStops(light));
    }

    @Override
    public byte[] answer(Question.Places question) throws RefusedException {
        double[] points =
                question.points().stream().mapToDouble(Double::doubleValue).toArray();
        return JSON.writeValueAsBytes(asked(question.subject()).steps.toFrame(points));
    }

    @Override
    public byte[] answer(Question.Strength question) throws RefusedException {
        Asked asked = asked(question.subject());
        Mask mask = asked.settings.masks().get(question.mask());
        Planes strength;
        if (question.edge() > 0) {
            strength =
                    asked.steps.strengthDraft(mask, Math.max(16, Math.min(OpenFrames.OVERVIEW_EDGE, question.edge())));
        } else {
            strength = new Planes(within(question.region()), 3);
            fill(asked.steps.strength(mask), strength);
        }
        float[] values = strength.channel(0);
        byte[] rgb = new byte[3 * values.length];
        for (int i = 0; i < rgb.length; i++) {
            rgb[i] = (byte) Math.round(255 * Math.max(0, Math.min(1, values[i / 3])));
        }
        return grey(rgb, strength.region());
    }

    @Override
    public byte[] answer(Question.Found question) throws RefusedException {
        Asked asked = asked(question.subject());
        List<Double> shares = new ArrayList<>();
        for (Mask mask : asked.settings.masks()) {
            shares.add(mask.parts().stream()
                    .map(MaskPart::shape)
                    .filter(shape -> shape instanceof MaskShape.InFocus || shape instanceof MaskShape.FromSpot)
                    .findFirst()
                    .map(shape -> asked.steps.denoise().masks().found(shape).percent())
                    .orElse(null));
        }
        return JSON.writeValueAsBytes(shares);
    }

    @Override
    public byte[] answer(Question.Made question) throws RefusedException, IOException {
        byte[] packet = Glance.packet(Path.of(returns.item(question.item()).finalPath()));
        return JSON.writeValueAsBytes(new HowMade(
                Xmp.property(packet, "Engine"),
                Xmp.property(packet, "Settings"),
                Xmp.property(packet, "OriginalSha256")));
    }

    private static byte[] png(RawOpener.Opened opened, ViewLook look, Planes planes) {
        Region region = planes.region();
        return ReducedPicture.png(
                new ViewRendering(opened.frame().colour(), look).render(planes), region.width(), region.height());
    }

    private static byte[] grey(byte[] rgb, Region region) {
        return ReducedPicture.png(rgb, region.width(), region.height());
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
}
