package org.rainsieve.dng;

import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.io.StringWriter;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
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
    private static final String ST_REF = "http://ns.adobe.com/xap/1.0/sType/ResourceRef#";
    private static final String ST_EVT = "http://ns.adobe.com/xap/1.0/sType/ResourceEvent#";

    /** Not carried on: develop settings, history of the original's file, and what EXIF says already. */
    private static final Set<String> LEFT_OUT = Set.of(
            NAMESPACE,
            XMP_MM,
            RDF,
            XMLConstants.XMLNS_ATTRIBUTE_NS_URI,
            "http://ns.adobe.com/exif/1.0/",
            "http://ns.adobe.com/tiff/1.0/",
            "http://ns.adobe.com/exif/1.0/aux/");

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
     * @param when time of making, ISO 8601
     */
    public static String ofReturn(
            List<byte[]> originals,
            boolean edits,
            Map<String, String> properties,
            String originalName,
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
            Element derived = document.createElementNS(XMP_MM, "xmpMM:DerivedFrom");
            derived.setAttributeNS(RDF, "rdf:parseType", "Resource");
            text(document, derived, ST_REF, "stRef:documentID", "sha256:" + properties.get("OriginalSha256"));
            text(document, derived, ST_REF, "stRef:filePath", originalName);
            description.appendChild(derived);
            Element history = document.createElementNS(XMP_MM, "xmpMM:History");
            Element sequence = document.createElementNS(RDF, "rdf:Seq");
            Element entry = document.createElementNS(RDF, "rdf:li");
            entry.setAttributeNS(RDF, "rdf:parseType", "Resource");
            text(document, entry, ST_EVT, "stEvt:action", "derived");
            text(document, entry, ST_EVT, "stEvt:softwareAgent", software);
            text(document, entry, ST_EVT, "stEvt:when", when);
            sequence.appendChild(entry);
            history.appendChild(sequence);
            description.appendChild(history);
            return "<?xpacket begin=\"\uFEFF\" id=\"W5M0MpCehiHzreSzNTczkc9d\"?>\n"
                    + serialise(document)
                    + "\n"
                    + " ".repeat(512)
                    + "\n<?xpacket end=\"w\"?>";
        } catch (ParserConfigurationException | TransformerException e) {
            throw new IllegalStateException(e);
        }
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
        for (int i = 0; i < descriptions.getLength(); i++) {
            Element from = (Element) descriptions.item(i);
            if (!"RDF".equals(from.getParentNode().getLocalName())) {
                continue;
            }
            for (int k = 0; k < from.getAttributes().getLength(); k++) {
                Attr attribute = (Attr) from.getAttributes().item(k);
                if (carried(attribute, edits)) {
                    remove(attribute, description);
                    description.setAttributeNodeNS((Attr) document.importNode(attribute, true));
                }
            }
            for (Node child = from.getFirstChild(); child != null; child = child.getNextSibling()) {
                if (child instanceof Element && carried(child, edits)) {
                    remove(child, description);
                    description.appendChild(document.importNode(child, true));
                }
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
        int end = packet.length;
        while (end > 0 && (packet[end - 1] == 0 || packet[end - 1] == ' ' || packet[end - 1] == '\n')) {
            end--;
        }
        if (end > LARGEST_PACKET) {
            throw new SAXException("The packet is larger than " + (LARGEST_PACKET >> 20) + " MiB");
        }
        checkDepth(packet, end);
        javax.xml.parsers.DocumentBuilder builder = builder();
        builder.setErrorHandler(new DefaultHandler()); // what is wrong with a packet is nobody's news
        return builder.parse(new ByteArrayInputStream(packet, 0, end));
    }

    /** What reads a document calls itself for each element inside another: so deep a one would take its thread down. */
    private static void checkDepth(byte[] packet, int end) throws SAXException {
        try {
            XMLInputFactory factory = XMLInputFactory.newDefaultFactory();
            factory.setProperty(XMLInputFactory.SUPPORT_DTD, false);
            factory.setProperty(XMLInputFactory.IS_SUPPORTING_EXTERNAL_ENTITIES, false);
            XMLStreamReader reader = factory.createXMLStreamReader(new ByteArrayInputStream(packet, 0, end));
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
