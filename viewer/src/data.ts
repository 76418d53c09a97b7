// What the page is given to show: the text that the library's scene pack writes, and its arrays
// unpacked when they are wanted.

export interface PackedArray {
  count: number;
  components: number;
  scale: number;
  data?: string; // base64; or where its bytes are:
  offset?: number;
  length?: number;
}
export interface RunEntry {
  name: string;
  variant: string;
  condition: string;
}
export type Kind = "vehicle" | "slice" | "smoke" | "volume" | "cores";
export interface Item {
  run: number;
  kind: Kind;
  name: string;
  points: number;
  corners: number;
  light?: number; // fewer triangles, while the view turns
  lines?: boolean;
  mirrored?: boolean;
  opacity?: number;
  colour: [number, number, number];
  values: Record<string, number>;
  asked?: boolean; // by this page, of its server
}
export interface Scale {
  least: number;
  most: number;
  palette: "dune" | "balance";
  title: string;
}
export interface ViewData {
  version: number;
  runs: RunEntry[];
  items: Item[];
  arrays: PackedArray[];
  scales: Record<string, Scale>;
  palettes: Record<string, [number, number, number][]>;
  notes: string[];
  frame: [[number, number, number], [number, number, number]];
}

const nothing = -2_000_000_000;

/** Undoes the byte planes, the folded signs and the differences of neighbours. */
export function unfolded(bytes: Uint8Array, count: number, components: number): Int32Array {
  if (bytes.length !== 4 * count) throw new Error("an array of the view is damaged");
  const out = new Int32Array(count);
  for (let i = 0; i < count; ++i) {
    const folded =
      ((bytes[i] as number) |
        ((bytes[count + i] as number) << 8) |
        ((bytes[2 * count + i] as number) << 16) |
        ((bytes[3 * count + i] as number) << 24)) >>>
      0;
    const step = (folded >>> 1) ^ -(folded & 1);
    out[i] = (step + (i < components ? 0 : (out[i - components] as number))) | 0;
  }
  return out;
}

/** Numbers of whole steps; what has no value becomes NaN. */
export function scaled(whole: Int32Array, scale: number): Float32Array {
  const out = new Float32Array(whole.length);
  for (let i = 0; i < whole.length; ++i) {
    const w = whole[i] as number;
    out[i] = w === nothing ? Number.NaN : w * scale;
  }
  return out;
}

async function inflated(raw: Uint8Array<ArrayBuffer>): Promise<Uint8Array> {
  const stream = new Blob([raw]).stream().pipeThrough(new DecompressionStream("deflate"));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

/** Unpacks each array once. */
export class Arrays {
  private known = new Map<number, Promise<Int32Array>>();
  constructor(
    private readonly packed: PackedArray[],
    private readonly bytes?: Uint8Array<ArrayBuffer>,
  ) {}

  private entry(index: number): PackedArray {
    const found = this.packed[index];
    if (!found) throw new Error("an array of the view is missing");
    return found;
  }
  private raw(a: PackedArray): Uint8Array<ArrayBuffer> {
    if (a.data !== undefined) return Uint8Array.from(atob(a.data), (c) => c.charCodeAt(0));
    const from = a.offset ?? 0;
    if (!this.bytes) throw new Error("an array of the view is missing");
    return this.bytes.slice(from, from + (a.length ?? 0));
  }
  whole(index: number): Promise<Int32Array> {
    let wanted = this.known.get(index);
    if (!wanted) {
      const a = this.entry(index);
      wanted = inflated(this.raw(a)).then((bytes) => unfolded(bytes, a.count, a.components));
      this.known.set(index, wanted);
    }
    return wanted;
  }
  async numbers(index: number): Promise<Float32Array> {
    return scaled(await this.whole(index), this.entry(index).scale);
  }
}

/** A pack as bytes: the length of its JSON, the JSON, its arrays. */
export function unpacked(buffer: ArrayBuffer): { data: ViewData; arrays: Arrays } {
  const length = new DataView(buffer).getUint32(0, true);
  if (4 + length > buffer.byteLength) throw new Error("the answer of the server is cut short");
  const text = new TextDecoder().decode(new Uint8Array(buffer, 4, length));
  const data = JSON.parse(text) as ViewData;
  return { data, arrays: new Arrays(data.arrays, new Uint8Array(buffer.slice(4 + length))) };
}
