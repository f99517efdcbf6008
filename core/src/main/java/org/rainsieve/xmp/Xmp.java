package org.rainsieve.xmp;

import java.io.IOException;
import java.io.StringReader;
import java.io.StringWriter;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.function.Predicate;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import javax.xml.XMLConstants;
import javax.xml.parsers.DocumentBuilderFactory;
import javax.xml.parsers.ParserConfigurationException;
import javax.xml.stream.XMLInputFactory;
import javax.xml.stream.XMLStreamConstants;
import javax.xml.stream.XMLStreamException;
import javax.xml.stream.XMLStreamReader;
import javax.xml.transform.OutputKeys;
import javax.xml.transform.Transformer;
import javax.xml.transform.TransformerException;
import javax.xml.transform.TransformerFactory;
import javax.xml.transform.dom.DOMSource;
import javax.xml.transform.stream.StreamResult;
import org.w3c.dom.Attr;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.w3c.dom.NodeList;
import org.xml.sax.InputSource;
import org.xml.sax.SAXException;
import org.xml.sax.helpers.DefaultHandler;

/**
 * The XMP packet of a return: rating, keywords and other descriptions of the original carried on, and how the return was
 * made. XML is parsed without DTDs, so entities and outside files are never read.
 */
public final class Xmp {
    public static final String NAMESPACE = "urn:rain-sieve:return:1";

    /** Larger packets than any program writes are not looked at. (Common practice.) */
    private static final int LARGEST_PACKET = 16 << 20;

    private static final int DEEPEST = 100;

    private static final String RDF = "http://www.w3.org/1999/02/22-rdf-syntax-ns#";
    private static final String XMP = "http://ns.adobe.com/xap/1.0/";
    private static final String XMP_MM = "http://ns.adobe.com/xap/1.0/mm/";
    private static final String PHOTO = "http://ns.microsoft.com/photo/1.0/";
    private static final String NOTE = "http://ns.adobe.com/xmp/note/";
    private static final String AUX = "http://ns.adobe.com/exif/1.0/aux/";
    private static final String EXIF = "http://ns.adobe.com/exif/1.0/";
    private static final String TIFF = "http://ns.adobe.com/tiff/1.0/";
    private static final String PHOTOSHOP = "http://ns.adobe.com/photoshop/1.0/";
    private static final Pattern COORDINATE =
            Pattern.compile("(\\d{1,3}),(\\d{1,2}(?:\\.\\d+)?)(?:,(\\d{1,2}(?:\\.\\d+)?))?([NSEW])");
    private static final Pattern RATIONAL = Pattern.compile("(\\d{1,10})/([1-9]\\d{0,9})");
    private static final Pattern DATE =
            Pattern.compile("\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d(:\\d\\d(\\.\\d+)?)?(Z|[+-]\\d\\d:\\d\\d)?");
    private static final String ST_REF = "http://ns.adobe.com/xap/1.0/sType/ResourceRef#";
    private static final String ST_EVT = "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#";

    /** Not carried on: develop settings, history of the original's file, and what EXIF says already. */
    private static final Set<String> LEFT_OUT =
            Set.of(NAMESPACE, XMP_MM, RDF, XMLConstants.XMLNS_ATTRIBUTE_NS_URI, NOTE, EXIF, TIFF, AUX);

    private static final String DEVELOP = "http://ns.adobe.com/camera-raw-settings/1.0/";

    /**
     * Edits of exposure and colour: the simple names of the XMP specification, part 2, table "Camera Raw namespace", and their
     * later forms and families (from memory). Sharpening, noise, lens and crop are not among them: they are dealt with here.
     */
    private static final Pattern EDITS = Pattern.compile("(Auto)?(Exposure|Brightness|Contrast|Shadows)(2012)?"
            + "|Saturation|Vibrance|Temperature|Tint|WhiteBalance|ShadowTint|(Red|Green|Blue)(Hue|Saturation)"
            + "|(Highlights|Whites|Blacks)2012|HighlightRecovery|FillLight|ToneCurve\\w*|Parametric\\w*"
            + "|(Hue|Saturation|Luminance)Adjustment\\w+|SplitToning\\w+|ColorGrade\\w+|ConvertToGrayscale|GrayMixer\\w+"
            + "|CameraProfile|Version|ProcessVersion|HasSettings");

    private Xmp() {}

    /**
     * The exposure correction that a sidecar asks for (crs:Exposure of the XMP specification, part 2, or its later form
     * crs:Exposure2012).
     *
     * @return in stops; NaN when the packet does not tell, or is no XMP
     */
    public static double exposureStops(byte[] packet) {
        try {
            Document document = parse(packet);
            for (String name : new String[] {"Exposure2012", "Exposure"}) {
                String value = property(document, DEVELOP, name);
                if (!value.isBlank()) {
                    return Double.parseDouble(value.strip());
                }
            }
            return Double.NaN;
        } catch (SAXException | IOException | ParserConfigurationException | NumberFormatException e) {
            return Double.NaN;
        }
    }

    /** A white as developers tell it: a temperature, and a tint across it that is positive for greener light. */
    public record Light(double kelvin, double tint) {}

    /**
     * The white that a sidecar asks for (crs:Temperature and crs:Tint of the XMP specification, part 2); none where it leaves
     * white as shot, does not tell it or is no XMP.
     */
    public static Optional<Light> white(byte[] packet) {
        try {
            Document document = parse(packet);
            String kelvin = property(document, DEVELOP, "Temperature").strip();
            if (kelvin.isEmpty()
                    || property(document, DEVELOP, "WhiteBalance").strip().equals("As Shot")) {
                return Optional.empty();
            }
            String tint = property(document, DEVELOP, "Tint").strip();
            Light told = new Light(Double.parseDouble(kelvin), tint.isEmpty() ? 0 : Double.parseDouble(tint));
            boolean sane = told.kelvin >= 1500 && told.kelvin <= 60_000 && Math.abs(told.tint) <= 300;
            return sane ? Optional.of(told) : Optional.empty();
        } catch (SAXException | IOException | ParserConfigurationException | NumberFormatException e) {
            return Optional.empty();
        }
    }

    /**
     * What a sidecar says of the shot itself, where it was put right after the file was written.
     *
     * @param orientation 1 to 8; 0 when it does not tell
     * @param latitude in degrees, north positive; NaN when it does not tell
     * @param longitude in degrees, east positive
     * @param altitudeM above the sea; NaN when it does not tell
     * @param takenAt ISO 8601; empty when it does not tell
     */
    public record Shot(int orientation, double latitude, double longitude, double altitudeM, String takenAt) {
        public static final Shot NOTHING = new Shot(0, Double.NaN, Double.NaN, Double.NaN, "");
    }

    /** tiff:Orientation, exif:GPSLatitude and its kin, and exif:DateTimeOriginal or photoshop:DateCreated of a packet. */
    public static Shot shot(byte[] packet) {
        if (packet.length == 0) {
            return Shot.NOTHING;
        }
        try {
            Document document = parse(packet);
            String turned = property(document, TIFF, "Orientation").strip();
            String taken = property(document, EXIF, "DateTimeOriginal").strip();
            taken = taken.isEmpty()
                    ? property(document, PHOTOSHOP, "DateCreated").strip()
                    : taken;
            double altitude = rational(property(document, EXIF, "GPSAltitude").strip());
            boolean below = property(document, EXIF, "GPSAltitudeRef").strip().equals("1");
            double north = degrees(property(document, EXIF, "GPSLatitude").strip());
            double east = degrees(property(document, EXIF, "GPSLongitude").strip());
            boolean place = Math.abs(north) <= 90 && Math.abs(east) <= 180;
            return new Shot(
                    turned.matches("[1-8]") ? Integer.parseInt(turned) : 0,
                    place ? north : Double.NaN,
                    place ? east : Double.NaN,
                    below ? -altitude : altitude,
                    DATE.matcher(taken).matches() ? taken : "");
        } catch (SAXException | IOException | ParserConfigurationException e) {
            return Shot.NOTHING;
        }
    }

    /** "47,7.5N" or "47,7,30N" (XMP specification, part 2, GPSCoordinate); NaN for others. */
    private static double degrees(String text) {
        Matcher m = COORDINATE.matcher(text);
        if (!m.matches()) {
            return Double.NaN;
        }
        double seconds = m.group(3) == null ? 0 : Double.parseDouble(m.group(3));
        double value = Double.parseDouble(m.group(1)) + Double.parseDouble(m.group(2)) / 60 + seconds / 3600;
        return "SW".contains(m.group(4)) ? -value : value;
    }

    private static double rational(String text) {
        Matcher m = RATIONAL.matcher(text);
        return m.matches() ? Double.parseDouble(m.group(1)) / Double.parseDouble(m.group(2)) : Double.NaN;
    }

    /** What people have said of a picture: the rating (-1 to 5, null without one) and the keywords. */
    public record Marks(Integer rating, List<String> keywords) {
        public static final Marks NONE = new Marks(null, List.of());
    }

    /** xmp:Rating and dc:subject of a packet; {@link Marks#NONE} when it is no XMP. */
    public static Marks marks(byte[] packet) {
        if (packet.length == 0) {
            return Marks.NONE;
        }
        try {
            Document document = parse(packet);
            String rating = property(document, XMP, "Rating");
            List<String> keywords = new ArrayList<>();
            NodeList subjects = document.getElementsByTagNameNS("http://purl.org/dc/elements/1.1/", "subject");
            for (int i = 0; i < subjects.getLength(); i++) {
                NodeList words = ((Element) subjects.item(i)).getElementsByTagNameNS(RDF, "li");
                for (int k = 0; k < words.getLength(); k++) {
                    keywords.add(words.item(k).getTextContent().strip());
                }
            }
            double value = rating.isBlank() ? Double.NaN : Double.parseDouble(rating.strip());
            return new Marks(value >= -1 && value <= 5 ? (Integer) (int) Math.round(value) : null, keywords);
        } catch (SAXException | IOException | ParserConfigurationException | NumberFormatException e) {
            return Marks.NONE;
        }
    }

    /** A simple property, as an element or as an attribute of a description; empty without it. */
    private static String property(Document document, String namespace, String name) {
        NodeList elements = document.getElementsByTagNameNS(namespace, name);
        String value = elements.getLength() > 0 ? elements.item(0).getTextContent() : "";
        NodeList descriptions = document.getElementsByTagNameNS(RDF, "Description");
        for (int i = 0; i < descriptions.getLength() && value.isBlank(); i++) {
            value = ((Element) descriptions.item(i)).getAttributeNS(namespace, name);
        }
        return value;
    }

    /**
     * @param originals packets of the original, or empty arrays; a later one's word goes before an earlier one's
     * @param edits whether exposure and colour edits are carried on, too
     * @param properties our own properties by name, such as Settings, Engine, OriginalSha256
     * @param firmware of the camera, which is no longer told as the file's software; empty when not known
     * @param when time of making, ISO 8601
     */
    public static String ofReturn(
            List<byte[]> originals,
            boolean edits,
            Map<String, String> properties,
            String originalName,
            String firmware,
            String software,
            String when) {
        try {
            Document document = builder().newDocument();
            Element meta = document.createElementNS("adobe:ns:meta/", "x:xmpmeta");
            document.appendChild(meta);
            Element rdf = document.createElementNS(RDF, "rdf:RDF");
            meta.appendChild(rdf);
            Element description = document.createElementNS(RDF, "rdf:Description");
            description.setAttributeNS(RDF, "rdf:about", "");
            rdf.appendChild(description);
            for (byte[] original : originals) {
                if (original.length > 0) {
                    carry(original, edits, document, description);
                }
            }
            properties.forEach((name, value) -> {
                Element property = document.createElementNS(NAMESPACE, "sieve:" + name);
                property.setTextContent(value);
                description.appendChild(property);
            });
            if (!firmware.isBlank()) {
                text(document, description, AUX, "aux:Firmware", firmware);
            }
            manage(originals, document, description, properties, originalName, software, when);
            return packet(document, 512);
        } catch (ParserConfigurationException | TransformerException e) {
            throw new IllegalStateException(e);
        }
    }

    private static String packet(Document document, int room) throws TransformerException {
        return "<?xpacket begin=\"\uFEFF\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n"
                + serialise(document)
                + "\n"
                + " ".repeat(room)
                + "\n<?xpacket end=\"w\"?>";
    }

    /** Which picture it was derived from and what it is known as (XMP specification, part 2, media management). */
    private static void manage(
            List<byte[]> originals,
            Document document,
            Element description,
            Map<String, String> properties,
            String originalName,
            String software,
            String when) {
        String before = "";
        String first = "";
        List<Node> entries = new ArrayList<>();
        for (byte[] original : originals) {
            try {
                Document told = parse(original);
                String id = property(told, XMP_MM, "DocumentID");
                String origin = property(told, XMP_MM, "OriginalDocumentID");
                before = id.isBlank() ? before : id;
                first = origin.isBlank() ? first : origin;
                NodeList histories = told.getElementsByTagNameNS(XMP_MM, "History");
                if (histories.getLength() > 0) {
                    entries.clear();
                    NodeList items = ((Element) histories.item(0)).getElementsByTagNameNS(RDF, "li");
                    for (int i = 0; i < items.getLength(); i++) {
                        entries.add(document.importNode(items.item(i), true));
                    }
                }
            } catch (SAXException | IOException | ParserConfigurationException e) {
                // A damaged packet tells nothing.
            }
        }
        String sha256 = properties.getOrDefault("OriginalSha256", "");
        String origin = before.isBlank() ? "sha256:" + sha256 : before;
        UUID own = UUID.nameUUIDFromBytes((properties + when).getBytes(StandardCharsets.UTF_8));
        text(document, description, XMP_MM, "xmpMM:DocumentID", "xmp.did:" + own);
        text(document, description, XMP_MM, "xmpMM:InstanceID", "xmp.iid:" + own);
        text(document, description, XMP_MM, "xmpMM:OriginalDocumentID", first.isBlank() ? origin : first);
        Element derived = document.createElementNS(XMP_MM, "xmpMM:DerivedFrom");
        derived.setAttributeNS(RDF, "rdf:parseType", "Resource");
        text(document, derived, ST_REF, "stRef:documentID", origin);
        text(document, derived, ST_REF, "stRef:filePath", originalName);
        description.appendChild(derived);
        Element history = document.createElementNS(XMP_MM, "xmpMM:History");
        Element sequence = document.createElementNS(RDF, "rdf:Seq");
        entries.forEach(sequence::appendChild);
        Element entry = document.createElementNS(RDF, "rdf:li");
        entry.setAttributeNS(RDF, "rdf:parseType", "Resource");
        text(document, entry, ST_EVT, "stEvt:action", "derived");
        text(document, entry, ST_EVT, "stEvt:parameters", "from " + originalName);
        text(document, entry, ST_EVT, "stEvt:instanceID", "xmp.iid:" + own);
        text(document, entry, ST_EVT, "stEvt:softwareAgent", software);
        text(document, entry, ST_EVT, "stEvt:when", when);
        sequence.appendChild(entry);
        history.appendChild(sequence);
        description.appendChild(history);
    }

    /** The name of the extension that a packet says it has (XMP specification, part 3, section 1.1.3.1); empty without. */
    public static String extendedBy(byte[] packet) {
        try {
            String guid = property(parse(packet), NOTE, "HasExtendedXMP").strip();
            return guid.matches("[0-9A-Fa-f]{32}") ? guid : "";
        } catch (SAXException | IOException | ParserConfigurationException e) {
            return "";
        }
    }

    /** A packet with the properties of its extension. */
    public static byte[] merged(byte[] packet, byte[] extension) {
        try {
            Document document = parse(packet);
            Element description = description(document);
            remove(document.createAttributeNS(NOTE, "xmpNote:HasExtendedXMP"), description);
            NodeList more = parse(extension).getElementsByTagNameNS(RDF, "Description");
            for (int i = 0; i < more.getLength(); i++) {
                if ("RDF".equals(more.item(i).getParentNode().getLocalName())) {
                    carry((Element) more.item(i), node -> !RDF.equals(node.getNamespaceURI()), document, description);
                }
            }
            return packet(document, 0).getBytes(StandardCharsets.UTF_8);
        } catch (SAXException | IOException | ParserConfigurationException | TransformerException e) {
            return packet;
        }
    }

    /**
     * A packet in two.
     *
     * @param extension empty where all fits the packet
     * @param guid by which the packet names it: the MD5 of its bytes in hexadecimal digits
     */
    public record Parts(byte[] packet, byte[] extension, String guid) {}

    /** For files whose packets have an end: what is largest goes into an extension, until the rest fits. */
    public static Parts split(byte[] whole, int mostBytes) {
        Parts asItIs = new Parts(whole, new byte[0], "");
        if (whole.length <= mostBytes) {
            return asItIs;
        }
        try {
            Document document = parse(whole);
            Element description = description(document);
            Document other = builder().newDocument();
            Element meta = other.createElementNS("adobe:ns:meta/", "x:xmpmeta");
            Element rdf = other.createElementNS(RDF, "rdf:RDF");
            Element moved = other.createElementNS(RDF, "rdf:Description");
            moved.setAttributeNS(RDF, "rdf:about", "");
            other.appendChild(meta);
            meta.appendChild(rdf);
            rdf.appendChild(moved);
            description.setAttributeNS(NOTE, "xmpNote:HasExtendedXMP", "0".repeat(32));
            while (packet(document, 0).getBytes(StandardCharsets.UTF_8).length > mostBytes) {
                Element largest = null;
                for (Node child = description.getFirstChild(); child != null; child = child.getNextSibling()) {
                    if (child instanceof Element element
                            && (largest == null
                                    || element.getTextContent().length()
                                            > largest.getTextContent().length())) {
                        largest = element;
                    }
                }
                if (largest == null) {
                    return asItIs;
                }
                moved.appendChild(other.importNode(largest, true));
                description.removeChild(largest);
            }
            byte[] extension = serialise(other).getBytes(StandardCharsets.UTF_8);
            String guid = HexFormat.of()
                    .withUpperCase()
                    .formatHex(MessageDigest.getInstance("MD5").digest(extension));
            description.setAttributeNS(NOTE, "xmpNote:HasExtendedXMP", guid);
            return new Parts(packet(document, 0).getBytes(StandardCharsets.UTF_8), extension, guid);
        } catch (SAXException
                | IOException
                | ParserConfigurationException
                | TransformerException
                | NoSuchAlgorithmException e) {
            return asItIs;
        }
    }

    /** The packet without what we say of a return, for copies that go to other people. */
    public static byte[] withoutOwn(byte[] packet) {
        if (packet.length == 0) {
            return packet;
        }
        try {
            Document document = parse(packet);
            Element description = description(document);
            for (Node child = description.getFirstChild(); child != null; ) {
                Node next = child.getNextSibling();
                if (NAMESPACE.equals(child.getNamespaceURI()) || XMP_MM.equals(child.getNamespaceURI())) {
                    description.removeChild(child);
                }
                child = next;
            }
            return packet(document, 0).getBytes(StandardCharsets.UTF_8);
        } catch (SAXException | IOException | ParserConfigurationException | TransformerException e) {
            return new byte[0];
        }
    }

    private static Element description(Document document) throws SAXException {
        NodeList found = document.getElementsByTagNameNS(RDF, "Description");
        if (found.getLength() == 0) {
            throw new SAXException("The packet describes nothing");
        }
        return (Element) found.item(0);
    }

    /** Our own property in a packet, or an empty string. */
    public static String property(byte[] packet, String name) {
        try {
            NodeList found = parse(packet).getElementsByTagNameNS(NAMESPACE, name);
            return found.getLength() == 0 ? "" : found.item(0).getTextContent();
        } catch (SAXException | IOException | ParserConfigurationException e) {
            return "";
        }
    }

    private static void text(Document document, Element parent, String namespace, String name, String value) {
        Element element = document.createElementNS(namespace, name);
        element.setTextContent(value);
        parent.appendChild(element);
    }

    private static void carry(byte[] original, boolean edits, Document document, Element description) {
        NodeList descriptions;
        try {
            descriptions = parse(original).getElementsByTagNameNS(RDF, "Description");
        } catch (SAXException | IOException | ParserConfigurationException e) {
            return; // A damaged packet carries nothing that could be trusted.
        }
        if (rates(descriptions)) {
            // What another namespace says of the same is out of date.
            remove(document.createElementNS(PHOTO, "MicrosoftPhoto:Rating"), description);
        }
        for (int i = 0; i < descriptions.getLength(); i++) {
            Element from = (Element) descriptions.item(i);
            if ("RDF".equals(from.getParentNode().getLocalName())) {
                carry(from, node -> carried(node, edits), document, description);
            }
        }
    }

    private static boolean rates(NodeList descriptions) {
        for (int i = 0; i < descriptions.getLength(); i++) {
            Element from = (Element) descriptions.item(i);
            if (from.hasAttributeNS(XMP, "Rating")
                    || from.getElementsByTagNameNS(XMP, "Rating").getLength() > 0) {
                return true;
            }
        }
        return false;
    }

    private static void carry(Element from, Predicate<Node> which, Document document, Element description) {
        for (int k = 0; k < from.getAttributes().getLength(); k++) {
            Attr attribute = (Attr) from.getAttributes().item(k);
            if (which.test(attribute) && !XMLConstants.XMLNS_ATTRIBUTE_NS_URI.equals(attribute.getNamespaceURI())) {
                remove(attribute, description);
                description.setAttributeNodeNS((Attr) document.importNode(attribute, true));
            }
        }
        for (Node child = from.getFirstChild(); child != null; child = child.getNextSibling()) {
            if (child instanceof Element && which.test(child)) {
                remove(child, description);
                description.appendChild(document.importNode(child, true));
            }
        }
    }

    /** A property stands once, whether as an attribute or as an element. */
    private static void remove(Node property, Element description) {
        description.removeAttributeNS(property.getNamespaceURI(), property.getLocalName());
        for (Node child = description.getFirstChild(); child != null; ) {
            Node next = child.getNextSibling();
            if (property.getNamespaceURI().equals(child.getNamespaceURI())
                    && property.getLocalName().equals(child.getLocalName())) {
                description.removeChild(child);
            }
            child = next;
        }
    }

    private static boolean carried(Node node, boolean edits) {
        String namespace = node.getNamespaceURI();
        if (DEVELOP.equals(namespace)) {
            return edits && EDITS.matcher(node.getLocalName()).matches();
        }
        return namespace != null && !LEFT_OUT.contains(namespace);
    }

    private static Document parse(byte[] packet) throws ParserConfigurationException, IOException, SAXException {
        if (packet.length > LARGEST_PACKET) {
            throw new SAXException("The packet is larger than " + (LARGEST_PACKET >> 20) + " MiB");
        }
        String text = text(packet);
        checkDepth(text);
        javax.xml.parsers.DocumentBuilder builder = builder();
        builder.setErrorHandler(new DefaultHandler()); // what is wrong with a packet is nobody's news
        return builder.parse(new InputSource(new StringReader(text)));
    }

    /** Packets are UTF-8, UTF-16 or UTF-32, with or without a mark (XMP specification, part 1, section 7.4); filled up with zeros or blanks. */
    private static String text(byte[] packet) {
        Charset charset = StandardCharsets.UTF_8;
        if (packet.length >= 4) {
            int first = packet[0] & 255;
            int second = packet[1] & 255;
            boolean wide = (packet[2] | packet[3]) == 0 && (first == 0xff || first == '<');
            if (first == 0 && second == 0) {
                charset = Charset.forName("UTF-32BE");
            } else if (wide) {
                charset = Charset.forName("UTF-32LE");
            } else if (first == 0xfe && second == 0xff || first == 0) {
                charset = StandardCharsets.UTF_16BE;
            } else if (first == 0xff && second == 0xfe || second == 0) {
                charset = StandardCharsets.UTF_16LE;
            }
        }
        String text = new String(packet, charset);
        int from = text.startsWith("\uFEFF") ? 1 : 0;
        int end = text.length();
        while (end > from && (text.charAt(end - 1) == 0 || Character.isWhitespace(text.charAt(end - 1)))) {
            end--;
        }
        return text.substring(from, end);
    }

    /** What reads a document calls itself for each element inside another: so deep a one would take its thread down. */
    private static void checkDepth(String text) throws SAXException {
        try {
            XMLInputFactory factory = XMLInputFactory.newDefaultFactory();
            factory.setProperty(XMLInputFactory.SUPPORT_DTD, false);
            factory.setProperty(XMLInputFactory.IS_SUPPORTING_EXTERNAL_ENTITIES, false);
            XMLStreamReader reader = factory.createXMLStreamReader(new StringReader(text));
            int depth = 0;
            while (reader.hasNext()) {
                int event = reader.next();
                depth += event == XMLStreamConstants.START_ELEMENT
                        ? 1
                        : event == XMLStreamConstants.END_ELEMENT ? -1 : 0;
                if (depth > DEEPEST) {
                    throw new SAXException("The packet is nested deeper than " + DEEPEST + " elements");
                }
            }
        } catch (XMLStreamException e) {
            throw new SAXException(e);
        }
    }

    private static javax.xml.parsers.DocumentBuilder builder() throws ParserConfigurationException {
        DocumentBuilderFactory factory = DocumentBuilderFactory.newInstance();
        factory.setNamespaceAware(true);
        factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
        factory.setFeature("http://apache.org/xml/features/disallow-doctype-decl", true);
        factory.setXIncludeAware(false);
        factory.setExpandEntityReferences(false);
        return factory.newDocumentBuilder();
    }

    private static String serialise(Document document) throws TransformerException {
        TransformerFactory factory = TransformerFactory.newInstance();
        factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
        Transformer transformer = factory.newTransformer();
        transformer.setOutputProperty(OutputKeys.OMIT_XML_DECLARATION, "yes");
        transformer.setOutputProperty(OutputKeys.ENCODING, StandardCharsets.UTF_8.name());
        StringWriter out = new StringWriter();
        transformer.transform(new DOMSource(document), new StreamResult(out));
        return out.toString();
    }
}
