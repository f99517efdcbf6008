package org.rainsieve.learn;

import ai.djl.ndarray.NDArray;
import ai.djl.ndarray.NDManager;
import java.util.Map;

/**
 * One step down. First and last layers and biases after Kingma, Ba 2015 (Adam, β 0.9 and 0.99); the layers between with an
 * orthogonalised momentum (Jordan 2024, five steps of Newton and Schulz with his coefficients; made as large as Adam's steps are
 * after Liu et al. 2025; both from memory), which came down faster here from the same weights on the same examples.
 */
final class Optimiser {
    private static final float MOMENTUM = 0.95f;
    private static final int STEPS = 5;

    private static final double MOST_OF_USUAL = 2;

    /** How large gradients usually are, so far. */
    private double usual;

    /**
     * What one odd example asks for is limited: in a momentum it would lead the weights for twenty steps, and did once, so that
     * training ran away from what it had reached.
     *
     * @return by what the gradients of this step are to be multiplied; NaN where one is no number
     */
    private double limited(Map<String, NDArray> weights) {
        double squares = 0;
        for (NDArray weight : weights.values()) {
            try (NDArray gradient = weight.getGradient();
                    NDArray square = gradient.square();
                    NDArray sum = square.sum()) {
                squares += sum.getFloat();
            }
        }
        double size = Math.sqrt(squares);
        if (!Double.isFinite(size)) {
            return Double.NaN;
        }
        double most = usual == 0 ? size : MOST_OF_USUAL * usual;
        double taken = Math.min(size, most);
        usual = usual == 0 ? size : 0.99 * usual + 0.01 * taken;
        return size > most ? most / size : 1;
    }

    /**
     * @param first means of the gradients, or momenta
     * @param second means of their squares
     * @return false where nothing was learned, for a gradient is no number
     */
    boolean step(
            Map<String, NDArray> weights,
            Map<String, NDArray> first,
            Map<String, NDArray> second,
            NDManager sub,
            long step,
            float rate) {
        float share = (float) limited(weights);
        if (Float.isNaN(share)) {
            // One such step would make all weights none for good. Gradients are added up until they are reset, and
            // nothing times
            // what is no number is none.
            for (NDArray weight : weights.values()) {
                try (NDArray gradient = weight.getGradient().muli(0f);
                        NDArray none = gradient.isNaN()) {
                    gradient.set(none, 0f);
                }
            }
            return false;
        }
        for (Map.Entry<String, NDArray> entry : weights.entrySet()) {
            NDArray weight = entry.getValue();
            NDArray gradient = weight.getGradient();
            gradient.attach(sub);
            gradient.muli(share);
            NDArray m = first.get(entry.getKey());
            NDArray v = second.get(entry.getKey());
            // Whatever is computed from an array goes to that array's manager: theirs is lent out for the step.
            NDManager home = m.getManager();
            m.attach(sub);
            v.attach(sub);
            NDArray change = isBetween(entry.getKey(), weight)
                    ? orthogonal(m.muli(MOMENTUM).addi(gradient).mul(MOMENTUM).add(gradient))
                    : adam(m, v, gradient, step);
            m.attach(home);
            v.attach(home);
            NDArray plain = weight.stopGradient();
            plain.attach(sub);
            plain.subi(change.mul(rate));
            gradient.muli(0f);
        }
        return true;
    }

    private static boolean isBetween(String name, NDArray weight) {
        return weight.getShape().dimension() == 4 && !name.startsWith("first") && !name.startsWith("last");
    }

    private static NDArray adam(NDArray m, NDArray v, NDArray gradient, long step) {
        float correct1 = (float) (1 - Math.pow(0.9, step));
        float correct2 = (float) (1 - Math.pow(0.99, step));
        m.muli(0.9f).addi(gradient.mul(0.1f));
        v.muli(0.99f).addi(gradient.square().mul(0.01f));
        return m.div(correct1).div(v.div(correct2).sqrt().add(1e-8f));
    }

    /** The nearest matrix, nearly, whose rows are orthonormal; a row for each plane out. */
    private static NDArray orthogonal(NDArray of) {
        long rows = of.getShape().get(0);
        long columns = of.getShape().size() / rows;
        NDArray x = of.reshape(rows, columns);
        x = x.div(x.square().sum().sqrt().add(1e-12f));
        for (int k = 0; k < STEPS; k++) {
            NDArray a = x.matMul(x.transpose());
            NDArray b = a.mul(-4.7750f).add(a.matMul(a).mul(2.0315f));
            x = x.mul(3.4445f).add(b.matMul(x));
        }
        return x.mul(0.2f * (float) Math.sqrt(Math.max(rows, columns))).reshape(of.getShape());
    }
}
