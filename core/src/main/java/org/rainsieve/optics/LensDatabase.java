package org.rainsieve.optics;

import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import javax.xml.XMLConstants;
import javax.xml.parsers.DocumentBuilderFactory;
import javax.xml.parsers.ParserConfigurationException;
import org.rainsieve.frame.ShotInfo;
import org.w3c.dom.Element;
import org.w3c.dom.NodeList;
import org.xml.sax.SAXException;

/**
 * Lens profiles from XML files in the format of lensfun 0.3: those of its open database (CC BY-SA 3.0) and one's own.
 * Files are read without document types or entities.
 */
public final class LensDatabase {
    private static final double DEFAULT_ASPECT = 1.5;
    private static final int MOST_CANDIDATES = 12;

    /** Names differ by these only in how they are written. */
    private static final Set<String> EMPTY_WORDS = Set.of("mm", "f", "the", "lens", "for");

    private record Camera(String maker, String model, String mount, double cropFactor) {
        /** As {@link ShotInfo#camera()} has it. */
        String name() {
            return model.toLowerCase(Locale.ROOT).startsWith(maker.toLowerCase(Locale.ROOT))
                    ? model
                    : maker + " " + model;
        }
    }

    /**
     * A lens that may have been used.
     *
     * @param score 0 to 1
     * @param reason why it stands here, in plain words
     */
    public record Candidate(LensProfile lens, double score, String reason) {}

    private final List<LensProfile> lenses = new ArrayList<>();

    /** Of the lenses, in their order: taking a name apart takes longer than comparing it. */
    private final List<LensName> names = new ArrayList<>();

    private final List<Camera> cameras = new ArrayList<>();
    private final Map<String, Set<String>> fits = new HashMap<>();
    private final List<String> problems = new ArrayList<>();

    /** @param folders whose XML files are read, in order of their names; those that are missing are passed over */
    public static LensDatabase load(List<Path> folders) {
        LensDatabase database = new LensDatabase();
        for (Path folder : folders) {
            if (!Files.isDirectory(folder)) {
                continue;
            }
            try (Stream<Path> files = Files.list(folder)) {
                files.filter(file -> file.toString().endsWith(".xml")).sorted().forEach(database::read);
            } catch (IOException e) {
                database.problems.add("The lens folder " + folder + " cannot be read.");
            }
        }
        return database;
    }

    /** Files that could not be used, in plain words. */
    public List<String> problems() {
        return List.copyOf(problems);
    }

    public List<LensProfile> lenses() {
        return List.copyOf(lenses);
    }

    private void read(Path file) {
        try (InputStream in = Files.newInputStream(file)) {
            DocumentBuilderFactory factory = DocumentBuilderFactory.newInstance();
            factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
            factory.setFeature("http://apache.org/xml/features/nonvalidating/load-external-dtd", false);
            factory.setFeature("http://xml.org/sax/features/external-general-entities", false);
            factory.setFeature("http://xml.org/sax/features/external-parameter-entities", false);
            factory.setExpandEntityReferences(false);
            var builder = factory.newDocumentBuilder();
            builder.setErrorHandler(null);
            Element root = builder.parse(in).getDocumentElement();
            for (Element mount : children(root, "mount")) {
                Set<String> also = fits.computeIfAbsent(text(mount, "name", ""), name -> new HashSet<>());
                children(mount, "compat")
                        .forEach(other -> also.add(other.getTextContent().strip()));
            }
            for (Element camera : children(root, "camera")) {
                cameras.add(new Camera(
                        text(camera, "maker", ""),
                        text(camera, "model", ""),
                        text(camera, "mount", ""),
                        number(text(camera, "cropfactor", "1"))));
            }
            for (Element lens : children(root, "lens")) {
                LensProfile profile = profile(lens);
                if (profile != null) {
                    lenses.add(profile);
                    names.add(LensName.of(profile.name()));
                }
            }
        } catch (IOException | SAXException | ParserConfigurationException | IllegalArgumentException e) {
            problems.add("The lens file " + file.getFileName() + " cannot be read: " + e.getMessage());
        }
    }

    /** Null for lenses that are not calibrated or do not draw straight lines straight. */
    private static LensProfile profile(Element lens) {
        List<LensProfile.Terms> distortions = new ArrayList<>();
        List<LensProfile.Terms> fringes = new ArrayList<>();
        List<LensProfile.Shade> shades = new ArrayList<>();
        for (Element calibration : children(lens, "calibration")) {
            for (Element e : children(calibration, "distortion")) {
                String model = e.getAttribute("model");
                double focal = number(e.getAttribute("focal"));
                switch (model) {
                    case "poly3" -> put(distortions, new LensProfile.Terms(model, focal, of(e, "k1", 0)));
                    case "poly5" ->
                        put(distortions, new LensProfile.Terms(model, focal, of(e, "k1", 0), of(e, "k2", 0)));
                    case "ptlens" ->
                        put(
                                distortions,
                                new LensProfile.Terms(model, focal, of(e, "a", 0), of(e, "b", 0), of(e, "c", 0)));
                    default -> {}
                }
            }
            for (Element e : children(calibration, "tca")) {
                double focal = number(e.getAttribute("focal"));
                boolean linear = e.getAttribute("model").equals("linear");
                put(
                        fringes,
                        new LensProfile.Terms(
                                "poly3",
                                focal,
                                of(e, linear ? "kr" : "vr", 1),
                                of(e, linear ? "kb" : "vb", 1),
                                linear ? 0 : of(e, "cr", 0),
                                linear ? 0 : of(e, "cb", 0),
                                linear ? 0 : of(e, "br", 0),
                                linear ? 0 : of(e, "bb", 0)));
            }
            for (Element e : children(calibration, "vignetting")) {
                LensProfile.Shade shade = new LensProfile.Shade(
                        of(e, "focal", 0),
                        of(e, "aperture", 0),
                        of(e, "distance", LensProfile.FAR_M),
                        of(e, "k1", 0),
                        of(e, "k2", 0),
                        of(e, "k3", 0));
                shades.removeIf(shade::isOfSameSetting);
                shades.add(shade);
            }
        }
        String type = text(lens, "type", "rectilinear");
        if (distortions.isEmpty() && fringes.isEmpty() && shades.isEmpty() || !type.equals("rectilinear")) {
            return null;
        }
        double[] range = range(lens, distortions, fringes, shades);
        Element centre = children(lens, "center").stream().findFirst().orElse(null);
        return new LensProfile(
                text(lens, "maker", ""),
                text(lens, "model", ""),
                children(lens, "mount").stream()
                        .map(e -> e.getTextContent().strip())
                        .toList(),
                number(text(lens, "cropfactor", "1")),
                aspect(text(lens, "aspect-ratio", "")),
                centre == null ? 0 : of(centre, "x", 0),
                centre == null ? 0 : of(centre, "y", 0),
                range[0],
                range[1],
                distortions,
                fringes,
                shades);
    }

    /** What is said last of a focal length holds, as in lensfun. */
    private static void put(List<LensProfile.Terms> list, LensProfile.Terms terms) {
        for (int i = 0; i < list.size(); i++) {
            if (list.get(i).focalMm() == terms.focalMm() && list.get(i).model().equals(terms.model())) {
                list.set(i, terms);
                return;
            }
        }
        list.add(terms);
    }

    private static double[] range(
            Element lens,
            List<LensProfile.Terms> distortions,
            List<LensProfile.Terms> fringes,
            List<LensProfile.Shade> shades) {
        for (Element focal : children(lens, "focal")) {
            double value = of(focal, "value", 0);
            return new double[] {of(focal, "min", value), of(focal, "max", value)};
        }
        double[] found = Stream.of(
                        distortions.stream().map(LensProfile.Terms::focalMm),
                        fringes.stream().map(LensProfile.Terms::focalMm),
                        shades.stream().map(LensProfile.Shade::focalMm))
                .flatMap(s -> s)
                .mapToDouble(Double::doubleValue)
                .sorted()
                .toArray();
        // With something between lens and camera the name's focal lengths no longer hold.
        LensName named = LensName.of(text(lens, "model", ""));
        return named.focalMm().length == 2 && !named.withAdapter()
                ? named.focalMm()
                : new double[] {found[0], found[found.length - 1]};
    }

    private static double aspect(String text) {
        if (text.isEmpty()) {
            return DEFAULT_ASPECT;
        }
        int colon = text.indexOf(':');
        return colon < 0 ? number(text) : number(text.substring(0, colon)) / number(text.substring(colon + 1));
    }

    private static List<Element> children(Element parent, String name) {
        List<Element> found = new ArrayList<>();
        NodeList nodes = parent.getChildNodes();
        for (int i = 0; i < nodes.getLength(); i++) {
            if (nodes.item(i) instanceof Element e && e.getTagName().equals(name)) {
                found.add(e);
            }
        }
        return found;
    }

    /** The text that is not a translation. */
    private static String text(Element parent, String name, String otherwise) {
        return children(parent, name).stream()
                .min(Comparator.comparing(e -> e.hasAttribute("lang")))
                .map(e -> e.getTextContent().strip())
                .orElse(otherwise);
    }

    private static double of(Element e, String attribute, double otherwise) {
        return e.hasAttribute(attribute) ? number(e.getAttribute(attribute)) : otherwise;
    }

    private static double number(String text) {
        try {
            return Double.parseDouble(text.strip());
        } catch (NumberFormatException e) {
            throw new IllegalArgumentException("“" + text + "” is not a number");
        }
    }

    /** How many times smaller than 36 × 24 mm the camera's sensor is; 0 when the database does not know the camera. */
    public double cropFactor(String camera) {
        return camera(camera).map(Camera::cropFactor).orElse(0.0);
    }

    private Optional<Camera> camera(String name) {
        return cameras.stream()
                .filter(camera -> camera.name().equalsIgnoreCase(name))
                .findFirst();
    }

    /**
     * Lenses that may have been used, the likeliest first.
     *
     * @param cameraName maker and model, as {@link ShotInfo#camera()} has it
     * @param named the lens as the camera reported it, or as it was typed
     * @param focalMm NaN when not told
     */
    public List<Candidate> candidates(String cameraName, String named, double focalMm) {
        Camera camera = camera(cameraName).orElse(null);
        LensName wanted = LensName.of(named);
        List<Candidate> found = new ArrayList<>();
        for (int i = 0; i < lenses.size(); i++) {
            LensProfile lens = lenses.get(i);
            if (camera != null && !mounts(lens, camera.mount())) {
                continue;
            }
            if (camera != null && lens.cropFactor() > camera.cropFactor() * 1.04) {
                continue; // calibrated on a smaller sensor: nothing is known of the corners
            }
            double alike = wanted.likeness(names.get(i), EMPTY_WORDS);
            boolean reaches = Double.isNaN(focalMm) || lens.reaches(focalMm);
            double score = alike * (reaches ? 1 : 0.5);
            if (score > 0.3) {
                found.add(new Candidate(lens, score, reason(alike, reaches, camera != null, focalMm)));
            }
        }
        found.sort(Comparator.comparingDouble(Candidate::score)
                .reversed()
                .thenComparing(candidate ->
                        Math.abs(candidate.lens().cropFactor() - (camera == null ? 1 : camera.cropFactor()))));
        return List.copyOf(found.subList(0, Math.min(MOST_CANDIDATES, found.size())));
    }

    private static String reason(double alike, boolean reaches, boolean mounted, double focalMm) {
        return (alike > 0.99 ? "same name" : "name alike")
                + (mounted ? ", fits the camera" : ", camera not in the database")
                + (Double.isNaN(focalMm)
                        ? ", focal length not told"
                        : String.format(Locale.ROOT, ", %s %.0f mm", reaches ? "reaches" : "does not reach", focalMm));
    }

    private boolean mounts(LensProfile lens, String mount) {
        return lens.mounts().stream()
                .anyMatch(own -> own.equalsIgnoreCase(mount)
                        || own.equals("Generic")
                        || fits.getOrDefault(mount, Set.of()).contains(own));
    }

    /** The lens that was surely used, or nothing: one whose name is the same and that reaches the focal length. */
    public Optional<Candidate> match(String cameraName, String named, double focalMm) {
        return named.isBlank()
                ? Optional.empty()
                : candidates(cameraName, named, focalMm).stream().findFirst().filter(best -> best.score() > 0.85);
    }

    /** The lens of that name that reaches the focal length, or any of that name. */
    public Optional<LensProfile> named(String name, double focalMm) {
        return lenses.stream()
                .filter(lens -> lens.name().equalsIgnoreCase(name))
                .min(Comparator.comparing(lens -> !Double.isNaN(focalMm) && !lens.reaches(focalMm)));
    }
}
