package org.rainsieve.tiff;

/** Field types of TIFF 6.0, section 2, and IFD of TIFF technical note 1. */
public final class TiffType {
    public static final int BYTE = 1;
    public static final int ASCII = 2;
    public static final int SHORT = 3;
    public static final int LONG = 4;
    public static final int RATIONAL = 5;
    public static final int SBYTE = 6;
    public static final int UNDEFINED = 7;
    public static final int SSHORT = 8;
    public static final int SLONG = 9;
    public static final int SRATIONAL = 10;
    public static final int FLOAT = 11;
    public static final int DOUBLE = 12;
    public static final int IFD = 13;

    private static final int[] SIZES = {0, 1, 1, 2, 4, 8, 1, 1, 2, 4, 8, 4, 8, 4};

    private TiffType() {}

    /** Bytes of one value, or 0 for a type that is not known. */
    public static int size(int type) {
        return type > 0 && type < SIZES.length ? SIZES[type] : 0;
    }
}
