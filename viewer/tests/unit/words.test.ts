import assert from "node:assert/strict";
import { test } from "node:test";
import { differenceInWords, speedInWords, withInterval } from "../../src/words";

test("a mean has the digits that its uncertainty leaves", () => {
  assert.equal(withInterval(0.28153, 0.00123), "0.2815 \u00b1 0.0012");
  assert.equal(withInterval(46.18, 1.9), "46.2 \u00b1 1.9");
  assert.equal(withInterval(0.28153, 0), "0.2815");
  assert.equal(withInterval(null, null), "\u2013");
});

test("differences carry their sign", () => {
  assert.equal(differenceInWords(-0.0121, 0.0034), "\u22120.0121 \u00b1 0.0034");
  assert.equal(differenceInWords(0.02, null), "+0.0200");
});

test("speeds are told in km/h", () => {
  assert.equal(speedInWords(25), "90 km/h");
});
