package org.rainsieve.learn;

import java.io.IOException;
import java.nio.file.Path;
import java.util.Map;

/** Writes the network of one ONNX file anew, with today's layers and shapes: from the training's folder to where it ships. */
final class Release {
    private Release() {}

    public static void main(String[] args) throws IOException {
        Form form = Form.of(args[2]);
        Network network = new Network(form, 0);
        Map<String, float[]> values = network.values();
        values.putAll(OnnxFile.readWeights(Path.of(args[0])));
        OnnxFile.write(form, Path.of(args[1]), values, network.shapes(), EightBits.NONE);
    }
}
