import assert from "node:assert/strict";
import test from "node:test";
import { apply, fitted, levelling, moved, multiply, placed, resized, rotation, unapply, upright, withAspect } from "../lib/geometry.js";

const near = (a, b, most = 1e-9) => a.forEach((v, i) => assert.ok(Math.abs(v - b[i]) <= most, `${a} is not ${b}`));

test("what lies at the upper left of a stored picture, by TIFF 6.0's table of tag 274", () => {
  // Where row 0 and column 0 of what is stored are seen: top left, top right, bottom right, bottom left, then the turned ones.
  const corners = { 1: [0, 0], 2: [30, 0], 3: [30, 20], 4: [0, 20], 5: [0, 0], 6: [20, 0], 7: [20, 30], 8: [0, 30] };
  for (const [orientation, corner] of Object.entries(corners)) near(apply(upright(Number(orientation), 30, 20), 0, 0), corner);
});

test("every turn has its way back", () => {
  for (let o = 1; o <= 8; o++) {
    const m = multiply(upright(o, 300, 200), rotation(7.3, 300, 200));
    near(unapply(m, ...apply(m, 17, 93)), [17, 93], 1e-9);
  }
});

test("a positive turn goes clockwise as seen, about the middle", () => {
  near(apply(rotation(90, 200, 100), 200, 50), [100, 150]);
  near(apply(rotation(12, 200, 100), 100, 50), [100, 50]);
});

test("a crop stays in the frame and keeps its size when moved", () => {
  const crop = { left: 0.5, top: 0.5, width: 0.4, height: 0.3 };
  assert.deepEqual(moved(crop, 0.9, -0.9), { left: 0.6, top: 0, width: 0.4, height: 0.3 });
});

test("an edge drawn with an aspect moves the other side about its middle", () => {
  const crop = { left: 0.2, top: 0.3, width: 0.4, height: 0.4 };
  const wider = resized(crop, { right: true }, 0.1, 0, 1);
  near([wider.left, wider.top, wider.width, wider.height], [0.2, 0.25, 0.5, 0.5]);
  const lower = resized(crop, { bottom: true }, 0, -0.2, 1);
  near([lower.left, lower.top, lower.width, lower.height], [0.3, 0.3, 0.2, 0.2]);
});

test("a corner drawn with an aspect keeps the opposite one, within the frame", () => {
  const crop = { left: 0.5, top: 0.5, width: 0.2, height: 0.2 };
  const out = resized(crop, { right: true, bottom: true }, 9, 9, 2);
  near([out.left, out.top, out.width / out.height], [0.5, 0.5, 2]);
  assert.ok(out.left + out.width <= 1 + 1e-9);
});

test("an aspect is taken about the middle", () => {
  const square = withAspect({ left: 0.1, top: 0.1, width: 0.8, height: 0.4 }, 1);
  near([square.left, square.top, square.width, square.height], [0.3, 0.1, 0.4, 0.4]);
});

test("a turned crop holds nothing from outside the frame", () => {
  const crop = { left: 0, top: 0, width: 1, height: 1 },
    W = 600,
    H = 400;
  const fit = fitted(crop, 5, W, H);
  assert.ok(fit.width > 0.8 && fit.width < 0.95);
  for (const i of [0, 1])
    for (const j of [0, 1]) {
      const [x, y] = unapply(rotation(5, W, H), (fit.left + i * fit.width) * W, (fit.top + j * fit.height) * H);
      assert.ok(x >= -0.01 && y >= -0.01 && x <= W + 0.01 && y <= H + 0.01);
    }
});

test("a line along a horizon that falls to the right by 3° turns the picture back by 3°, a mast as well", () => {
  const rad = (3 * Math.PI) / 180;
  near([levelling(Math.cos(rad), Math.sin(rad))], [-3]);
  near([levelling(-Math.cos(rad), -Math.sin(rad))], [-3]);
  near([levelling(-Math.sin(rad), Math.cos(rad))], [-3]);
});

test("a place of the frame in the picture of its crop", () => {
  near(placed(0.5, 0.5, { left: 0.25, top: 0.25, width: 0.5, height: 0.5 }, 0, 600, 400), [0.5, 0.5]);
  near(placed(0.25, 0.75, { left: 0.25, top: 0.25, width: 0.5, height: 0.5 }, 0, 600, 400), [0, 1]);
});
