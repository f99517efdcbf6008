package org.rainsieve.defect;

import java.io.ByteArrayInputStream;
import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.util.Arrays;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import java.util.zip.DeflaterOutputStream;
import java.util.zip.InflaterInputStream;
import org.rainsieve.file.Sha256;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;

/**
 * Places of photosites that are hot or dead, in the coordinates of the mosaic, in order of rows. Pooled over the frames of
 * one body it tells the body's defects: defects stay where they are, stars and grains of sand move.
 */
public final class DefectMap {
    public static final DefectMap EMPTY = new DefectMap(new int[0]);

    /** More than a sensor has; beyond that it is the picture that is full of points. */
    private static final int MOST = 60_000;

    private static final int BAND = 256;

    /** A defect shows in this share of a body's frames at least, and in this many. (Common practice.) */
    private static final double IN_SHARE = 0.3;

    private static final int IN_FRAMES = 3;

    /** y · 65536 + x, ascending. */
    private final int[] places;

    private DefectMap(int[] places) {
        this.places = places;
    }

    public static DefectMap of(List<int[]> xy) {
        return new DefectMap(xy.stream()
                .mapToInt(place -> place[1] << 16 | place[0])
                .sorted()
                .distinct()
                .toArray());
    }

    /** What a single frame shows. */
    public static DefectMap found(Mosaic mosaic, NoiseModel law, double[] gains) {
        HotPixels hotPixels = new HotPixels(mosaic.pattern(), law, gains);
        int[][] bands = new int[(mosaic.height() + BAND - 1) / BAND][];
        IntStream.range(0, bands.length).parallel().forEach(band -> {
            Region core = new Region(0, band * BAND, mosaic.width(), Math.min(BAND, mosaic.height() - band * BAND));
            Planes planes = new Planes(core.grow(HotPixels.MARGIN), 1);
            mosaic.fill(planes);
            int[][] list = {new int[64]};
            int[] count = {0};
            hotPixels.suspects(planes, (x, y) -> {
                if (count[0] == list[0].length) {
                    list[0] = Arrays.copyOf(list[0], 2 * count[0]);
                }
                list[0][count[0]++] = y << 16 | x;
            });
            bands[band] = Arrays.copyOf(list[0], count[0]);
        });
        int[] all = Arrays.stream(bands).flatMapToInt(Arrays::stream).sorted().toArray();
        return all.length > MOST ? EMPTY : new DefectMap(all);
    }

    /**
     * The defects of a body: what at least three frames and a third of them show. Dark frames show each on its own.
     *
     * @param frames maps of single frames of one body and one size
     * @param darks those of frames without light
     */
    public static DefectMap pooled(List<DefectMap> frames, List<DefectMap> darks) {
        List<DefectMap> judged = darks.isEmpty() ? frames : darks;
        int needed = darks.isEmpty()
                ? (int) Math.max(IN_FRAMES, Math.ceil(IN_SHARE * frames.size()))
                : Math.min(2, darks.size());
        Map<Integer, Integer> seen = new HashMap<>();
        for (DefectMap map : judged) {
            for (int place : map.places) {
                seen.merge(place, 1, Integer::sum);
            }
        }
        return new DefectMap(seen.entrySet().stream()
                .filter(entry -> entry.getValue() >= needed)
                .mapToInt(Map.Entry::getKey)
                .sorted()
                .toArray());
    }

    public int size() {
        return places.length;
    }

    public boolean contains(int x, int y) {
        return Arrays.binarySearch(places, y << 16 | x) >= 0;
    }

    /** Replaces the defects that lie in a region of the mosaic. */
    public void repair(Planes mosaic, HotPixels hotPixels) {
        Region r = mosaic.region();
        int from = Arrays.binarySearch(places, Math.max(0, r.y()) << 16);
        for (int i = from < 0 ? -from - 1 : from; i < places.length && places[i] >> 16 < r.bottom(); i++) {
            hotPixels.replace(mosaic, places[i] & 0xffff, places[i] >> 16);
        }
    }

    public byte[] toBytes() {
        ByteArrayOutputStream bytes = new ByteArrayOutputStream();
        try (DataOutputStream out = new DataOutputStream(new DeflaterOutputStream(bytes))) {
            out.writeInt(places.length);
            for (int place : places) {
                out.writeInt(place);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        return bytes.toByteArray();
    }

    public static DefectMap ofBytes(byte[] bytes) {
        try (DataInputStream in = new DataInputStream(new InflaterInputStream(new ByteArrayInputStream(bytes)))) {
            int[] places = new int[Math.min(in.readInt(), 10 * MOST)];
            for (int i = 0; i < places.length; i++) {
                places[i] = in.readInt();
            }
            return new DefectMap(places);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** SHA-256 of the places, which settings name the map by; empty for an empty map. */
    public String hash() {
        if (places.length == 0) {
            return "";
        }
        ByteBuffer bytes = ByteBuffer.allocate(4 * places.length);
        bytes.asIntBuffer().put(places);
        return Sha256.of(bytes.array());
    }
}
