// Light behind the bytes of a display picture.

/** IEC 61966-2-1. */
const decoded = (byte) => {
  const v = byte / 255;
  return v <= 0.04045 ? v / 12.92 : Math.pow((v + 0.055) / 1.055, 2.4);
};

const DARKEST = 0.002;
const BRIGHTEST = 0.95;

/**
 * The mean light of each colour; null where one is too dark to tell, or clipped.
 *
 * @param rgba bytes of some pixels, one after another
 */
export function meanLight(rgba) {
  const sums = [0, 0, 0];
  for (let i = 0; i < rgba.length; i += 4) for (let c = 0; c < 3; c++) sums[c] += decoded(rgba[i + c]);
  const means = sums.map((sum) => sum / (rgba.length / 4));
  return means.some((mean) => mean < DARKEST || mean > BRIGHTEST) ? null : means;
}
