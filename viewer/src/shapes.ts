// Items of the data as things that WebGL draws: surfaces coloured by a value of their points, and
// lines with a width.
import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";
import { colourOf, type Range, type Rgb } from "./colour";
import type { Arrays, Item } from "./data";
import { nearer } from "./nearer";

const vertexShader = `
attribute float value;
varying float seen;
varying vec3 across;
void main() {
  seen = value;
  across = normalMatrix * normal;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
  if (across.z > 0.0) gl_Position.z -= ${2 * nearer} * gl_Position.w;
}`;

// Light from the eye and from above it; what has no value is plain.
const fragmentShader = `
uniform sampler2D palette;
uniform float least, most, steps, opacity, lit;
uniform vec3 plain;
uniform bool valued;
varying float seen;
varying vec3 across;
void main() {
  vec3 colour = plain;
  if (valued && seen == seen && seen > -1.0e30) {
    float share = clamp((seen - least) / (most - least), 0.0, 1.0);
    if (steps > 0.5) share = (min(floor(share * steps), steps - 1.0) + 0.5) / steps;
    colour = texture2D(palette, vec2(share * 63.0 / 64.0 + 0.5 / 64.0, 0.5)).rgb;
  }
  vec3 n = normalize(across);
  if (!gl_FrontFacing) n = -n;
  float light = 0.62 + 0.30 * abs(n.z) + 0.14 * max(0.0, n.y);
  gl_FragColor = vec4(mix(colour, min(colour * light, 1.0), lit), opacity);
}`;

export function paletteTexture(palette: Rgb[]): THREE.DataTexture {
  const bytes = new Uint8Array(4 * palette.length);
  palette.forEach((c, i) => {
    bytes.set([...c.map((v) => Math.round(255 * v)), 255], 4 * i);
  });
  const texture = new THREE.DataTexture(bytes, palette.length, 1);
  texture.minFilter = texture.magFilter = THREE.LinearFilter;
  texture.needsUpdate = true;
  return texture;
}

/** How a thing's values are coloured; none: plain. */
export interface Paint {
  quantity: string;
  range: Range;
  palette: Rgb[];
  texture: THREE.Texture;
}

/** A sheet or a bundle of lines; its mirror image, too, where it is of a half model. */
export interface Shape {
  item: Item;
  object: THREE.Object3D;
  meshes: THREE.Mesh[]; // that a ray can meet
  valuesOf: Float32Array | null;
  paint(paint: Paint | null): Promise<void>;
  setOpacity(opacity: number): void;
  /** Less to draw, while the view turns. */
  setLight(light: boolean): void;
  dispose(): void;
}

function sides(item: Item, make: () => THREE.Mesh): THREE.Mesh[] {
  const meshes = [make()];
  if (item.mirrored) {
    const image = make();
    image.scale.y = -1;
    meshes.push(image);
  }
  return meshes;
}

export async function sheet(item: Item, arrays: Arrays): Promise<Shape> {
  const geometry = new THREE.BufferGeometry();
  const points = await arrays.numbers(item.points);
  const corners = await arrays.whole(item.corners);
  geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
  const full = new THREE.BufferAttribute(new Uint32Array(corners), 1);
  const light =
    item.light === undefined
      ? full
      : new THREE.BufferAttribute(new Uint32Array(await arrays.whole(item.light)), 1);
  geometry.setIndex(full);
  geometry.computeVertexNormals();
  const value = new THREE.BufferAttribute(new Float32Array(points.length / 3), 1);
  geometry.setAttribute("value", value);
  const material = new THREE.ShaderMaterial({
    vertexShader,
    fragmentShader,
    side: THREE.DoubleSide,
    uniforms: {
      palette: { value: null },
      least: { value: 0 },
      most: { value: 1 },
      steps: { value: 0 },
      opacity: { value: 1 },
      lit: { value: item.kind === "slice" ? 0 : 1 },
      plain: { value: new THREE.Color(...item.colour) },
      valued: { value: false },
    },
  });
  const uniform = (name: string) => material.uniforms[name] as THREE.IUniform;
  const meshes = sides(item, () => new THREE.Mesh(geometry, material));
  const object = new THREE.Group();
  object.add(...meshes);
  const shape: Shape = {
    item,
    object,
    meshes,
    valuesOf: null,
    async paint(paint) {
      const array = paint ? item.values[paint.quantity] : undefined;
      uniform("valued").value = array !== undefined;
      shape.valuesOf = null;
      if (!paint || array === undefined) return;
      shape.valuesOf = await arrays.numbers(array);
      value.set(shape.valuesOf);
      value.needsUpdate = true;
      uniform("palette").value = paint.texture;
      uniform("least").value = paint.range.least;
      uniform("most").value = paint.range.most;
      uniform("steps").value = paint.range.steps;
    },
    setOpacity(opacity) {
      uniform("opacity").value = opacity;
      material.transparent = opacity < 1;
      material.depthWrite = opacity >= 1;
      material.needsUpdate = true;
    },
    setLight(on) {
      geometry.setIndex(on ? light : full);
    },
    dispose() {
      geometry.dispose();
      material.dispose();
    },
  };
  shape.setOpacity(item.opacity ?? 1);
  return shape;
}

export async function lines(item: Item, arrays: Arrays): Promise<Shape> {
  const points = await arrays.numbers(item.points);
  const ends = await arrays.whole(item.corners);
  const pairs: number[] = []; // points that are joined
  let first = 0;
  for (const end of ends) {
    for (let i = first; i + 1 < end; ++i) pairs.push(i, i + 1);
    first = end;
  }
  const places = new Float32Array(3 * pairs.length);
  pairs.forEach((p, k) => {
    places.set(points.subarray(3 * p, 3 * p + 3), 3 * k);
  });
  const geometry = new LineSegmentsGeometry();
  geometry.setPositions(places);
  const material = new LineMaterial({ linewidth: 1.8, vertexColors: true });
  const colour = (of: (point: number) => Rgb) => {
    const colours = new Float32Array(3 * pairs.length);
    pairs.forEach((p, k) => {
      colours.set(of(p), 3 * k);
    });
    geometry.setColors(colours);
  };
  colour(() => item.colour);
  const wide = new LineSegments2(geometry, material);
  wide.frustumCulled = false;
  const thin = thinLines(points, ends, item);
  const object = new THREE.Group();
  object.add(wide, thin);
  thin.visible = false;
  const shape: Shape = {
    item,
    object,
    meshes: [],
    valuesOf: null,
    async paint(paint) {
      const array = paint ? item.values[paint.quantity] : undefined;
      if (!paint || array === undefined) {
        colour(() => item.colour);
        return;
      }
      const values = await arrays.numbers(array);
      shape.valuesOf = values;
      colour((p) => colourOf(values[p] as number, paint.range, paint.palette));
      const colours = thin.geometry.getAttribute("color") as THREE.BufferAttribute;
      for (let p = 0; p < values.length; ++p)
        colours.setXYZ(p, ...colourOf(values[p] as number, paint.range, paint.palette));
      colours.needsUpdate = true;
    },
    setOpacity(opacity) {
      material.opacity = opacity;
      material.transparent = opacity < 1;
    },
    setLight(on) {
      thin.visible = on;
      wide.visible = !on;
    },
    dispose() {
      geometry.dispose();
      material.dispose();
      thin.geometry.dispose();
      (thin.material as THREE.Material).dispose();
    },
  };
  return shape;
}

/** Every sixth point, a pixel wide. */
function thinLines(points: Float32Array, ends: Int32Array, item: Item): THREE.LineSegments {
  const geometry = new THREE.BufferGeometry();
  const index: number[] = [];
  let first = 0;
  for (const end of ends) {
    for (let i = first; i + 1 < end; i += 6) index.push(i, Math.min(i + 6, end - 1));
    first = end;
  }
  const colours = new Float32Array(points.length);
  for (let p = 0; p < points.length; p += 3) colours.set(item.colour, p);
  geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
  geometry.setAttribute("color", new THREE.BufferAttribute(colours, 3));
  geometry.setIndex(index);
  return new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ vertexColors: true }));
}
