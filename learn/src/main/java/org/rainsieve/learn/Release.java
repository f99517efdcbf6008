package org.rainsieve.learn;

import java.io.IOException;
import java.nio.file.Path;

/** Writes the network of one ONNX file anew, with today's shapes: from the training's folder to where it ships. */
final class Release {
    private Release() {}

    public static void main(String[] args) throws IOException {
        Form form = Form.of(args[2]);
        OnnxFile.write(form, Path.of(args[1]), OnnxFile.readWeights(Path.of(args[0])), new Network(form, 0).shapes());
    }
}
