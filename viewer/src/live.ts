// The page of a watched campaign: the page that looks at runs, with a run that goes on in it, and
// beside the view its numbers, what is tried and what was kept.
import { button, choice, element, group, labelled, numberInput } from "./dom";
import { Explore } from "./explore";
import { HistoryChart, numbers, table } from "./live_numbers";
import { ask, follow, type Told } from "./watching";
import { clock, speedInWords, withInterval } from "./words";

export class LivePage {
  explore: Explore | null = null;
  state: Told | null = null;
  private readonly phase = element("strong", { class: "phase" });
  private readonly status = element("span", { class: "live-status", role: "status" });
  private readonly error = element("p", { class: "live-error", role: "alert" });
  private readonly numbers = element("div", { class: "live-numbers" });
  private readonly controls = element("div", { class: "live-controls" });
  private readonly log = element("div", {});
  private readonly runs = element("div", {});
  private readonly since = element("p", { class: "note" });
  private readonly viewHost = element("div", { class: "explore" });
  private readonly chart = new HistoryChart();
  private shownControls = "";

  constructor(
    host: HTMLElement,
    private readonly base: string,
  ) {
    document.querySelector("header")?.append(element("p", {}, this.phase, " ", this.status));
    const side = element(
      "aside",
      { class: "live-side", "aria-label": "numbers and tries" },
      this.error,
      this.numbers,
      this.chart.host,
      this.controls,
      this.since,
      group("Tries", [this.log]),
      group("Runs of the campaign", [this.runs], false),
    );
    host.replaceChildren(element("div", { class: "live" }, this.viewHost, side));
    this.viewHost.append(
      element("p", { class: "waiting" }, "The first picture comes once the mesh is made."),
    );
    follow(base, {
      told: (state) => this.told(state),
      viewed: () => this.viewed(),
      lost: () => this.lost(),
    });
  }

  private lost() {
    this.phase.textContent = "lost";
    this.phase.dataset.phase = "lost";
    this.status.textContent =
      "The server does not answer: the program may have ended. This is its last state.";
  }

  private async viewed() {
    try {
      if (this.explore) return await this.explore.renew();
      this.explore = await Explore.open(this.viewHost, this.base);
    } catch (error) {
      if (error instanceof TypeError) throw error; // no answer at all
      this.error.textContent = `The view cannot be shown: ${(error as Error).message}`;
      return;
    }
    window.dunefield = {
      ...window.dunefield,
      explore: this.explore,
      viewer: this.explore.viewer,
    };
  }

  private told(s: Told) {
    this.state = s;
    this.phase.textContent = s.phase;
    this.phase.dataset.phase = s.phase;
    this.status.textContent = this.doing(s).join(" \u00b7 ");
    this.error.textContent = s.error;
    this.numbers.replaceChildren(...numbers(s));
    this.chart.show(s.history);
    this.showControls(s);
    this.showSince(s);
    this.showLog(s);
    this.showRuns(s);
  }

  private doing(s: Told): string[] {
    const at = s.history.iteration.at(-1);
    const running = s.phase === "running" && at !== undefined;
    const cells = s.cells > 0 ? `, ${s.cells.toLocaleString("en")} cells` : "";
    const words = [`${s.wanted.variant} at ${speedInWords(s.wanted.speed)}`];
    if (s.recipe) words.push(`${s.recipe}${cells}`);
    if (running) words.push(`iteration ${at}`);
    if (running && s.seconds_left) words.push(`at most ${clock(s.seconds_left)} left`);
    if (s.message) words.push(s.message);
    return words;
  }

  /** Anew only when there is something else to choose from: nobody's typing is lost. */
  private showControls(s: Told) {
    const now = JSON.stringify([s.variants, s.speeds, s.keys, s.wanted, s.kept]);
    if (now === this.shownControls) return;
    this.shownControls = now;
    const focused = this.controls.contains(document.activeElement)
      ? document.activeElement?.id
      : "";
    const send = async (what: unknown) => {
      const wrong = await ask(this.base, what);
      if (wrong) this.error.textContent = wrong;
    };
    const variants = choice(
      s.variants.map((v) => ({ value: v, text: v })),
      s.wanted.variant,
      (variant) => send({ want: { variant } }),
    );
    const speed = numberInput(
      Number((3.6 * s.wanted.speed).toPrecision(6)),
      (v) => send({ want: { speed: v / 3.6 } }),
      { id: "live-speed", min: 1 },
    );
    const keys = s.keys.map((k, i) =>
      labelled(
        k.unit ? `${k.key}, ${k.unit}` : k.key,
        numberInput(
          Number.parseFloat(k.value || String(k.from)),
          (v) => send({ want: { settings: { [k.key]: v } } }),
          { id: `live-key-${i}`, title: `the campaign has ${k.from} to ${k.to} ${k.unit}` },
        ),
      ),
    );
    this.controls.replaceChildren(
      group("Try", [
        labelled("variant", variants),
        labelled("speed, km/h", speed),
        ...keys,
        element(
          "div",
          { class: "buttons" },
          button("keep", () => send({ keep: true }), {
            id: "live-keep",
            title: "later tries are compared with this one",
          }),
          button("discard", () => send({ discard: true }), {
            id: "live-discard",
            title: s.kept ? `back to ${s.kept}` : "back to what is kept",
          }),
        ),
      ]),
    );
    if (focused) document.getElementById(focused)?.focus();
  }

  private showSince(s: Told) {
    const { picture, settled } = s.seconds_since_change;
    const words = [];
    if (picture !== undefined) words.push(`first picture after ${picture.toFixed(1)} s`);
    if (settled !== undefined) words.push(`settled after ${settled.toFixed(1)} s`);
    this.since.textContent = words.length > 0 ? `Since the last change: ${words.join(", ")}.` : "";
  }

  private showLog(s: Told) {
    const rows = s.tries.flatMap((t) =>
      t.figures.map((f) => [
        `${t.name}, ${f.recipe}`,
        withInterval(f.CD.mean, f.CD.half_interval_95),
        [t.is_reference ? "reference" : t.kept ? "kept" : "", t.is_present ? "shown" : ""]
          .filter((w) => w)
          .join(", "),
      ]),
    );
    const content: HTMLElement[] = [
      rows.length > 0
        ? table("Tries", ["try", "CD", ""], rows, false)
        : element("p", { class: "note" }, "Nothing is settled yet."),
    ];
    if (s.kept_text)
      content.push(
        element(
          "details",
          {},
          element("summary", {}, "What was kept, for the campaign file"),
          element("pre", { tabindex: 0 }, s.kept_text),
        ),
      );
    // What is open stays open.
    const open = this.log.querySelector("details")?.open ?? false;
    this.log.replaceChildren(...content);
    const details = this.log.querySelector("details");
    if (details) details.open = open;
  }

  private showRuns(s: Told) {
    const rows = s.runs.map((r) => [
      `${r.variant} at ${speedInWords(r.speed)}${r.settings ? `, ${r.settings}` : ""}`,
      withInterval(r.CD, r.half_interval_95),
      r.status,
    ]);
    const content: HTMLElement[] = [
      rows.length > 0
        ? table("Finished runs", ["run", "CD", "status"], rows, false)
        : element("p", { class: "note" }, "None is finished yet."),
    ];
    if (s.going_on.length > 0)
      content.push(element("p", { class: "note" }, `Going on: ${s.going_on.join(", ")}.`));
    this.runs.replaceChildren(...content);
  }
}
