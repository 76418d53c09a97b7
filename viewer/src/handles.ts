// Knobs over the 3-D view. Planes and smoke are dragged by them, or moved with the arrow keys.
import * as THREE from "three";
import { element } from "./dom";
import type { Stage } from "./stage";

export interface Handle {
  key: string;
  label: string; // for those who do not see it
  sign: string; // what stands on it
  place: THREE.Vector3;
  along: THREE.Vector3 | null; // the way it moves; none: in the plane of the screen
  moved(place: THREE.Vector3, resting: boolean): void;
}

export class Handles {
  readonly host = element("div", { class: "handles" });
  private readonly shown = new Map<string, { knob: HTMLButtonElement; handle: Handle }>();

  constructor(private readonly stage: Stage) {
    stage.onDrawn = () => this.arrange();
  }

  set(handles: Handle[]) {
    const wanted = new Set(handles.map((h) => h.key));
    for (const [key, { knob }] of this.shown)
      if (!wanted.has(key)) {
        knob.remove();
        this.shown.delete(key);
      }
    for (const handle of handles) {
      const known = this.shown.get(handle.key);
      if (known) known.handle = handle;
      else this.shown.set(handle.key, { knob: this.knobFor(handle), handle });
    }
    this.arrange();
  }

  private arrange() {
    for (const { knob, handle } of this.shown.values()) {
      const [x, y] = this.stage.placeOf(handle.place, 0);
      knob.style.transform = `translate(${x}px, ${y}px) translate(-50%, -50%)`;
      knob.textContent = handle.sign;
      knob.setAttribute("aria-label", handle.label);
      knob.title = handle.label;
    }
  }

  /** Where a handle is after the pointer has gone so far over the screen, in pixels. */
  private dragged(handle: Handle, from: THREE.Vector3, dx: number, dy: number): THREE.Vector3 {
    const perMetre = (way: THREE.Vector3): [number, number] => {
      const [ax, ay] = this.stage.placeOf(from, 0);
      const [bx, by] = this.stage.placeOf(from.clone().add(way), 0);
      return [bx - ax, by - ay];
    };
    if (handle.along) {
      const [sx, sy] = perMetre(handle.along);
      const length2 = sx * sx + sy * sy;
      const least = 25; // px2 a m2: a way towards the eye cannot be seen
      if (length2 < least) return from.clone();
      return from.clone().addScaledVector(handle.along, (dx * sx + dy * sy) / length2);
    }
    const right = new THREE.Vector3().setFromMatrixColumn(this.stage.camera.matrixWorld, 0);
    const up = new THREE.Vector3().setFromMatrixColumn(this.stage.camera.matrixWorld, 1);
    const scale = Math.hypot(...perMetre(right)) || 1;
    return from
      .clone()
      .addScaledVector(right, dx / scale)
      .addScaledVector(up, -dy / scale);
  }

  private knobFor(first: Handle): HTMLButtonElement {
    const knob = element("button", { type: "button", class: "handle", "data-key": first.key });
    const present = () => this.shown.get(first.key)?.handle ?? first;
    let start: { x: number; y: number; place: THREE.Vector3 } | null = null;
    knob.addEventListener("pointerdown", (event) => {
      start = { x: event.clientX, y: event.clientY, place: present().place.clone() };
      knob.setPointerCapture(event.pointerId);
      event.preventDefault();
      knob.focus();
    });
    const go = (event: PointerEvent, resting: boolean) => {
      if (!start) return;
      const handle = present();
      const to = this.dragged(
        handle,
        start.place,
        event.clientX - start.x,
        event.clientY - start.y,
      );
      if (resting) start = null;
      handle.moved(to, resting);
    };
    knob.addEventListener("pointermove", (event) => go(event, false));
    knob.addEventListener("pointerup", (event) => go(event, true));
    knob.addEventListener("pointercancel", () => {
      start = null;
    });
    knob.addEventListener("keydown", (event) => {
      const ways: Record<string, [number, number]> = {
        ArrowLeft: [-8, 0],
        ArrowRight: [8, 0],
        ArrowUp: [0, -8],
        ArrowDown: [0, 8],
      };
      const way = ways[event.key];
      if (!way) return;
      event.preventDefault();
      const handle = present();
      handle.moved(this.dragged(handle, handle.place.clone(), ...way), true);
    });
    this.host.append(knob);
    return knob;
  }
}
