package org.rainsieve.scene;

import java.nio.ByteOrder;
import java.util.Locale;
import org.rainsieve.frame.Mosaic;
import org.rainsieve.frame.Planes;
import org.rainsieve.noise.NoiseModel;

/** Plain test pictures as files of made-up cameras, the same bytes every time. */
public final class PlainFrames {
    /** Of a scene without lamps. */
    private static final float BRIGHTEST = 0.45f;

    private PlainFrames() {}

    /** One frame as a DNG file of that camera. */
    public static byte[] frame(SimulatedCamera camera, int iso, int width, int height, int number) {
        return frame(camera, iso, iso, width, height, number);
    }

    /** @param noiseIso the ISO whose noise it really has */
    public static byte[] frame(SimulatedCamera camera, int iso, int noiseIso, int width, int height, int number) {
        return frame(camera, iso, noiseIso, new PlainScene(width, height, number).srgb(), number);
    }

    /** One of a scene without lamps, exposed too low by so many stops. */
    public static byte[] underexposed(
            SimulatedCamera camera, int iso, double stops, int width, int height, int number) {
        Planes picture = new PlainScene(width, height, number).srgb();
        float share = (float) Math.pow(2, -stops);
        for (int c = 0; c < 3; c++) {
            for (int i = 0; i < picture.channel(c).length; i++) {
                picture.channel(c)[i] = share * Math.min(BRIGHTEST, picture.channel(c)[i]);
            }
        }
        return frame(camera, iso, iso, picture, number);
    }

    private static byte[] frame(SimulatedCamera camera, int iso, int noiseIso, Planes picture, int number) {
        camera.see(picture);
        NoiseModel noise = camera.noiseAt(noiseIso);
        Mosaic mosaic =
                camera.sensor().expose(picture, noise.a().get(0), noise.b().get(0), 1000L + number);
        String time = String.format(Locale.ROOT, "2026-10-03T21:%02d:%02d", (10 + number) % 60, 7 * number % 60);
        SimulatedCamera.Shot shot = new SimulatedCamera.Shot(iso, 1.0 / 80, 5, "Ondrel 380 mm f/5", 380, time);
        return CfaDngWriter.write(
                mosaic,
                camera.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                camera.tags(shot, number % 2 == 0));
    }
}
