// What an explored view shows, as plain data, and the words that ask for it. They are those of
// docs/guide/pictures.md, so that a picture found by hand can be drawn again from the command line.

export type Place = [number, number, number];
export type Axis = "x" | "y" | "z";

export interface PlaneLook {
  id: number;
  kind: "slice";
  on: boolean;
  axis: Axis;
  at: number; // m
  quantity: string;
  lines: boolean;
  arrows: boolean;
}
export function newPlane(id: number, axis: Axis, at: number, quantity: string): PlaneLook {
  return { id, kind: "slice", on: true, axis, at, quantity, lines: false, arrows: false };
}
export interface SmokeLook {
  id: number;
  kind: "smoke";
  on: boolean;
  form: "ahead" | "vortex" | "stagnation" | "rake" | "circle" | "point";
  at: Place; // m, of rake, circle and point
  size: number; // m, half the rake, or the circle's radius
  count: number;
  way: "forward" | "backward" | "both ways";
  quantity: string; // empty: plain
}
export interface VolumeLook {
  id: number;
  kind: "volume";
  on: boolean;
  quantity: string;
  level: number;
  colour: string; // empty: plain
}
export interface CoresLook {
  id: number;
  kind: "cores";
  on: boolean;
}
export type Look = PlaneLook | SmokeLook | VolumeLook | CoresLook;

export interface SurfaceState {
  quantity: string; // empty: plain
  separation: boolean;
  tufts: boolean;
  lines: boolean;
}
export interface Camera {
  from: Place; // direction from what is seen to the eye
  towards: Place; // m
  zoom: number; // 1: the vehicle and its wake fill the picture
}
export interface Scene {
  layout: 1 | 2 | 4;
  shown: number[]; // run of each pane
  against: number; // run whose values are taken off; -1: none
  surface: SurfaceState;
  hidden: string[];
  translucent: boolean;
  looks: Look[];
  ranges: Record<string, [number, number, number]>; // least, most, steps
  camera: Camera | null;
}

const metres = (v: number) => `${Number(v.toFixed(4))} m`;
const place = (p: Place) => `(${p.map(metres).join(", ")})`;
const moved = (p: Place, up: number): Place => [p[0], p[1], p[2] + up];

export function wordsOfSurface(s: SurfaceState): string {
  const words = [s.quantity || "plain"];
  if (s.separation) words.push("separation");
  if (s.tufts) words.push("tufts");
  if (s.lines && s.quantity) words.push("lines = 10");
  return words.join(", ");
}

export function wordsOf(look: Look): string {
  if (look.kind === "slice") {
    const words = [`${look.axis} = ${metres(look.at)}`, look.quantity];
    if (look.lines) words.push("lines = 10");
    if (look.arrows) words.push("arrows");
    return words.join(", ");
  }
  if (look.kind === "smoke") {
    const words: string[] = [];
    if (look.form === "vortex" || look.form === "stagnation") words.push(look.form);
    if (look.form === "point") words.push(`at = ${place(look.at)}`);
    if (look.form === "circle")
      words.push(`circle = ${place(look.at)}`, `radius = ${metres(look.size)}`);
    if (look.form === "rake")
      words.push(
        `from = ${place(moved(look.at, -look.size))}`,
        `to = ${place(moved(look.at, look.size))}`,
      );
    if (look.form !== "point") words.push(`count = ${look.count}`);
    if (look.way !== "forward") words.push(look.way);
    words.push("lines", look.quantity || "plain");
    return words.join(", ");
  }
  if (look.kind === "volume") {
    const words = [look.quantity, `level = ${Number(look.level.toPrecision(6))}`];
    if (look.colour) words.push(`colour = ${look.colour}`);
    return words.join(", ");
  }
  return "most = 24";
}

function rangesInUse(scene: Scene): [string, string][] {
  return Object.entries(scene.ranges).map(([quantity, [least, most]]) => [
    quantity,
    `${quantity} = ${Number(least.toPrecision(6))}..${Number(most.toPrecision(6))}`,
  ]);
}

function cameraWords(camera: Camera): Record<string, string> {
  const short = (p: Place) => `(${p.map((v) => Number(v.toFixed(4))).join(", ")})`;
  return {
    view: short(camera.from),
    zoom: String(Number(camera.zoom.toPrecision(4))),
    towards: place(camera.towards),
  };
}

const quoted = (text: string) => `"${text.replace(/["\\$`]/g, "\\$&")}"`;
const inToml = (text: string) => `"${text.replace(/["\\]/g, "\\$&")}"`;

/** The line of the tool that draws the same. */
export function commandOf(scene: Scene, folders: string[], camera: Camera): string {
  const runs = scene.shown.slice(0, scene.layout).map((r) => folders[r] ?? "");
  const words = ["dunefield look", ...runs.map(quoted)];
  const hidden = scene.hidden.length > 0 ? `, hide = ${scene.hidden.join(" | ")}` : "";
  words.push(`--surface ${quoted(wordsOfSurface(scene.surface) + hidden)}`);
  for (const look of scene.looks)
    if (look.on) words.push(`--${look.kind} ${quoted(wordsOf(look))}`);
  for (const [, range] of rangesInUse(scene)) words.push(`--range ${quoted(range)}`);
  for (const [key, text] of Object.entries(cameraWords(camera)))
    words.push(`--${key} ${key === "zoom" ? text : quoted(text)}`);
  if (scene.against >= 0) words.push(`--against ${quoted(folders[scene.against] ?? "")}`);
  return words.join(" ");
}

/** The same as a table of a campaign file. */
export function tableOf(scene: Scene, name: string, camera: Camera): string {
  const list = (texts: string[]) =>
    texts.length === 1 ? inToml(texts[0] as string) : `[${texts.map(inToml).join(", ")}]`;
  const lines = ["[[picture]]", `name = ${inToml(name)}`];
  const hidden = scene.hidden.length > 0 ? `, hide = ${scene.hidden.join(" | ")}` : "";
  lines.push(`surface = ${inToml(wordsOfSurface(scene.surface) + hidden)}`);
  for (const kind of ["slice", "smoke", "volume", "cores"]) {
    const texts = scene.looks.filter((l) => l.on && l.kind === kind).map(wordsOf);
    if (texts.length > 0) lines.push(`${kind} = ${list(texts)}`);
  }
  const ranges = rangesInUse(scene).map(([, text]) => text);
  if (ranges.length > 0) lines.push(`range = ${list(ranges)}`);
  for (const [key, text] of Object.entries(cameraWords(camera)))
    lines.push(`${key} = ${key === "zoom" ? text : inToml(text)}`);
  return lines.join("\n");
}
