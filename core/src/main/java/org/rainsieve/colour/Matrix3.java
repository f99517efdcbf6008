package org.rainsieve.colour;

import java.util.Arrays;

/** A 3×3 matrix, row by row. */
public record Matrix3(double[] m) {
    public Matrix3 {
        if (m.length != 9) {
            throw new IllegalArgumentException("A 3×3 matrix has nine numbers, not " + m.length);
        }
    }

    public static Matrix3 of(double... numbers) {
        return new Matrix3(numbers);
    }

    public static Matrix3 identity() {
        return of(1, 0, 0, 0, 1, 0, 0, 0, 1);
    }

    public static Matrix3 diagonal(double... d) {
        return of(d[0], 0, 0, 0, d[1], 0, 0, 0, d[2]);
    }

    public Matrix3 times(Matrix3 other) {
        double[] product = new double[9];
        for (int r = 0; r < 3; r++) {
            for (int c = 0; c < 3; c++) {
                for (int k = 0; k < 3; k++) {
                    product[r * 3 + c] += m[r * 3 + k] * other.m[k * 3 + c];
                }
            }
        }
        return new Matrix3(product);
    }

    public double[] times(double... v) {
        double[] product = new double[3];
        for (int r = 0; r < 3; r++) {
            product[r] = m[r * 3] * v[0] + m[r * 3 + 1] * v[1] + m[r * 3 + 2] * v[2];
        }
        return product;
    }

    public Matrix3 mixedWith(Matrix3 other, double share) {
        double[] sum = new double[9];
        for (int i = 0; i < 9; i++) {
            sum[i] = m[i] * (1 - share) + other.m[i] * share;
        }
        return new Matrix3(sum);
    }

    /** @throws IllegalArgumentException when it cannot be inverted */
    public Matrix3 inverse() {
        double a = m[4] * m[8] - m[5] * m[7];
        double b = m[5] * m[6] - m[3] * m[8];
        double c = m[3] * m[7] - m[4] * m[6];
        double det = m[0] * a + m[1] * b + m[2] * c;
        if (!(Math.abs(det) > 1e-12)) {
            throw new IllegalArgumentException("The colour matrix cannot be inverted: " + Arrays.toString(m));
        }
        return of(
                a / det,
                (m[2] * m[7] - m[1] * m[8]) / det,
                (m[1] * m[5] - m[2] * m[4]) / det,
                b / det,
                (m[0] * m[8] - m[2] * m[6]) / det,
                (m[2] * m[3] - m[0] * m[5]) / det,
                c / det,
                (m[1] * m[6] - m[0] * m[7]) / det,
                (m[0] * m[4] - m[1] * m[3]) / det);
    }

    @Override
    public boolean equals(Object other) {
        return other instanceof Matrix3 matrix && Arrays.equals(matrix.m, m);
    }

    @Override
    public int hashCode() {
        return Arrays.hashCode(m);
    }

    @Override
    public String toString() {
        return Arrays.toString(m);
    }
}
