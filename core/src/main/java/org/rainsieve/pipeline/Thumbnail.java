package org.rainsieve.pipeline;

import java.awt.image.BufferedImage;
import java.io.IOException;
import javax.imageio.ImageIO;
import javax.imageio.ImageReadParam;
import javax.imageio.ImageReader;
import org.rainsieve.file.BoundedInput;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.source.OpenedFrame;

/** The small picture of a frame, the right way up. */
public final class Thumbnail {
    private static final int EDGE = 480;
    private static final float QUALITY = 0.85f;
    private static final long MOST_PIXELS = 200_000_000;

    private Thumbnail() {}

    /** Our own rendering, not denoised. */
    public static byte[] of(OpenedFrame frame) {
        ReducedPicture picture = Draft.of(frame.capture(), EDGE);
        return oriented(
                picture.render(frame.colour()),
                picture.width(),
                picture.height(),
                frame.shot().orientation());
    }

    /**
     * From the JPEG that a file holds of itself.
     *
     * @param orientation of the frame, as TIFF has it; such previews are stored as the sensor lies
     * @return null where it cannot be decoded
     */
    public static byte[] ofPreview(byte[] jpeg, int orientation) {
        ImageReader reader = ImageIO.getImageReadersByFormatName("jpeg").next();
        try (BoundedInput in = BoundedInput.of(jpeg)) {
            reader.setInput(in, true, true);
            if ((long) reader.getWidth(0) * reader.getHeight(0) > MOST_PIXELS) {
                return null;
            }
            int step = Math.max(1, Math.max(reader.getWidth(0), reader.getHeight(0)) / EDGE);
            ImageReadParam param = reader.getDefaultReadParam();
            param.setSourceSubsampling(step, step, step / 2, step / 2);
            BufferedImage image = reader.read(0, param);
            int w = image.getWidth();
            int h = image.getHeight();
            int[] pixels = image.getRGB(0, 0, w, h, null, 0, w);
            byte[] rgb = new byte[3 * w * h];
            for (int i = 0; i < pixels.length; i++) {
                rgb[3 * i] = (byte) (pixels[i] >> 16);
                rgb[3 * i + 1] = (byte) (pixels[i] >> 8);
                rgb[3 * i + 2] = (byte) pixels[i];
            }
            return oriented(rgb, w, h, orientation);
        } catch (RefusedException | IOException | RuntimeException e) {
            return null;
        } finally {
            reader.dispose();
        }
    }

    /** TIFF 6.0, tag 274: the number tells where row 0 and column 0 of what is stored belong. */
    private static byte[] oriented(byte[] rgb, int w, int h, int orientation) {
        boolean across = orientation >= 5;
        int width = across ? h : w;
        int height = across ? w : h;
        byte[] out = new byte[rgb.length];
        for (int y = 0; y < height; y++) {
            for (int x = 0; x < width; x++) {
                boolean fromRight = orientation == 2 || orientation == 3 || orientation == 7 || orientation == 8;
                boolean fromBelow = orientation == 3 || orientation == 4 || orientation == 6 || orientation == 7;
                int sx = across ? y : x;
                int sy = across ? x : y;
                int from = ((fromBelow ? h - 1 - sy : sy) * w + (fromRight ? w - 1 - sx : sx)) * 3;
                System.arraycopy(rgb, from, out, (y * width + x) * 3, 3);
            }
        }
        return ReducedPicture.jpeg(out, width, height, QUALITY);
    }
}
