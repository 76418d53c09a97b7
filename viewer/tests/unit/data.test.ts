import assert from "node:assert/strict";
import { test } from "node:test";
import { deflateSync } from "node:zlib";
import { Arrays, scaled, unfolded } from "../../src/data";

/** What the library's packing does, written down once more. */
function folded(values: number[], components: number): Uint8Array {
  const n = values.length;
  const bytes = new Uint8Array(4 * n);
  values.forEach((v, i) => {
    const step = (v - (i < components ? 0 : (values[i - components] as number))) | 0;
    const f = ((step << 1) ^ (step >> 31)) >>> 0;
    for (let k = 0; k < 4; ++k) bytes[k * n + i] = (f >>> (8 * k)) & 255;
  });
  return bytes;
}

test("arrays come back as they were, over the whole range of numbers", () => {
  const values = [0, 5, -7, 1_000_000, -2_000_000_000, 3, 2_000_000_000, -1, 0];
  for (const components of [1, 3])
    assert.deepEqual([...unfolded(folded(values, components), values.length, components)], values);
});

test("an array that is cut short is refused", () => {
  assert.throws(() => unfolded(new Uint8Array(7), 2, 1), /damaged/);
});

test("what has no value is told from numbers", () => {
  const out = scaled(Int32Array.from([2, -2_000_000_000]), 0.5);
  assert.equal(out[0], 1);
  assert.ok(Number.isNaN(out[1]));
});

test("arrays are inflated once, and missing ones are named", async () => {
  const data = deflateSync(folded([10, 20, 30], 1)).toString("base64");
  const arrays = new Arrays([{ count: 3, components: 1, scale: 0.1, data }]);
  assert.equal(arrays.whole(0), arrays.whole(0));
  assert.deepEqual([...(await arrays.whole(0))], [10, 20, 30]);
  assert.ok(Math.abs(((await arrays.numbers(0))[2] as number) - 3) < 1e-6);
  assert.throws(() => arrays.whole(1), /missing/);
});
