package org.rainsieve.tiff;

import java.util.ArrayList;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/** The fields of one image file directory by tag, and the directories that hang below it. */
public final class TiffDirectory {
    private final TreeMap<Integer, TiffField> fields = new TreeMap<>();
    private final List<TiffDirectory> subDirectories = new ArrayList<>();
    private TiffDirectory exif;
    private TiffDirectory gps;
    private TiffDirectory interoperability;
    /** By tag: what stands elsewhere in the file, each block with its offset in the field. */
    private final Map<Integer, List<byte[]>> blocks = new TreeMap<>();

    public TiffDirectory put(TiffField field) {
        fields.put(field.tag(), field);
        return this;
    }

    /** The same fields in a directory of its own; what hangs below it is shared. */
    public TiffDirectory copy() {
        TiffDirectory copy = new TiffDirectory();
        copy.fields.putAll(fields);
        copy.subDirectories.addAll(subDirectories);
        copy.blocks.putAll(blocks);
        copy.exif = exif;
        copy.gps = gps;
        copy.interoperability = interoperability;
        return copy;
    }

    public void remove(int tag) {
        fields.remove(tag);
    }

    public boolean has(int tag) {
        return fields.containsKey(tag);
    }

    public Optional<TiffField> field(int tag) {
        return Optional.ofNullable(fields.get(tag));
    }

    public Collection<TiffField> fields() {
        return fields.values();
    }

    public long number(int tag, long otherwise) {
        TiffField field = fields.get(tag);
        if (field == null || field.count() == 0) {
            return otherwise;
        }
        double value = field.asDouble(0);
        return Double.isNaN(value) ? otherwise : (long) value;
    }

    public double real(int tag, double otherwise) {
        TiffField field = fields.get(tag);
        return field == null || field.count() == 0 ? otherwise : field.asDouble(0);
    }

    /** All values of a field as numbers, or an empty array. */
    public double[] numbers(int tag) {
        TiffField field = fields.get(tag);
        return field == null ? new double[0] : field.asDoubles();
    }

    public String text(int tag) {
        TiffField field = fields.get(tag);
        return field == null ? "" : field.asText();
    }

    public List<TiffDirectory> subDirectories() {
        return subDirectories;
    }

    public Optional<TiffDirectory> exif() {
        return Optional.ofNullable(exif);
    }

    public Optional<TiffDirectory> gps() {
        return Optional.ofNullable(gps);
    }

    /** EXIF's own directory of interoperability rules, which hangs below EXIF. */
    public Optional<TiffDirectory> interoperability() {
        return Optional.ofNullable(interoperability);
    }

    public void setInteroperability(TiffDirectory directory) {
        interoperability = directory;
    }

    /** Blocks that hang below a field by their offsets, such as further camera profiles. */
    public Map<Integer, List<byte[]>> blocks() {
        return blocks;
    }

    public void setExif(TiffDirectory directory) {
        exif = directory;
    }

    public void setGps(TiffDirectory directory) {
        gps = directory;
    }
}
