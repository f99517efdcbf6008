package org.rainsieve.benchmarks;

import java.nio.ByteOrder;
import org.rainsieve.dng.DngReader;
import org.rainsieve.frame.Planes;
import org.rainsieve.frame.RefusedException;
import org.rainsieve.noise.NoiseModel;
import org.rainsieve.scene.CfaDngWriter;
import org.rainsieve.scene.PlainScene;
import org.rainsieve.scene.SimulatedCamera;
import org.rainsieve.source.OpenedFrame;

/** A drawn frame of 24 MP at ISO 6,400. */
final class LargeFrame {
    static final int WIDTH = 6016;
    static final int HEIGHT = 4016;
    static final int ISO = 6400;
    static final SimulatedCamera CAMERA = SimulatedCamera.ONDREL_24;
    static final NoiseModel LAW = CAMERA.noiseAt(ISO);

    private LargeFrame() {}

    static OpenedFrame open() throws RefusedException {
        Planes scene = new PlainScene(WIDTH, HEIGHT, 4).srgb();
        CAMERA.see(scene);
        return DngReader.read(CfaDngWriter.write(
                CAMERA.sensor().expose(scene, LAW.a().get(0), LAW.b().get(0), 3),
                CAMERA.black(),
                new CfaDngWriter.Form(ByteOrder.LITTLE_ENDIAN, 16, true, 256),
                CAMERA.tags(
                        new SimulatedCamera.Shot(ISO, 0.01, 2, "Ondrel 24 mm f/2", 24, "2026-10-03T21:14:05"), true)));
    }
}
