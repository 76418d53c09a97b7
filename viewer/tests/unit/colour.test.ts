import assert from "node:assert/strict";
import { test } from "node:test";
import { colourOf, css, type Rgb, roundMarks, shareOf, shown, unitOf } from "../../src/colour";

const grey: Rgb[] = [
  [0, 0, 0],
  [1, 1, 1],
];

test("colours go evenly over the range and stay at its ends beyond it", () => {
  const range = { least: -1, most: 1, steps: 0 };
  assert.deepEqual(colourOf(0, range, grey), [0.5, 0.5, 0.5]);
  assert.deepEqual(colourOf(-9, range, grey), [0, 0, 0]);
  assert.deepEqual(colourOf(9, range, grey), [1, 1, 1]);
});

test("steps have one colour each", () => {
  const range = { least: 0, most: 1, steps: 5 };
  assert.equal(shareOf(0.01, range), shareOf(0.19, range));
  assert.notEqual(shareOf(0.19, range), shareOf(0.21, range));
  assert.equal(shareOf(1, range), 0.9, "the last step, not one beyond it");
});

test("marks are round and lie inside the range", () => {
  assert.deepEqual(roundMarks(-1, 1, 4), [-1, -0.5, 0, 0.5, 1]);
  assert.deepEqual(roundMarks(0, 1.4, 4), [0, 0.5, 1]);
  assert.deepEqual(roundMarks(0, 0, 4), []);
  for (const m of roundMarks(0.013, 0.0171, 4)) assert.ok(m >= 0.013 && m <= 0.0171);
});

test("numbers are read as people write them", () => {
  assert.equal(shown(-0.25), "\u22120.25");
  assert.equal(shown(1234.5678), "1235");
  assert.equal(shown(Number.NaN), "no value");
  assert.equal(css([1, 0.5, -3]), "rgb(255 128 0)");
  assert.equal(unitOf({ least: 0, most: 1, palette: "dune", title: "wall shear, Pa" }), "Pa");
  assert.equal(unitOf({ least: 0, most: 1, palette: "dune", title: "Cp" }), "");
});
