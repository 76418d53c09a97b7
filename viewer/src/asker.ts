// Asks the server for what a view shows: one question at a time for each thing, and the last one
// counts.
import { unpacked } from "./data";
import type { Viewer } from "./viewer";

export class Asker {
  private readonly wanted = new Map<string, string>(); // question of each key
  private readonly shown = new Map<string, string>();
  private readonly asking = new Set<string>();
  readonly took: number[] = []; // ms, of the answers

  /** @param renewed told when a quantity came whose range was not known */
  constructor(
    private readonly base: string,
    private readonly viewer: Viewer,
    private readonly renewed: () => void,
  ) {}

  want(key: string, question: string, run: number) {
    this.wanted.set(key, question);
    this.ask(key, run);
  }
  /** What is not among these is shown no more. */
  keepOnly(keys: Set<string>) {
    for (const key of [...this.wanted.keys()]) {
      if (keys.has(key)) continue;
      this.wanted.delete(key);
      this.shown.delete(key);
      this.viewer.setLook(key, null);
    }
  }
  /** Until nothing is being asked. */
  async rest(): Promise<void> {
    while (this.asking.size > 0) await new Promise((next) => setTimeout(next, 20));
    await this.viewer.ready;
  }

  /** What was asked meanwhile comes after it. */
  private async ask(key: string, run: number) {
    const question = this.wanted.get(key);
    if (question === undefined || this.asking.has(key) || this.shown.get(key) === question) return;
    this.asking.add(key);
    const start = performance.now();
    try {
      const answer = await fetch(`${this.base}look`, { method: "POST", body: question });
      if (!answer.ok) throw new Error(await answer.text());
      const pack = unpacked(await answer.arrayBuffer());
      const fresh = Object.keys(pack.data.scales).some((q) => !this.viewer.state.ranges.has(q));
      if (this.wanted.has(key)) await this.viewer.setLook(key, pack, run);
      if (fresh) this.renewed();
      this.took.push(performance.now() - start);
    } catch (error) {
      const text = error instanceof TypeError ? "The server does not answer." : String(error);
      this.viewer.tell(text.replace(/^Error: /, ""));
      if (this.wanted.has(key)) await this.viewer.setLook(key, null);
    }
    this.asking.delete(key);
    this.shown.set(key, question);
    if (this.wanted.has(key)) this.ask(key, run);
    else this.shown.delete(key);
  }
}
