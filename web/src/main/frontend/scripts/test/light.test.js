import assert from "node:assert/strict";
import test from "node:test";
import { meanLight } from "../lib/light.js";

test("light is the mean of light, not of what a display is told", () => {
  const [red, green, blue] = meanLight([188, 118, 99, 255, 188, 118, 99, 255]);
  // sRGB 188, 118 and 99 are 50.3, 18.1 and 12.5 % of white.
  assert.ok(Math.abs(red - 0.503) < 0.002 && Math.abs(green - 0.181) < 0.002 && Math.abs(blue - 0.125) < 0.002);
  assert.ok(meanLight([0, 100, 0, 255, 200, 100, 200, 255])[0] > 0.28);
});

test("what is black or clipped tells no white", () => {
  assert.equal(meanLight([255, 128, 128, 255]), null);
  assert.equal(meanLight([128, 128, 2, 255]), null);
});
