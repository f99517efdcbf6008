package org.rainsieve.benchmarks;

import java.awt.Color;
import java.awt.Font;
import java.awt.Graphics2D;
import java.awt.RenderingHints;
import java.awt.image.BufferedImage;
import java.io.IOException;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import javax.imageio.ImageIO;
import org.rainsieve.colour.ViewLook;
import org.rainsieve.colour.ViewRendering;
import org.rainsieve.denoise.DenoiseSettings;
import org.rainsieve.denoise.Methods;
import org.rainsieve.frame.CfaPattern;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.Region;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.pipeline.Cancel;
import org.rainsieve.pipeline.DenoiseStep;
import org.rainsieve.pipeline.WorkingMemory;
import org.rainsieve.primitives.Smoothstep;
import org.rainsieve.scene.OwlOnPost;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.scene.SimulatedSensor;

/**
 * Four drawn scenes that methods stumble over, in five columns at 200 %: the noisy frame, each method with nothing kept, the truth.
 * Pixels are 2 × 2 of the picture, so that it can be looked at as it is.
 */
final class ColumnsPicture {
    private static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    private static final int WIDTH = 124;
    private static final int HEIGHT = 92;
    private static final int SIDE = 384;
    private static final int ZOOM = 2;
    private static final int GAP = 6;
    private static final int HEAD = 22;

    /** Linear sRGB of a place. */
    private interface Scene {
        void at(double x, double y, double[] rgb);
    }

    /**
     * @param black of the sensor
     * @param lift stops that all its columns are shown brighter by
     */
    private record Row(String words, Planes srgb, int iso, int black, double lift) {}

    private ColumnsPicture() {}

    static void write(Path file) throws IOException {
        List<Row> rows = List.of(
                new Row(
                        "dark water, ISO 12,800, lifted 3 stops",
                        drawn(ColumnsPicture::water),
                        12_800,
                        CAMERA.black(),
                        4),
                new Row("a clipped edge, ISO 3,200", drawn(ColumnsPicture::board), 3200, CAMERA.black(), 0),
                new Row("black level 0, three stops under, ISO 6,400, lifted 3 stops", feathers(), 6400, 0, 3),
                new Row("a deep red flower, ISO 6,400", drawn(ColumnsPicture::flower), 6400, CAMERA.black(), 0));
        List<String> columns = new ArrayList<>(List.of("as exposed"));
        columns.addAll(Methods.names());
        columns.add("truth");
        int across = ZOOM * WIDTH + GAP;
        int down = ZOOM * HEIGHT + HEAD;
        BufferedImage sheet = new BufferedImage(
                columns.size() * across + GAP, HEAD + rows.size() * down + GAP, BufferedImage.TYPE_INT_RGB);
        Graphics2D g = sheet.createGraphics();
        g.setRenderingHint(RenderingHints.KEY_TEXT_ANTIALIASING, RenderingHints.VALUE_TEXT_ANTIALIAS_ON);
        g.setColor(Color.WHITE);
        g.fillRect(0, 0, sheet.getWidth(), sheet.getHeight());
        g.setColor(Color.DARK_GRAY);
        g.setFont(new Font(Font.SANS_SERIF, Font.BOLD, 13));
        for (int c = 0; c < columns.size(); c++) {
            g.drawString(columns.get(c), GAP + c * across, 15);
        }
        g.setFont(new Font(Font.SANS_SERIF, Font.PLAIN, 12));
        for (int r = 0; r < rows.size(); r++) {
            List<BufferedImage> cells = cells(rows.get(r));
            int top = HEAD + r * down;
            g.drawString(rows.get(r).words, GAP, top + 15);
            for (int c = 0; c < cells.size(); c++) {
                g.drawImage(cells.get(c), GAP + c * across, top + HEAD, ZOOM * WIDTH, ZOOM * HEIGHT, null);
            }
        }
        g.dispose();
        ImageIO.write(sheet, "png", file.toFile());
        System.out.printf(Locale.ROOT, "%s: %d × %d px%n", file, sheet.getWidth(), sheet.getHeight());
    }

    private static List<BufferedImage> cells(Row row) {
        Planes truth = row.srgb;
        CAMERA.see(truth);
        NoiseModel law = CAMERA.noiseAt(row.iso);
        Mosaic mosaic = new SimulatedSensor(CfaPattern.RGGB, row.black, CAMERA.white())
                .expose(truth, law.a().get(0), law.b().get(0), 7);
        List<BufferedImage> cells = new ArrayList<>();
        cells.add(shown(denoised(mosaic, law, false, Methods.QUICK), row.lift));
        for (String method : Methods.names()) {
            cells.add(shown(denoised(mosaic, law, true, method), row.lift));
        }
        for (int c = 0; c < 3; c++) {
            float[] plane = truth.channel(c);
            for (int i = 0; i < plane.length; i++) {
                plane[i] = Math.min(1, plane[i]);
            }
        }
        cells.add(shown(truth, row.lift));
        return cells;
    }

    private static Planes denoised(Mosaic mosaic, NoiseModel law, boolean on, String method) {
        Planes out = new Planes(mosaic.bounds(), 3);
        new DenoiseStep(
                        "columns",
                        mosaic,
                        law,
                        CAMERA.colour().gains(),
                        new DenoiseSettings(on, method, 0, 0),
                        new WorkingMemory(64L << 20),
                        Cancel.NEVER)
                .fill(out);
        return out;
    }

    /** The middle. */
    private static BufferedImage shown(Planes planes, double lift) {
        Region r = planes.region();
        Region middle = new Region(r.x() + (r.width() - WIDTH) / 2, r.y() + (r.height() - HEIGHT) / 2, WIDTH, HEIGHT);
        Planes part = new Planes(middle, 3);
        for (int c = 0; c < 3; c++) {
            for (int y = middle.y(); y < middle.bottom(); y++) {
                System.arraycopy(
                        planes.channel(c),
                        planes.index(middle.x(), y),
                        part.channel(c),
                        part.index(middle.x(), y),
                        WIDTH);
            }
        }
        byte[] rgb = new ViewRendering(CAMERA.colour(), ViewLook.lifted(lift)).render(part);
        BufferedImage image = new BufferedImage(WIDTH, HEIGHT, BufferedImage.TYPE_INT_RGB);
        for (int i = 0; i < WIDTH * HEIGHT; i++) {
            image.setRGB(
                    i % WIDTH,
                    i / WIDTH,
                    (rgb[3 * i] & 255) << 16 | (rgb[3 * i + 1] & 255) << 8 | rgb[3 * i + 2] & 255);
        }
        return image;
    }

    /** Each pixel is the mean of 3 × 3 places, as a photosite has it. */
    private static Planes drawn(Scene scene) {
        Planes planes = new Planes(new Region(0, 0, SIDE, SIDE), 3);
        double[] rgb = new double[3];
        for (int i = 0; i < SIDE * SIDE; i++) {
            for (int k = 0; k < 9; k++) {
                scene.at(i % SIDE + (k % 3 - 1) / 3.0, i / SIDE + (k / 3 - 1) / 3.0, rgb);
                for (int c = 0; c < 3; c++) {
                    planes.channel(c)[i] += (float) (rgb[c] / 9);
                }
            }
        }
        return planes;
    }

    /** A lake at night: slow ripples, and a lamp's broken path. */
    private static void water(double x, double y, double[] rgb) {
        double ripple = Math.sin(0.11 * y + 1.3 * Math.sin(0.021 * x + 0.4) + 0.012 * x)
                + 0.5 * Math.sin(0.27 * y - 0.035 * x + Math.sin(0.05 * x))
                + 0.25 * Math.sin(0.61 * y + 0.11 * x);
        double light = 0.014 * (1 + 0.4 * ripple);
        double path =
                Math.exp(-Math.pow((x - 205 - 7 * Math.sin(0.13 * y)) / 9, 2)) * Smoothstep.at((ripple - 0.5) / 0.9);
        rgb[0] = 0.7 * light + 0.16 * path;
        rgb[1] = 0.95 * light + 0.10 * path;
        rgb[2] = 1.25 * light + 0.03 * path;
    }

    /** A white board brighter than the sensor can tell, wood beside it, and strokes on it. */
    private static void board(double x, double y, double[] rgb) {
        double wood = 0.13
                * (1
                        + 0.35 * Math.sin(0.5 * y + 2 * Math.sin(0.04 * x) + 0.03 * x)
                        + 0.2 * Math.sin(1.7 * y + 0.1 * x));
        double edge = Smoothstep.at((x + 0.13 * y - 205) / 1.5 + 0.5);
        double along = Math.abs(Math.IEEEremainder(x - 0.4 * y, 23)) - 2.2;
        double stroke = (1 - Smoothstep.at(along + 0.5)) * Smoothstep.at(y - 176) * (1 - Smoothstep.at(y - 206));
        double[] board = {1.7, 1.7, 1.75};
        double[] tint = {1.25, 0.95, 0.62};
        for (int c = 0; c < 3; c++) {
            double white = board[c] + stroke * (0.05 - board[c]);
            rgb[c] = wood * tint[c] + edge * (white - wood * tint[c]);
        }
    }

    /** Petals of a red that leaves green and blue next to nothing. */
    private static void flower(double x, double y, double[] rgb) {
        double dx = x - 178;
        double dy = y - 205;
        double radius = Math.hypot(dx, dy);
        double angle = Math.atan2(dy, dx);
        double reach = 74 * (0.72 + 0.28 * Math.abs(Math.cos(3.5 * angle)));
        double petal = 1 - Smoothstep.at((radius - reach) / 1.6 + 0.5);
        double vein = 0.75 + 0.25 * Math.sin(31 * angle + 0.05 * radius) * Math.min(1, radius / 30);
        double light = 0.42 * vein * (0.45 + 0.55 * radius / 74) * (0.8 + 0.2 * Math.cos(7 * angle));
        double heart = 1 - Smoothstep.at((radius - 13) / 1.6 + 0.5);
        double grain = 0.7 + 0.3 * Math.sin(1.1 * x) * Math.sin(1.3 * y);
        double leaf = 0.045 * (1 + 0.4 * Math.sin(0.16 * x + 0.3 * Math.sin(0.2 * y)));
        double[] red = {light, 0.012 * light, 0.03 * light};
        double[] yellow = {0.55 * grain, 0.36 * grain, 0.02};
        double[] green = {0.45 * leaf, leaf, 0.22 * leaf};
        for (int c = 0; c < 3; c++) {
            double under = green[c] + petal * (red[c] - green[c]);
            rgb[c] = under + heart * (yellow[c] - under);
        }
    }

    /** An owl, three stops under; its head is the middle. */
    private static Planes feathers() {
        Planes owl = new OwlOnPost(2).render(720, 480, 0).srgb();
        Planes part = new Planes(new Region(0, 0, SIDE, SIDE), 3);
        for (int c = 0; c < 3; c++) {
            for (int y = 0; y < SIDE; y++) {
                for (int x = 0; x < SIDE; x++) {
                    part.channel(c)[y * SIDE + x] = owl.at(c, x + 158, Math.abs(y - 97)) / 8;
                }
            }
        }
        return part;
    }
}
