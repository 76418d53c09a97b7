// One canvas with one, two or four panes and one camera: drawn when something has changed.
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { firstSeen } from "./nearer";

/** From where each named view looks: from what is seen to the eye; x rearward, z up. */
export const namedViews: Record<string, [number, number, number]> = {
  "three-quarter": [-1, -0.85, 0.5],
  "rear three-quarter": [1, -0.85, 0.5],
  front: [-1, 0, 0],
  rear: [1, 0, 0],
  left: [0, -1, 0],
  right: [0, 1, 0],
  top: [0, 0, 1],
  below: [0, 0, -1],
};

export interface Hit {
  pane: number;
  point: THREE.Vector3;
  mesh: THREE.Mesh;
  corners: [number, number, number];
  shares: [number, number, number];
}

export class Stage {
  readonly canvas: HTMLCanvasElement;
  readonly camera = new THREE.OrthographicCamera(-1, 1, 1, -1, -100, 100);
  private readonly renderer: THREE.WebGLRenderer;
  private readonly controls: OrbitControls;
  private readonly ray = new THREE.Raycaster();
  private panes: THREE.Scene[] = [];
  private size = 1; // m, half of what is seen upward
  private wanted = false;
  private paper = new THREE.Color(0xfbfaf6);
  private moving = false;
  private resting = 0; // timer
  private cost = 0; // ms of a whole frame
  drawn = 0; // frames so far
  /** Told when less shall be drawn, or all again. */
  onLight: (light: boolean) => void = () => {};
  /** Told when the panes have another size. */
  onResized: () => void = () => {};
  /** Told after each frame. */
  onDrawn: () => void = () => {};

  constructor(host: HTMLElement) {
    this.renderer = new THREE.WebGLRenderer({ antialias: false, preserveDrawingBuffer: true });
    this.renderer.autoClear = false;
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.canvas = this.renderer.domElement;
    this.canvas.tabIndex = 0;
    this.canvas.setAttribute("role", "img");
    host.append(this.canvas);
    this.camera.up.set(0, 0, 1);
    this.controls = new OrbitControls(this.camera, this.canvas);
    this.controls.enableDamping = false;
    this.controls.addEventListener("change", () => this.moved());
    this.canvas.addEventListener("keydown", (event) => this.key(event));
    new ResizeObserver(() => this.resize()).observe(host);
    this.canvas.addEventListener("webglcontextlost", (event) => event.preventDefault());
    this.canvas.addEventListener("webglcontextrestored", () => this.draw());
  }

  setPaper(css: string) {
    this.paper.setStyle(css, THREE.LinearSRGBColorSpace);
    this.draw();
  }

  setPanes(panes: THREE.Scene[]) {
    this.panes = panes;
    this.resize();
  }

  /** Looks from a direction at a box, which fills the pane. */
  look(direction: [number, number, number], box: THREE.Box3) {
    const middle = box.getCenter(new THREE.Vector3());
    const radius = box.getSize(new THREE.Vector3()).length() / 2;
    const way = new THREE.Vector3(...direction).normalize();
    if (Math.hypot(way.x, way.y) < 1e-6) way.set(-1e-4, 0, way.z); // the nose to the left
    this.controls.target.copy(middle);
    this.camera.position.copy(middle).addScaledVector(way, 3 * radius);
    this.camera.zoom = 1;
    this.camera.near = -20 * radius;
    this.camera.far = 20 * radius;
    this.camera.lookAt(middle);
    this.camera.updateMatrixWorld();
    this.size = this.needed(box);
    this.resize();
    this.controls.update();
  }

  private needed(box: THREE.Box3): number {
    let up = 1e-9;
    const aspect = this.aspect();
    for (let i = 0; i < 8; ++i) {
      const corner = new THREE.Vector3(
        i & 1 ? box.max.x : box.min.x,
        i & 2 ? box.max.y : box.min.y,
        i & 4 ? box.max.z : box.min.z,
      ).applyMatrix4(this.camera.matrixWorldInverse);
      up = Math.max(up, Math.abs(corner.y), Math.abs(corner.x) / aspect);
    }
    return 1.06 * up;
  }

  /** Columns and rows of the panes. */
  grid(): [number, number] {
    const n = this.panes.length;
    if (n < 2) return [1, 1];
    const narrow = this.canvas.clientWidth < 700;
    return n === 2 ? (narrow ? [1, 2] : [2, 1]) : [2, 2];
  }
  private aspect(): number {
    const [columns, rows] = this.grid();
    const { clientWidth: w, clientHeight: h } = this.canvas;
    return (w / columns || 1) / (h / rows || 1);
  }

  private resize() {
    const host = this.canvas.parentElement as HTMLElement;
    const width = Math.max(1, host.clientWidth);
    const height = Math.max(1, host.clientHeight);
    this.renderer.setPixelRatio(this.ratio());
    this.renderer.setSize(width, height);
    const aspect = this.aspect();
    this.camera.left = -this.size * aspect;
    this.camera.right = this.size * aspect;
    this.camera.top = this.size;
    this.camera.bottom = -this.size;
    this.camera.updateProjectionMatrix();
    this.onResized();
    this.draw();
  }

  /** Edges are smooth by more pixels than the screen has, as long as that is quick enough. */
  private ratio(): number {
    return this.moving && this.isSlow() ? 0.75 : 2;
  }
  private isSlow(): boolean {
    return this.cost > 40;
  }

  /** While the view turns, slow machines draw less. */
  private moved() {
    if (!this.moving) {
      this.moving = true;
      if (this.isSlow()) {
        this.onLight(true);
        this.resize();
      }
    }
    window.clearTimeout(this.resting);
    this.resting = window.setTimeout(() => this.rest(), 250);
    this.draw();
  }

  /** All is drawn, and finely. */
  private rest() {
    window.clearTimeout(this.resting);
    this.moving = false;
    this.onLight(false);
    this.resize();
  }

  draw() {
    if (this.wanted) return;
    this.wanted = true;
    requestAnimationFrame(() => {
      this.wanted = false;
      const start = performance.now();
      this.drawNow();
      if (this.moving) return;
      this.wait();
      this.cost = performance.now() - start;
    });
  }

  drawNow() {
    const [columns, rows] = this.grid();
    const { clientWidth, clientHeight } = this.canvas;
    const w = clientWidth / columns;
    const h = clientHeight / rows;
    this.renderer.setScissorTest(true);
    this.panes.forEach((scene, i) => {
      const x = (i % columns) * w;
      const y = clientHeight - (Math.floor(i / columns) + 1) * h;
      this.renderer.setViewport(x, y, w, h);
      this.renderer.setScissor(x, y, w, h);
      this.renderer.setClearColor(this.paper);
      this.renderer.clear();
      scene.traverse((o) => {
        const material = (o as { material?: LineMaterial }).material;
        if (material?.isLineMaterial) material.resolution.set(w, h);
      });
      this.renderer.render(scene, this.camera);
    });
    ++this.drawn;
    this.onDrawn();
  }

  /** Until all that was asked for is drawn. */
  private wait() {
    const gl = this.renderer.getContext();
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4));
  }

  /** What lies under a place of the canvas. */
  hit(x: number, y: number, meshes: (pane: number) => THREE.Mesh[]): Hit | null {
    const [columns, rows] = this.grid();
    const w = this.canvas.clientWidth / columns;
    const h = this.canvas.clientHeight / rows;
    const column = Math.floor(x / w);
    const row = Math.floor(y / h);
    const pane = row * columns + column;
    if (pane < 0 || pane >= this.panes.length) return null;
    const place = new THREE.Vector2(((x - column * w) / w) * 2 - 1, 1 - ((y - row * h) / h) * 2);
    this.ray.setFromCamera(place, this.camera);
    const all = this.ray.intersectObjects(meshes(pane), false);
    const way = this.ray.ray.direction;
    const looksHere = (h: THREE.Intersection) =>
      h.face != null && h.face.normal.clone().transformDirection(h.object.matrixWorld).dot(way) < 0;
    const found = firstSeen(all, looksHere, this.camera.far - this.camera.near);
    if (!found?.face) return null;
    const mesh = found.object as THREE.Mesh;
    const at = mesh.geometry.getAttribute("position");
    const corners: [number, number, number] = [found.face.a, found.face.b, found.face.c];
    const [a, b, c] = corners.map((i) => new THREE.Vector3().fromBufferAttribute(at, i)) as [
      THREE.Vector3,
      THREE.Vector3,
      THREE.Vector3,
    ];
    const shares = new THREE.Vector3();
    THREE.Triangle.getBarycoord(mesh.worldToLocal(found.point.clone()), a, b, c, shares);
    return { pane, point: found.point, mesh, corners, shares: [shares.x, shares.y, shares.z] };
  }

  /** Where a place of the tunnel is on the canvas, in each pane. */
  placeOf(point: THREE.Vector3, pane: number): [number, number] {
    const [columns, rows] = this.grid();
    const w = this.canvas.clientWidth / columns;
    const h = this.canvas.clientHeight / rows;
    const p = point.clone().project(this.camera);
    return [
      (pane % columns) * w + ((p.x + 1) / 2) * w,
      Math.floor(pane / columns) * h + ((1 - p.y) / 2) * h,
    ];
  }

  /** Arrows turn, plus and minus zoom, as the pointer does. */
  private key(event: KeyboardEvent) {
    const turn = Math.PI / 24;
    const offset = this.camera.position.clone().sub(this.controls.target);
    const s = new THREE.Spherical().setFromVector3(
      new THREE.Vector3(offset.x, offset.z, -offset.y),
    );
    if (event.key === "ArrowLeft") s.theta -= turn;
    else if (event.key === "ArrowRight") s.theta += turn;
    else if (event.key === "ArrowUp") s.phi -= turn;
    else if (event.key === "ArrowDown") s.phi += turn;
    else if (event.key === "+" || event.key === "=") this.camera.zoom *= 1.15;
    else if (event.key === "-") this.camera.zoom /= 1.15;
    else return;
    event.preventDefault();
    s.phi = Math.min(Math.PI - 1e-3, Math.max(1e-3, s.phi));
    const v = new THREE.Vector3().setFromSpherical(s);
    this.camera.position.copy(this.controls.target).add(new THREE.Vector3(v.x, -v.z, v.y));
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.moved();
  }

  /** From where it is seen: the direction to the eye, the middle, half of what is seen upward. */
  sight() {
    const towards = this.controls.target.clone();
    const from = this.camera.position.clone().sub(towards).normalize();
    return { from, towards, half: this.size / this.camera.zoom };
  }
  setSight(from: THREE.Vector3, towards: THREE.Vector3, half: number) {
    const far = this.camera.far / 20;
    this.controls.target.copy(towards);
    this.camera.position.copy(towards).addScaledVector(from.clone().normalize(), 3 * far);
    this.camera.zoom = this.size / half;
    this.camera.updateProjectionMatrix();
    this.controls.update();
    this.draw();
  }
  /** How large a box is upward and across, seen from a direction. */
  extent(from: THREE.Vector3, box: THREE.Box3): [number, number] {
    const eye = from.clone().normalize();
    const right = new THREE.Vector3(0, 0, 1).cross(eye);
    if (right.length() < 1e-6) right.set(1, 0, 0);
    right.normalize();
    const up = eye.clone().cross(right);
    const size = box.getSize(new THREE.Vector3());
    const reach = (w: THREE.Vector3) =>
      Math.abs(size.x * w.x) + Math.abs(size.y * w.y) + Math.abs(size.z * w.z);
    return [reach(up), reach(right)];
  }

  /** The middle of what is seen, the eye and the zoom: what tests ask. */
  pose() {
    return { eye: this.camera.position.toArray(), zoom: this.camera.zoom };
  }
  picture(): string {
    this.rest(); // whatever it was in the midst of
    this.drawNow();
    return this.canvas.toDataURL("image/png");
  }
  /** Frames a second while the view turns once round. */
  async turning(frames: number): Promise<number> {
    this.cost = 0;
    this.draw();
    while (this.cost === 0) await new Promise((next) => setTimeout(next, 20));
    this.moved();
    const start = performance.now();
    const around = this.camera.position.clone().sub(this.controls.target);
    for (let i = 0; i < frames; ++i) {
      const way = around
        .clone()
        .applyAxisAngle(new THREE.Vector3(0, 0, 1), (2 * Math.PI * i) / frames);
      this.camera.position.copy(this.controls.target).add(way);
      this.controls.update();
      this.drawNow();
      this.wait();
      await new Promise((next) => setTimeout(next, 0));
    }
    return (1000 * frames) / (performance.now() - start);
  }
}
