// The 3-D view: which runs stand in its panes, what of them is shown, in which colours; its
// controls; what lies under the pointer.
import * as THREE from "three";
import { type Range, type Rgb, shown, unitOf } from "./colour";
import { Arrays, type Item, type Kind, type ViewData } from "./data";
import { element } from "./dom";
import { legend } from "./legend";
import { Panel } from "./panel";
import { lines, type Paint, paletteTexture, type Shape, sheet } from "./shapes";
import { namedViews, Stage } from "./stage";

export interface ViewState {
  layout: 1 | 2 | 4;
  shownRuns: number[]; // of each pane
  surface: string; // quantity on the vehicle; empty: plain
  air: string; // quantity of slices
  hiddenParts: Set<string>;
  shownThings: Set<string>; // "slice/slice y = 0 m"
  translucent: boolean;
  ranges: Map<string, Range>;
  view: string;
  measuring: boolean;
  measured: THREE.Vector3[];
}

const thing = (item: Item) => `${item.kind}/${item.name}`;

/** The controls beside the view, made anew from its state. */
export interface Controls {
  host: HTMLElement;
  build(): void;
}

export class Viewer {
  readonly state: ViewState;
  readonly stage: Stage;
  private arrays: Arrays;
  private shapes = new Map<Item, Promise<Shape>>();
  private textures = new Map<string, THREE.Texture>();
  private panes: { scene: THREE.Scene; shapes: Shape[] }[] = [];
  private readonly legends = element("div", { class: "legends" });
  private readonly labels = element("div", { class: "pane-labels", "aria-hidden": "true" });
  private readonly status = element("output", { class: "view-status", "aria-live": "polite" });
  private readonly panel: Controls;
  private readonly looked = new Map<string, Item[]>(); // what was asked for, by its key
  private readonly sources = new Map<Item, Arrays>(); // of those
  /** Told of a click on something; true: it was taken. */
  onPick: (point: THREE.Vector3) => boolean = () => false;
  readonly frame = element("div", { class: "view-frame" });
  private generation = 0;
  ready: Promise<void> = Promise.resolve();

  constructor(
    private readonly host: HTMLElement,
    public data: ViewData,
    arrays?: Arrays,
    controls?: Controls,
    above: HTMLElement[] = [],
  ) {
    this.arrays = arrays ?? new Arrays(data.arrays);
    this.panel = controls ?? new Panel(this);
    this.state = {
      layout: 1,
      shownRuns: this.startingRuns(),
      surface: this.quantitiesOf("vehicle")[0] ?? "",
      air: this.quantitiesOf("slice")[0] ?? "",
      hiddenParts: new Set(),
      shownThings: new Set(),
      translucent: false,
      ranges: new Map(),
      view: "three-quarter",
      measuring: false,
      measured: [],
    };
    const first = this.names("smoke")[0];
    const slice = this.names("slice")[0];
    if (first) this.state.shownThings.add(`smoke/${first}`);
    else if (slice) this.state.shownThings.add(`slice/${slice}`);
    this.takeRanges();
    const canvasHost = element("div", { class: "view-canvas" });
    this.frame.append(canvasHost, this.labels, this.legends);
    host.append(
      element(
        "div",
        { class: "view" },
        this.panel.host,
        element("div", { class: "view-stage" }, ...above, this.frame, this.status),
      ),
    );
    this.stage = new Stage(canvasHost);
    this.stage.canvas.setAttribute(
      "aria-label",
      "3-D view of the vehicle. Arrow keys turn it, plus and minus zoom.",
    );
    this.stage.onLight = (light) => {
      for (const { shapes } of this.panes) for (const s of shapes) s.setLight(light);
    };
    this.stage.onResized = () => this.placeLabels();
    this.listen();
    this.paper();
    window
      .matchMedia("(prefers-color-scheme: dark)")
      .addEventListener("change", () => this.paper());
    this.panel.build();
    this.show();
    this.ready.then(() => this.lookFrom(this.state.view));
  }

  /** Other data, the same view: what a run that goes on has come to. */
  replace(data: ViewData, arrays: Arrays) {
    const before = this.data.items.map((item) => this.shapes.get(item));
    for (const item of this.data.items) this.shapes.delete(item);
    this.data = { ...data, scales: { ...this.data.scales, ...data.scales } };
    this.arrays = arrays;
    this.state.shownRuns = this.state.shownRuns.map((r) => Math.min(r, data.runs.length - 1));
    this.takeRanges();
    return this.show().then(() => {
      for (const made of before) made?.then((s) => s.dispose());
    });
  }

  /** Puts an answer in the place of what stood under its key; nothing: takes that away. */
  setLook(key: string, answer: { data: ViewData; arrays: Arrays } | null, run = 0) {
    const before = (this.looked.get(key) ?? []).map((item) => this.shapes.get(item));
    for (const item of this.looked.get(key) ?? []) {
      this.shapes.delete(item);
      this.sources.delete(item);
    }
    this.looked.delete(key);
    if (answer) {
      for (const item of answer.data.items) {
        item.run = run;
        item.asked = true;
        this.sources.set(item, answer.arrays);
      }
      this.looked.set(key, answer.data.items);
      for (const [name, s] of Object.entries(answer.data.scales)) {
        this.data.scales[name] = s;
        if (!this.state.ranges.has(name))
          this.state.ranges.set(name, { least: s.least, most: s.most, steps: 0 });
      }
    }
    return this.show().then(() => {
      for (const made of before) made?.then((s) => s.dispose());
    });
  }
  has(key: string): boolean {
    return this.looked.has(key);
  }
  private items(): Item[] {
    const asked = [...this.looked.values()].flat();
    // Vehicles that were asked for stand in the places of those that came first.
    const replaced = new Set(asked.filter((i) => i.kind === "vehicle").map((i) => i.run));
    return [
      ...this.data.items.filter((i) => i.kind !== "vehicle" || !replaced.has(i.run)),
      ...asked,
    ];
  }

  private takeRanges() {
    for (const [name, s] of Object.entries(this.data.scales))
      if (!this.state.ranges.has(name))
        this.state.ranges.set(name, { least: s.least, most: s.most, steps: 0 });
  }

  private startingRuns(): number[] {
    // The runs that have most to show, the first of them first.
    const count = this.data.runs.map((_, r) => this.data.items.filter((i) => i.run === r).length);
    const most = Math.max(...count);
    const rich = count.flatMap((c, r) => (c >= 0.6 * most ? [r] : []));
    const all = [...rich, ...count.map((_, r) => r).filter((r) => !rich.includes(r))];
    return [0, 1, 2, 3].map((i) => all[i % all.length] as number);
  }

  names(kind: Kind): string[] {
    const found = new Set<string>();
    for (const item of this.data.items) if (item.kind === kind) found.add(item.name);
    return [...found];
  }
  quantitiesOf(kind: Kind): string[] {
    const found = new Set<string>();
    for (const item of this.data.items)
      if (item.kind === kind) for (const q of Object.keys(item.values)) found.add(q);
    return [...found];
  }

  private palette(quantity: string): Rgb[] {
    const name = this.data.scales[quantity]?.palette ?? "dune";
    return this.data.palettes[name] as Rgb[];
  }
  private paintFor(quantity: string): Paint | null {
    const range = this.state.ranges.get(quantity);
    const scale = this.data.scales[quantity];
    if (!range || !scale) return null;
    let texture = this.textures.get(scale.palette);
    if (!texture) {
      texture = paletteTexture(this.palette(quantity));
      this.textures.set(scale.palette, texture);
    }
    return { quantity, range, palette: this.palette(quantity), texture };
  }
  private quantityOf(item: Item): string {
    if (item.kind === "vehicle") return this.state.surface;
    if (item.kind === "slice" && !item.asked) return this.state.air;
    return Object.keys(item.values)[0] ?? "";
  }
  private isShown(item: Item): boolean {
    if (item.asked && item.kind !== "vehicle") return true;
    return item.kind === "vehicle"
      ? !this.state.hiddenParts.has(item.name)
      : this.state.shownThings.has(thing(item));
  }

  /** Puts what the state asks for into the panes. */
  show(): Promise<void> {
    this.ready = this.put(++this.generation);
    return this.ready;
  }
  private async put(generation: number) {
    const made: { scene: THREE.Scene; shapes: Shape[] }[] = [];
    for (let pane = 0; pane < this.state.layout; ++pane) {
      const run = this.state.shownRuns[pane] as number;
      const scene = new THREE.Scene();
      const shapes: Shape[] = [];
      for (const item of this.items()) {
        if (item.run !== run || !this.isShown(item)) continue;
        let wanted = this.shapes.get(item);
        if (!wanted) {
          const arrays = this.sources.get(item) ?? this.arrays;
          wanted = item.lines ? lines(item, arrays) : sheet(item, arrays);
          this.shapes.set(item, wanted);
        }
        const shape = await wanted;
        await shape.paint(this.paintFor(this.quantityOf(item)));
        if (item.kind === "vehicle")
          shape.setOpacity(this.state.translucent ? 0.35 : (item.opacity ?? 1));
        shapes.push(shape);
      }
      made.push({ scene, shapes });
    }
    if (generation !== this.generation) return; // something newer is on its way
    // Opaque things first; a run in two panes is one object that cannot stand in two scenes.
    const taken = new Set<THREE.Object3D>();
    for (const { scene, shapes } of made)
      for (const s of shapes) {
        scene.add(taken.has(s.object) ? s.object.clone() : s.object);
        taken.add(s.object);
      }
    this.panes = made;
    this.stage.setPanes(made.map((m) => m.scene));
    this.describe();
  }

  private describe() {
    this.labels.replaceChildren(
      ...this.panes.map((_, pane) =>
        element("span", {}, this.data.runs[this.state.shownRuns[pane] as number]?.name ?? ""),
      ),
    );
    this.placeLabels();
    const quantities = new Set<string>();
    for (const { shapes } of this.panes)
      for (const s of shapes) {
        const q = this.quantityOf(s.item);
        if (q && s.item.values[q] !== undefined) quantities.add(q);
      }
    this.legends.replaceChildren(
      ...[...quantities].map((q) =>
        legend(this.data.scales[q]?.title ?? q, this.state.ranges.get(q) as Range, this.palette(q)),
      ),
    );
  }

  private placeLabels() {
    const [columns, rows] = this.stage.grid();
    [...this.labels.children].forEach((label, pane) => {
      if (!(label instanceof HTMLElement)) return;
      label.style.left = `calc(${(100 * (pane % columns)) / columns}% + 10px)`;
      label.style.top = `calc(${(100 * Math.floor(pane / columns)) / rows}% + 8px)`;
    });
  }

  lookFrom(name: string) {
    const direction = namedViews[name];
    if (!direction) return;
    this.state.view = name;
    const box = new THREE.Box3();
    for (const { shapes } of this.panes)
      for (const s of shapes) if (s.item.kind === "vehicle") box.expandByObject(s.object);
    if (box.isEmpty())
      box.set(new THREE.Vector3(...this.data.frame[0]), new THREE.Vector3(...this.data.frame[1]));
    else box.expandByVector(box.getSize(new THREE.Vector3()).multiplyScalar(0.12));
    this.stage.look(direction, box);
  }

  private paper() {
    const style = getComputedStyle(this.host);
    this.stage.setPaper(style.getPropertyValue("--paper").trim() || "#fbfaf6");
  }

  savePicture() {
    const run = this.data.runs[this.state.shownRuns[0] as number]?.name ?? "view";
    const link = element("a", {
      href: this.stage.picture(),
      download: `${run.replace(/[^\w.-]+/g, "-")}.png`,
    });
    link.click();
    this.tell(`Saved ${link.download}.`);
  }

  tell(text: string) {
    this.status.textContent = text;
  }

  private hitAt(x: number, y: number) {
    return this.stage.hit(x, y, (pane) => this.panes[pane]?.shapes.flatMap((s) => s.meshes) ?? []);
  }

  /** What lies under a place of the canvas, in words. */
  valueAt(x: number, y: number): string {
    const hit = this.hitAt(x, y);
    if (!hit) return "";
    const shape = this.panes[hit.pane]?.shapes.find((s) => s.meshes.includes(hit.mesh));
    if (!shape) return "";
    const p = hit.point;
    const place = `at (${p.x.toFixed(3)}, ${p.y.toFixed(3)}, ${p.z.toFixed(3)}) m`;
    const quantity = this.quantityOf(shape.item);
    if (!shape.valuesOf || !quantity) return `${shape.item.name}, ${place}`;
    let value = 0;
    hit.corners.forEach((corner, k) => {
      value += (hit.shares[k] as number) * (shape.valuesOf?.[corner] as number);
    });
    const unit = unitOf(this.data.scales[quantity]);
    return `${shape.item.name}: ${quantity} ${shown(value)}${unit ? ` ${unit}` : ""}, ${place}`;
  }

  private measureAt(x: number, y: number) {
    const hit = this.hitAt(x, y);
    if (!hit) return;
    if (this.state.measured.length === 2) this.state.measured = [];
    this.state.measured.push(hit.point.clone());
    const [a, b] = this.state.measured;
    if (a && b) {
      const d = b.clone().sub(a);
      const [along, across, up] = d.toArray().map((v) => shown(Math.abs(v)));
      this.tell(`Distance ${shown(d.length())} m: along ${along}, across ${across}, up ${up} m.`);
    } else this.tell("Now the second point.");
  }

  private listen() {
    const canvas = this.stage.canvas;
    let waiting = false;
    let down: [number, number] | null = null;
    canvas.addEventListener("pointermove", (event) => {
      if (waiting || event.buttons !== 0 || this.state.measuring) return;
      waiting = true;
      const { offsetX, offsetY } = event;
      requestAnimationFrame(() => {
        waiting = false;
        this.tell(this.valueAt(offsetX, offsetY));
      });
    });
    canvas.addEventListener("pointerdown", (event) => {
      down = [event.offsetX, event.offsetY];
    });
    canvas.addEventListener("pointerup", (event) => {
      const still = down && Math.hypot(event.offsetX - down[0], event.offsetY - down[1]) < 4;
      if (!still) return;
      const hit = this.hitAt(event.offsetX, event.offsetY);
      if (hit && this.onPick(hit.point.clone())) return;
      if (this.state.measuring) this.measureAt(event.offsetX, event.offsetY);
      else this.tell(this.valueAt(event.offsetX, event.offsetY));
    });
  }
}
