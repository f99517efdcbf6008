import assert from "node:assert/strict";
import test from "node:test";
import { keeps } from "../lib/keys.js";

test("text keeps everything, numbers only what numbers are made of", () => {
  assert.ok(keeps("text", "f") && keeps("number", "5") && keeps("number", "Backspace") && keeps("number", ","));
  for (const key of ["f", "p", "F", " ", "u", "e"]) assert.ok(!keeps("number", key), key);
});

test("after a slider, a box or a list the page's keys work", () => {
  for (const key of ["p", "5", "x", "l"]) for (const kind of ["range", "press", "select"]) assert.ok(!keeps(kind, key), kind + " " + key);
  assert.ok(!keeps("press", " ", false) && !keeps("range", " "), "Space holds the picture before");
  assert.ok(keeps("press", " ", true), "but a box come to by keyboard is ticked by it");
  assert.ok(keeps("range", "ArrowLeft") && keeps("select", "ArrowDown"));
});
