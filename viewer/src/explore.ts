// The page that looks at finished runs: its state is plain data, what it shows is asked for in the
// words of pictures, and the last question counts.
import * as THREE from "three";
import { Asker } from "./asker";
import { ChartDrawer } from "./chart_drawer";
import { type Arrays, unpacked, type ViewData } from "./data";
import { element } from "./dom";
import { ExplorePanel } from "./explore_panel";
import { type Handle, Handles } from "./handles";
import {
  type Axis,
  type Camera,
  type Look,
  newPlane,
  type Place,
  type PlaneLook,
  type Scene,
  type SmokeLook,
  wordsOf,
  wordsOfSurface,
} from "./looks";
import { Toolbar } from "./toolbar";
import { Viewer } from "./viewer";

export interface QuantityTold {
  name: string;
  unit: string;
  vector: boolean;
  in_air: boolean;
  on_wall: boolean;
}
export interface RunTold {
  name: string;
  variant: string;
  condition: string;
  folder: string;
  summary: string;
  quantities: QuantityTold[];
  vehicle: { from: Place; to: Place };
  tunnel: { from: Place; to: Place };
}
export interface RunsTold {
  title: string;
  runs: RunTold[];
}

async function asked(base: string) {
  const answer = await fetch(`${base}runs`);
  if (!answer.ok) throw new Error(await answer.text());
  const told = (await answer.json()) as RunsTold;
  const packed = await fetch(`${base}vehicles`);
  if (!packed.ok) throw new Error(await packed.text());
  return { told, ...unpacked(await packed.arrayBuffer()) };
}

/** What controls are made of: names of runs and of what they have. */
const choicesOf = (told: RunsTold) =>
  JSON.stringify(told.runs.map((r) => [r.name, r.quantities.map((q) => q.name), r.vehicle]));

const axisNumber: Record<Axis, number> = { x: 0, y: 1, z: 2 };

export class Explore {
  readonly scene: Scene;
  readonly viewer: Viewer;
  readonly panel: ExplorePanel;
  private readonly toolbar: Toolbar;
  readonly chart: ChartDrawer;
  private readonly handles: Handles;
  private readonly asker: Asker;
  private past: string[] = [];
  private future: string[] = [];
  private placing = false;
  private playing = 0;
  version = 0; // of the runs: flows that go on are looked at again
  static async open(host: HTMLElement, base: string): Promise<Explore> {
    const { told, data, arrays } = await asked(base);
    return new Explore(host, base, told, data, arrays);
  }

  private constructor(
    host: HTMLElement,
    private readonly base: string,
    public told: RunsTold,
    data: ViewData,
    arrays: Arrays,
  ) {
    this.scene = this.sceneOfAddress() ?? this.firstScene();
    this.panel = new ExplorePanel(this);
    host.replaceChildren();
    this.toolbar = new Toolbar(this);
    this.viewer = new Viewer(host, data, arrays, this.panel, [this.toolbar.host]);
    this.handles = new Handles(this.viewer.stage);
    this.viewer.frame.append(this.handles.host);
    this.asker = new Asker(base, this.viewer, () => this.panel.build());
    this.chart = new ChartDrawer(this);
    this.viewer.frame.parentElement?.append(this.chart.host);
    this.viewer.onPick = (point) => this.placeAt(point);
    this.viewer.ready.then(() => {
      if (this.scene.camera) this.see(this.scene.camera);
      this.panel.build();
      this.refresh();
    });
    window.addEventListener("keydown", (event) => this.key(event));
    this.past.push(JSON.stringify(this.scene));
  }

  get box(): THREE.Box3 {
    const run = this.told.runs[this.scene.shown[0] ?? 0] as RunTold;
    return new THREE.Box3(
      new THREE.Vector3(...run.vehicle.from),
      new THREE.Vector3(...run.vehicle.to),
    );
  }
  private firstScene(): Scene {
    return {
      layout: 1,
      shown: [0, 1, 2, 3].map((i) => i % this.told.runs.length),
      against: -1,
      surface: { quantity: "Cp", separation: false, tufts: false, lines: false },
      hidden: [],
      translucent: false,
      looks: [newPlane(1, "y", 0, "speed ratio")],
      ranges: {},
      camera: null,
    };
  }
  private sceneOfAddress(): Scene | null {
    try {
      const text = decodeURIComponent(window.location.hash.slice(1));
      if (text === "") return null;
      const scene = { ...this.firstScene(), ...(JSON.parse(text) as Scene) };
      scene.shown = scene.shown.map((r) => Math.min(r, this.told.runs.length - 1));
      return scene;
    } catch {
      return null; // somebody's own address: begin anew
    }
  }

  /** The runs have gone on: the same things are shown of them as they are now. */
  async renew() {
    const before = choicesOf(this.told);
    const { told, data, arrays } = await asked(this.base);
    this.told = told;
    ++this.version;
    const all = told.runs.length;
    const chosen = new Set(this.scene.shown).size > 1;
    this.scene.shown = this.scene.shown.map((r, pane) =>
      chosen ? Math.min(r, all - 1) : pane % all,
    );
    if (this.scene.against >= all) this.scene.against = -1;
    await this.viewer.replace(data, arrays);
    if (choicesOf(told) !== before) this.panel.build();
    this.refresh();
    await this.asker.rest();
  }

  /** Until nothing is being asked: for tests. */
  rest(): Promise<void> {
    return this.asker.rest();
  }
  get took(): number[] {
    return this.asker.took;
  }

  /** After a change: what is new is asked for, and it can be undone. */
  changed(step = true) {
    if (step) {
      this.scene.camera = this.camera();
      const text = JSON.stringify(this.scene);
      if (this.past.at(-1) !== text) this.past.push(text);
      this.future = [];
      window.history.replaceState(null, "", `#${encodeURIComponent(text)}`);
      this.panel.build();
    }
    this.refresh();
  }
  undo() {
    if (this.past.length < 2) return;
    this.future.push(this.past.pop() as string);
    this.goTo(this.past.at(-1) as string);
  }
  redo() {
    const next = this.future.pop();
    if (next === undefined) return;
    this.past.push(next);
    this.goTo(next);
  }
  private goTo(text: string) {
    Object.assign(this.scene, JSON.parse(text) as Scene);
    window.history.replaceState(null, "", `#${encodeURIComponent(text)}`);
    if (this.scene.camera) this.see(this.scene.camera);
    this.panel.build();
    this.refresh();
  }

  private runsInView(): number[] {
    return [...new Set(this.scene.shown.slice(0, this.scene.layout))];
  }

  /** Brings the view to what the scene says. */
  refresh() {
    const s = this.viewer.state;
    s.layout = this.scene.layout;
    s.shownRuns = this.scene.shown.slice();
    s.surface = this.scene.surface.quantity;
    s.translucent = this.scene.translucent;
    s.hiddenParts = new Set(this.scene.hidden);
    for (const [quantity, [least, most, steps]] of Object.entries(this.scene.ranges))
      s.ranges.set(quantity, { least, most, steps });
    const keys = new Set<string>();
    for (const run of this.runsInView()) {
      const ask = (key: string, kind: string, words: string) => {
        keys.add(key);
        const against = this.scene.against >= 0 && this.scene.against !== run;
        const question = {
          run,
          kind,
          words,
          ...(against ? { against: this.scene.against } : {}),
          ...(this.version > 0 ? { version: this.version } : {}),
        };
        this.asker.want(key, JSON.stringify(question), run);
      };
      const plain = this.scene.surface.quantity === "Cp" && this.scene.against < 0;
      const words = wordsOfSurface(this.scene.surface);
      if (!plain || words !== "Cp") ask(`surface@${run}`, "surface", words);
      for (const look of this.scene.looks)
        if (look.on) ask(`${look.id}@${run}`, look.kind, wordsOf(look));
    }
    this.asker.keepOnly(keys);
    this.viewer.show();
    this.arrangeHandles();
    this.chart.refresh();
  }

  // Planes and smoke.

  nextId(): number {
    return 1 + Math.max(0, ...this.scene.looks.map((l) => l.id));
  }
  add(look: Look) {
    this.scene.looks.push(look);
    this.changed();
  }
  addPlane(axis: Axis) {
    const { min, max } = this.box;
    const k = axisNumber[axis];
    const at = axis === "x" ? max.x + 0.15 * (max.x - min.x) : axis === "y" ? 0 : 0.5 * max.z;
    const last = this.scene.looks.filter((l): l is PlaneLook => l.kind === "slice").at(-1);
    const place = Number(at.toFixed(k === 1 ? 3 : 2));
    this.add(newPlane(this.nextId(), axis, place, last?.quantity ?? "speed ratio"));
  }
  addSmoke(form: SmokeLook["form"], at: Place = [0, 0, 0]) {
    const size = Number((0.08 * (this.box.max.z - this.box.min.z)).toFixed(3));
    const placed = form === "rake" || form === "circle" || form === "point";
    this.add({
      id: this.nextId(),
      kind: "smoke",
      on: true,
      form,
      at,
      size,
      count: placed ? 12 : 40,
      way: placed ? "both ways" : "forward",
      quantity: "speed ratio",
    });
  }
  remove(look: Look) {
    this.scene.looks = this.scene.looks.filter((l) => l !== look);
    this.changed();
  }
  /** The next click on the vehicle or a plane places smoke there. */
  place(on: boolean) {
    this.placing = on;
    if (on) this.viewer.tell("Click on the vehicle or a plane: smoke goes through that place.");
    this.panel.build();
  }
  get isPlacing(): boolean {
    return this.placing;
  }
  private placeAt(point: THREE.Vector3): boolean {
    if (!this.placing) return false;
    this.placing = false;
    this.addSmoke("rake", point.toArray().map((v) => Number(v.toFixed(3))) as Place);
    return true;
  }
  rangeOfPlane(axis: Axis): [number, number] {
    const { min, max } = this.box;
    const length = max.x - min.x;
    if (axis === "x") return [min.x - 0.3 * length, max.x + length];
    if (axis === "y") return [min.y - 0.2 * length, max.y + 0.2 * length];
    return [0.01, max.z + 0.2 * length];
  }
  moveTo(plane: PlaneLook, at: number, resting: boolean) {
    const [least, most] = this.rangeOfPlane(plane.axis);
    plane.at = Number(Math.min(most, Math.max(least, at)).toFixed(3));
    this.changed(resting);
  }
  /** A plane goes through the car once, as fast as it is answered. */
  async play(plane: PlaneLook) {
    const mine = ++this.playing;
    const [least, most] = this.rangeOfPlane(plane.axis);
    const steps = 60;
    for (let i = 0; i <= steps && this.playing === mine; ++i) {
      this.moveTo(plane, least + (i / steps) * (most - least), i === steps);
      await this.asker.rest();
      await new Promise((next) => setTimeout(next, 30));
    }
  }

  private arrangeHandles() {
    const all: Handle[] = [];
    const middle = this.box.getCenter(new THREE.Vector3());
    for (const look of this.scene.looks) {
      if (!look.on) continue;
      if (look.kind === "slice") {
        const k = axisNumber[look.axis];
        const place = middle.clone().setComponent(k, look.at);
        if (look.axis !== "z") place.z = this.box.max.z * 1.12;
        else place.x = this.box.max.x * 1.25;
        all.push({
          key: String(look.id),
          label: `move the plane ${look.axis} = ${look.at} m`,
          sign: look.axis,
          place,
          along: new THREE.Vector3().setComponent(k, 1),
          moved: (p, resting) => this.moveTo(look, p.getComponent(k), resting),
        });
      } else if (look.kind === "smoke" && ["rake", "circle", "point"].includes(look.form))
        all.push({
          key: String(look.id),
          label: `move the smoke at (${look.at.join(", ")}) m`,
          sign: "\u25cf",
          place: new THREE.Vector3(...look.at),
          along: null,
          moved: (p, resting) => {
            look.at = p.toArray().map((v) => Number(v.toFixed(3))) as Place;
            this.changed(resting);
          },
        });
    }
    this.handles.set(all);
  }

  // The camera as the tool's words have it.

  /** What the tool fits into its picture. */
  private frame(): THREE.Box3 {
    const box = this.box;
    const length = box.max.x - box.min.x;
    box.min.x -= 0.3 * length;
    box.max.x += 0.6 * length;
    box.max.z += 0.1 * (box.max.z - box.min.z);
    return box;
  }
  camera(): Camera {
    const { from, towards, half } = this.viewer.stage.sight();
    return {
      from: from.toArray() as Place,
      towards: towards.toArray() as Place,
      zoom: this.fitted(from) / half,
    };
  }
  private fitted(from: THREE.Vector3): number {
    const aspect = 1280 / 720; // of the tool's picture, its legend left out
    const [up, across] = this.viewer.stage.extent(from, this.frame());
    return 0.5 * Math.max(up, across / aspect);
  }
  private see(camera: Camera) {
    const from = new THREE.Vector3(...camera.from);
    this.viewer.stage.setSight(
      from,
      new THREE.Vector3(...camera.towards),
      this.fitted(from) / camera.zoom,
    );
  }

  async askChart(words: string): Promise<unknown> {
    const answer = await fetch(`${this.base}chart`, {
      method: "POST",
      body: JSON.stringify({ runs: this.runsInView(), words }),
    });
    if (!answer.ok) throw new Error(await answer.text());
    return answer.json();
  }

  private key(event: KeyboardEvent) {
    if ((event.ctrlKey || event.metaKey) && event.key === "z") {
      event.preventDefault();
      if (event.shiftKey) this.redo();
      else this.undo();
      return;
    }
    const typing = event.target instanceof HTMLElement && event.target.matches("input, select");
    const views = ["three-quarter", "front", "rear", "left", "right", "top", "below"];
    const view = views[Number(event.key) - 1];
    if (typing || event.ctrlKey || event.altKey || !view) return;
    this.viewer.lookFrom(view);
  }
}

export async function explore(host: HTMLElement, base: string): Promise<Explore | null> {
  host.replaceChildren(element("p", { role: "status" }, "Opening the runs ..."));
  try {
    return await Explore.open(host, base);
  } catch (error) {
    host.replaceChildren(
      element("p", { role: "alert" }, `The runs cannot be shown: ${(error as Error).message}`),
    );
    return null;
  }
}
