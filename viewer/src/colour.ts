// Ranges and colours of quantities: one range for all runs, smooth or in steps.
import type { Scale } from "./data";

export interface Range {
  least: number;
  most: number;
  steps: number; // 0: smooth
}

export type Rgb = [number, number, number];

/** The share of the range at which a value's colour is taken. */
export function shareOf(value: number, range: Range): number {
  const share = (value - range.least) / (range.most - range.least);
  const held = Math.min(1, Math.max(0, share));
  if (range.steps < 1) return held;
  return (Math.min(range.steps - 1, Math.floor(held * range.steps)) + 0.5) / range.steps;
}

export function colourOf(value: number, range: Range, palette: Rgb[]): Rgb {
  const place = shareOf(value, range) * (palette.length - 1);
  const low = Math.min(palette.length - 2, Math.floor(place));
  const a = palette[low] as Rgb;
  const b = palette[low + 1] as Rgb;
  const t = place - low;
  return [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t, a[2] + (b[2] - a[2]) * t];
}

export function css([r, g, b]: Rgb): string {
  const byte = (v: number) => Math.round(255 * Math.min(1, Math.max(0, v)));
  return `rgb(${byte(r)} ${byte(g)} ${byte(b)})`;
}

/** Round numbers inside a range, about `wanted` of them. */
export function roundMarks(least: number, most: number, wanted: number): number[] {
  const rough = (most - least) / Math.max(1, wanted);
  if (!(rough > 0) || !Number.isFinite(rough)) return [];
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = power * ([1, 2, 5, 10].find((f) => f * power >= rough * 0.999) ?? 10);
  const marks: number[] = [];
  for (let k = Math.ceil(least / step - 1e-9); k * step <= most + 1e-9 * step; ++k)
    marks.push(Number((k * step).toPrecision(10)));
  return marks;
}

/** Four digits at most, no exponent for what people read as it is. */
export function shown(value: number): string {
  if (!Number.isFinite(value)) return "no value";
  return String(Number(value.toPrecision(4))).replace("-", "\u2212");
}

/** "total Cp", "wall shear, Pa" into name and unit. */
export function unitOf(scale: Scale | undefined): string {
  const comma = scale ? scale.title.lastIndexOf(", ") : -1;
  return scale && comma >= 0 ? scale.title.slice(comma + 2) : "";
}
