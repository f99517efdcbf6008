package org.rainsieve.learn;

import java.util.List;
import java.util.SplittableRandom;

/** Draws clean patches at random: which picture, where, how sharp, how exposed, under which light. */
final class CleanPatches {
    private static final int DRAWN_PX = 160;

    private final List<Photographs.Picture> pictures;
    private final int size;

    CleanPatches(List<Photographs.Picture> pictures, int size) {
        this.pictures = pictures.stream()
                .filter(p -> p.width() > size && p.height() > size)
                .toList();
        this.size = size;
    }

    /**
     * @param rgb planar linear RGB of size²
     * @param exposure what light is shown as white
     * @param structure how much of the usual error pictures of its kind leave: even ones next to none
     */
    record Clean(float[] rgb, float exposure, float structure) {}

    /** Share of examples that are even colours, whose means are all there is to learn from them. */
    private static final double EVEN = 0.03;

    private static final float EVEN_STRUCTURE = 0.1f;

    /** @param bright hardly darker than cameras expose */
    Clean next(SplittableRandom random, boolean bright) {
        boolean even = random.nextDouble() < EVEN;
        boolean drawn = even || random.nextDouble() < 0.3;
        float[] clean = even ? DrawnPatches.evenFields(size, random) : drawn ? drawn(random) : cut(random);
        if (!even && random.nextDouble() < 0.15) {
            blur(clean, 0.5 + 2.5 * random.nextDouble() * random.nextDouble());
        }
        double kind = random.nextDouble();
        if (kind < 0.6) {
            mix(clean, random);
        } else if (kind < 0.8) {
            part(clean, 1 + 1.5f * random.nextFloat());
        }
        double stops = drawn ? -3.5 * random.nextDouble() : 0.5 - 4.5 * random.nextDouble();
        float exposure = (float) Math.pow(2, bright ? 0.6 * stops : stops);
        // Scenes that are dark as they are, whose last stops lie in the noise; and such as run far into clipping.
        float scene = 1;
        double light = random.nextDouble();
        if (light < 0.2) {
            scene = (float) Math.pow(2, -4 * random.nextDouble());
        } else if (light < 0.28) {
            scene = (float) Math.pow(2, 2.5 * random.nextDouble());
        }
        float[] cast = {1, 1, 1};
        if (random.nextDouble() < 0.2) {
            cast[0] = (float) Math.pow(2, 2 * random.nextDouble() - 1);
            cast[2] = (float) Math.pow(2, 2 * random.nextDouble() - 1);
        } else if (random.nextDouble() < 0.05) {
            // Lamps of one colour, as on stages.
            for (int c = 0; c < 3; c++) {
                cast[c] = (float) Math.pow(2, -4 * random.nextDouble());
            }
        }
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < size * size; i++) {
                clean[c * size * size + i] *= exposure * scene * cast[c];
            }
        }
        return new Clean(clean, exposure, even ? EVEN_STRUCTURE : 1);
    }

    /** White-balance gains. */
    static float[] gains(SplittableRandom random) {
        float[] gain = {
            (float) Math.pow(2, 0.2 + 1.3 * random.nextDouble()),
            1,
            (float) Math.pow(2, 0.1 + 1.4 * random.nextDouble())
        };
        if (random.nextDouble() < 0.15) {
            gain[0] = (float) Math.pow(2, 2 * random.nextDouble());
            gain[2] = (float) Math.pow(2, 2 * random.nextDouble());
        }
        return gain;
    }

    /** Shot noise a. Most of the work lies where frames are noisy; the rest covers the whole range of sensors. */
    static double shot(SplittableRandom random) {
        return random.nextDouble() < 0.6 ? logUniform(random, 8e-4, 0.03) : logUniform(random, 2e-5, 0.05);
    }

    /** The same for the network of little noise, up to what the other one takes over from. */
    static double littleShot(SplittableRandom random) {
        return random.nextDouble() < 0.65 ? logUniform(random, 7e-4, 5e-3) : logUniform(random, 2e-5, 6e-3);
    }

    /** Read noise b. */
    static double read(double a, SplittableRandom random) {
        return Math.min(6e-3, a * a * logUniform(random, 0.2, 20));
    }

    static double logUniform(SplittableRandom random, double low, double high) {
        return low * Math.pow(high / low, random.nextDouble());
    }

    /** Large ones are put together from several, for drawn things have sizes in pixels. */
    private float[] drawn(SplittableRandom random) {
        if (size <= DRAWN_PX) {
            return DrawnPatches.draw(size, random);
        }
        float[] out = new float[3 * size * size];
        for (int top = 0; top < size; top += DRAWN_PX) {
            for (int left = 0; left < size; left += DRAWN_PX) {
                float[] part = DrawnPatches.draw(DRAWN_PX, random);
                for (int row = 0; row < 3 * DRAWN_PX; row++) {
                    int c = row / DRAWN_PX;
                    int y = top + row % DRAWN_PX;
                    if (y < size) {
                        System.arraycopy(
                                part,
                                row * DRAWN_PX,
                                out,
                                (c * size + y) * size + left,
                                Math.min(DRAWN_PX, size - left));
                    }
                }
            }
        }
        return out;
    }

    private float[] cut(SplittableRandom random) {
        // By area, so that every pixel of every picture is as likely.
        long total =
                pictures.stream().mapToLong(p -> (long) p.width() * p.height()).sum();
        long pick = random.nextLong(total);
        Photographs.Picture picture = pictures.get(0);
        for (Photographs.Picture candidate : pictures) {
            picture = candidate;
            pick -= (long) candidate.width() * candidate.height();
            if (pick < 0) {
                break;
            }
        }
        float[] best = null;
        double bestBusy = -1;
        // The busiest of several places: skies and blurred backgrounds fill most photographs and teach little; but
        // water and fur
        // in the dark are smooth as well, and are shown too.
        int places = random.nextDouble() < 0.2 ? 1 : 2 + random.nextInt(3);
        for (int attempt = 0; attempt < places; attempt++) {
            float[] patch = place(picture, random);
            double busy = busyness(patch);
            if (busy > bestBusy) {
                best = patch;
                bestBusy = busy;
            }
        }
        return best;
    }

    private float[] place(Photographs.Picture picture, SplittableRandom random) {
        int x0 = random.nextInt(picture.width() - size + 1);
        int y0 = random.nextInt(picture.height() - size + 1);
        int turn = random.nextInt(8);
        float[] patch = new float[3 * size * size];
        for (int y = 0; y < size; y++) {
            for (int x = 0; x < size; x++) {
                int sx = (turn & 1) == 0 ? x : size - 1 - x;
                int sy = (turn & 2) == 0 ? y : size - 1 - y;
                int px = (turn & 4) == 0 ? sx : sy;
                int py = (turn & 4) == 0 ? sy : sx;
                for (int c = 0; c < 3; c++) {
                    patch[(c * size + y) * size + x] = picture.at(x0 + px, y0 + py, c);
                }
            }
        }
        return patch;
    }

    private double busyness(float[] patch) {
        double sum = 0;
        int plane = size * size;
        for (int y = 0; y < size - 1; y += 2) {
            for (int x = 0; x < size - 1; x += 2) {
                int i = plane + y * size + x;
                sum += Math.abs(Math.sqrt(patch[i]) - Math.sqrt(patch[i + 1]))
                        + Math.abs(Math.sqrt(patch[i]) - Math.sqrt(patch[i + size]));
            }
        }
        return sum;
    }

    /** Cameras see colours less apart than a display shows them: mixes the channels by a random share, keeping grey. */
    private void mix(float[] rgb, SplittableRandom random) {
        float[][] m = new float[3][3];
        for (int c = 0; c < 3; c++) {
            float p = random.nextFloat() * 0.35f;
            float q = random.nextFloat() * 0.25f;
            m[c][c] = 1 - p - q;
            m[c][(c + 1) % 3] = p;
            m[c][(c + 2) % 3] = q;
        }
        int plane = size * size;
        for (int i = 0; i < plane; i++) {
            float r = rgb[i];
            float g = rgb[plane + i];
            float b = rgb[2 * plane + i];
            for (int c = 0; c < 3; c++) {
                rgb[c * plane + i] = m[c][0] * r + m[c][1] * g + m[c][2] * b;
            }
        }
    }

    /**
     * Dyes and petals leave one colour next to nothing: takes colours away from their grey, none below black. Where that was not
     * shown, the network gave such colours light they do not have.
     */
    static void part(float[] rgb, float strength) {
        int plane = rgb.length / 3;
        for (int i = 0; i < plane; i++) {
            float grey = (rgb[i] + rgb[plane + i] + rgb[2 * plane + i]) / 3;
            for (int c = 0; c < 3; c++) {
                rgb[c * plane + i] = Math.max(0, grey + strength * (rgb[c * plane + i] - grey));
            }
        }
    }

    private void blur(float[] rgb, double sigma) {
        int radius = (int) Math.ceil(3 * sigma);
        float[] kernel = new float[2 * radius + 1];
        float sum = 0;
        for (int k = -radius; k <= radius; k++) {
            kernel[k + radius] = (float) Math.exp(-k * k / (2 * sigma * sigma));
            sum += kernel[k + radius];
        }
        float[] line = new float[size];
        for (int c = 0; c < 3; c++) {
            for (int pass = 0; pass < 2; pass++) {
                int step = pass == 0 ? 1 : size;
                int next = pass == 0 ? size : 1;
                for (int row = 0; row < size; row++) {
                    int start = c * size * size + row * next;
                    for (int x = 0; x < size; x++) {
                        float value = 0;
                        for (int k = -radius; k <= radius; k++) {
                            value += kernel[k + radius] * rgb[start + Math.min(size - 1, Math.max(0, x + k)) * step];
                        }
                        line[x] = value / sum;
                    }
                    for (int x = 0; x < size; x++) {
                        rgb[start + x * step] = line[x];
                    }
                }
            }
        }
    }
}
