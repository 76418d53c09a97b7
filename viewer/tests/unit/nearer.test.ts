import assert from "node:assert/strict";
import { test } from "node:test";
import { firstSeen } from "../../src/nearer";

const side = (distance: number, looksHere: boolean) => ({ distance, looksHere });
const seen = (...met: ReturnType<typeof side>[]) => firstSeen(met, (one) => one.looksHere, 20);

test("of a sheet's sides the one that looks at the eye is meant, whichever comes first", () => {
  assert.equal(seen(side(5, false), side(5 + 1e-7, true))?.looksHere, true);
  assert.equal(seen(side(5, true), side(5 + 1e-7, false))?.looksHere, true);
});

test("what lies behind is not, though it looks here", () => {
  assert.equal(seen(side(5, false), side(5.01, true))?.distance, 5);
});

test("nothing is met, nothing is seen", () => {
  assert.equal(seen(), undefined);
});
