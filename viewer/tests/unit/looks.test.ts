import assert from "node:assert/strict";
import { test } from "node:test";
import { joined } from "../../src/chart_drawer";
import { commandOf, newPlane, type Scene, tableOf, wordsOf, wordsOfSurface } from "../../src/looks";

const camera = {
  from: [-1, -0.5, 0.25] as [number, number, number],
  towards: [0.1, 0, 1] as [number, number, number],
  zoom: 1.25,
};
const scene: Scene = {
  layout: 2,
  shown: [0, 1, 0, 1],
  against: -1,
  surface: { quantity: "Cp", separation: true, tufts: false, lines: false },
  hidden: ["wheel"],
  translucent: false,
  looks: [
    { ...newPlane(1, "y", 0.25, "total Cp"), lines: true },
    {
      id: 2,
      kind: "smoke",
      on: true,
      form: "rake",
      at: [0, 0, 1],
      size: 0.2,
      count: 12,
      way: "both ways",
      quantity: "",
    },
    { id: 3, kind: "volume", on: false, quantity: "total Cp", level: 0, colour: "" },
  ],
  ranges: { Cp: [-2, 1, 0] },
  camera: null,
};

test("a plane, smoke and a surface have the words of pictures", () => {
  assert.equal(wordsOf(scene.looks[0] as never), "y = 0.25 m, total Cp, lines = 10");
  assert.equal(
    wordsOf(scene.looks[1] as never),
    "from = (0 m, 0 m, 0.8 m), to = (0 m, 0 m, 1.2 m), count = 12, both ways, lines, plain",
  );
  assert.equal(wordsOfSurface(scene.surface), "Cp, separation");
});

test("a scene is a command and a table with all that is on", () => {
  const command = commandOf(scene, ["runs/a", 'runs/"b"'], camera);
  for (const told of [
    'dunefield look "runs/a" "runs/\\"b\\""',
    '--surface "Cp, separation, hide = wheel"',
    '--range "Cp = -2..1"',
    '--view "(-1, -0.5, 0.25)"',
    "--zoom 1.25",
  ])
    assert.ok(command.includes(told), `${told} in ${command}`);
  assert.ok(!command.includes("--volume"), "what is off is not drawn");
  const table = tableOf(scene, "mine", camera);
  assert.ok(table.startsWith('[[picture]]\nname = "mine"\n'));
  assert.ok(table.includes('slice = "y = 0.25 m, total Cp, lines = 10"'));
});

test("lines of different places share one axis, with gaps", () => {
  assert.deepEqual(
    joined([
      { x: [0, 2], y: [1, 3] },
      { x: [1], y: [5] },
    ]),
    [
      [0, 1, 2],
      [1, null, 3],
      [null, 5, null],
    ],
  );
});
