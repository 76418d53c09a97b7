// The page of a watched campaign: what goes on, its numbers and their change from what was kept,
// the view, controls of what is tried, the log.
import uPlot from "uplot";
import type { ViewData } from "./data";
import { button, choice, element, group, labelled, numberInput } from "./dom";
import { Viewer } from "./viewer";
import { ask, follow, type Told } from "./watching";
import { differenceInWords, signed, speedInWords, withInterval } from "./words";

function table(caption: string, head: string[], rows: string[][]): HTMLElement {
  return element(
    "div",
    { class: "scroll", tabindex: 0, role: "group", "aria-label": caption },
    element(
      "table",
      {},
      element("caption", {}, caption),
      element(
        "thead",
        {},
        element("tr", {}, ...head.map((h) => element("th", { scope: "col" }, h))),
      ),
      element(
        "tbody",
        {},
        ...rows.map((r) =>
          element(
            "tr",
            {},
            ...r.map((cell, i) =>
              element(i === 0 ? "th" : "td", i === 0 ? { scope: "row" } : {}, cell),
            ),
          ),
        ),
      ),
    ),
  );
}

/** CD over the iterations of the run that goes on. */
class HistoryChart {
  private readonly host = element("div", { class: "history" });
  private plot: uPlot | null = null;
  constructor(parent: HTMLElement) {
    parent.append(this.host);
    new ResizeObserver(() => this.plot?.setSize(this.size())).observe(this.host);
  }
  private size() {
    return { width: Math.max(200, this.host.clientWidth), height: 180 };
  }
  show(h: Told["history"]) {
    const data = [h.iteration, h.CD] as uPlot.AlignedData;
    const ink = getComputedStyle(this.host).color;
    if (!this.plot) {
      const axis = { stroke: ink, grid: { stroke: "rgba(128,128,128,0.25)" } };
      this.plot = new uPlot(
        {
          ...this.size(),
          legend: { show: false },
          cursor: { show: false },
          scales: {
            x: { time: false },
            y: { range: (_, least, most) => usualRange(h.CD, least, most) },
          },
          axes: [
            { ...axis, label: "iteration", labelSize: 20 },
            { ...axis, label: "CD", labelSize: 20, size: 60 },
          ],
          series: [{}, { stroke: "#1c6e8c", width: 2 }],
        },
        data,
        this.host,
      );
    }
    this.plot.setScale("x", { min: 0, max: Math.max(10, h.iteration.at(-1) ?? 10) });
    this.plot.setData(data);
  }
}

/** The second half's range, so that the start does not flatten the rest. */
function usualRange(values: (number | null)[], least: number, most: number): [number, number] {
  const late = values.slice(Math.floor(values.length / 2)).filter((v) => v !== null) as number[];
  const low = late.length > 0 ? Math.min(...late) : (least ?? 0);
  const high = late.length > 0 ? Math.max(...late) : (most ?? 1);
  const room = Math.max(0.02 * Math.abs(high), 0.3 * (high - low), 1e-3);
  return [low - room, high + room];
}

export class LivePage {
  viewer: Viewer | null = null;
  state: Told | null = null;
  private readonly status = element("p", { class: "live-status", role: "status" });
  private readonly error = element("p", { class: "live-error", role: "alert" });
  private readonly numbers = element("div", { class: "live-numbers" });
  private readonly controls = element("div", { class: "live-controls" });
  private readonly log = element("div", {});
  private readonly runs = element("div", {});
  private readonly viewHost = element("div", { id: "view" });
  private readonly chart: HistoryChart;
  private shownControls = "";

  constructor(
    host: HTMLElement,
    private readonly base: string,
  ) {
    const chartHost = element("section", { "aria-label": "history of CD" });
    host.replaceChildren(
      this.status,
      this.error,
      element("div", { class: "live-top" }, this.numbers, chartHost),
      this.controls,
      this.viewHost,
      element("section", {}, element("h2", {}, "Log"), this.log),
      element("section", {}, element("h2", {}, "Runs of the campaign"), this.runs),
    );
    this.chart = new HistoryChart(chartHost);
    follow(base, {
      told: (state) => this.told(state),
      viewed: (json) => this.viewed(json as ViewData),
      lost: () => this.lost(),
    });
  }

  private lost() {
    this.status.textContent =
      "The server does not answer: the program may have ended. What stands here is of before.";
    this.status.classList.add("lost");
  }

  private viewed(data: ViewData) {
    if (this.viewer) this.viewer.replace(data);
    else {
      this.viewer = new Viewer(this.viewHost, data);
      window.dunefield = { ...window.dunefield, viewer: this.viewer };
    }
  }

  private told(s: Told) {
    this.state = s;
    this.status.classList.remove("lost");
    const at = s.history.iteration.at(-1);
    const doing = s.phase === "running" && at ? `iteration ${at}` : s.message;
    const cells = s.cells > 0 ? `, ${s.cells.toLocaleString("en")} cells` : "";
    this.status.textContent = `${s.wanted.variant} at ${speedInWords(s.wanted.speed)}: ${s.phase}${
      s.recipe ? ` (${s.recipe}${cells})` : ""
    }${doing ? ` \u2013 ${doing}` : ""}`;
    this.error.textContent = s.error;
    this.showNumbers(s);
    this.chart.show(s.history);
    this.showControls(s);
    this.showLog(s);
    this.showRuns(s);
  }

  private showNumbers(s: Told) {
    const p = s.present;
    if (!p) {
      this.numbers.replaceChildren(element("p", {}, "No numbers yet."));
      return;
    }
    const c = s.change;
    const row = (name: "CD" | "CLF" | "CLR") => {
      const change = c?.[name];
      return [
        name,
        withInterval(p[name].mean, p[name].half_interval_95),
        change ? differenceInWords(change.value, change.uncertainty_95) : "",
      ];
    };
    const content: HTMLElement[] = [
      table(
        `${p.status}, ${p.recipe}`,
        ["", "mean", s.change ? "change from what is kept" : ""],
        [row("CD"), row("CLF"), row("CLR")],
      ),
    ];
    if (c && c.share_of_CD !== null)
      content.push(
        element(
          "p",
          { class: "verdict" },
          `CD ${signed(100 * c.share_of_CD, 1)} %, verdict: ${c.words}`,
        ),
      );
    const took = s.seconds_since_change;
    const since = ["picture", "settled"]
      .filter((k) => took[k] !== undefined)
      .map(
        (k) => `${k === "picture" ? "first picture" : "settled"} after ${took[k]?.toFixed(1)} s`,
      );
    if (since.length > 0)
      content.push(element("p", { class: "note" }, `Since the change: ${since.join(", ")}.`));
    this.numbers.replaceChildren(...content);
  }

  /** Anew only when there is something else to choose from: nobody's typing is lost. */
  private showControls(s: Told) {
    const now = JSON.stringify([s.variants, s.speeds, s.keys, s.wanted]);
    if (now === this.shownControls) return;
    this.shownControls = now;
    const focused = this.controls.contains(document.activeElement)
      ? document.activeElement?.id
      : "";
    const send = async (what: unknown) => {
      const wrong = await ask(this.base, what);
      if (wrong) this.error.textContent = wrong;
    };
    const content: HTMLElement[] = [
      labelled(
        "variant",
        choice(
          s.variants.map((v) => ({ value: v, text: v })),
          s.wanted.variant,
          (variant) => send({ want: { variant } }),
        ),
      ),
      labelled(
        "speed, km/h",
        numberInput(
          Number((3.6 * s.wanted.speed).toPrecision(6)),
          (v) => send({ want: { speed: v / 3.6 } }),
          {
            id: "live-speed",
            min: 1,
          },
        ),
      ),
      ...s.keys.map((k, i) =>
        labelled(
          k.unit ? `${k.key}, ${k.unit}` : k.key,
          numberInput(
            Number.parseFloat(k.value || String(k.from)),
            (v) => send({ want: { settings: { [k.key]: v } } }),
            { id: `live-key-${i}`, title: `the campaign has ${k.from} to ${k.to} ${k.unit}` },
          ),
        ),
      ),
    ];
    this.controls.replaceChildren(
      group(
        "Try",
        ...content,
        element(
          "div",
          { class: "buttons" },
          button("keep", () => send({ keep: true }), { id: "live-keep" }),
          button("discard: back to what is kept", () => send({ discard: true }), {
            id: "live-discard",
          }),
        ),
      ),
    );
    if (focused) document.getElementById(focused)?.focus();
  }

  private showLog(s: Told) {
    const rows = s.tries.flatMap((t) =>
      t.figures.map((f) => [
        t.name,
        f.recipe,
        withInterval(f.CD.mean, f.CD.half_interval_95),
        withInterval(f.CLF.mean, f.CLF.half_interval_95),
        withInterval(f.CLR.mean, f.CLR.half_interval_95),
        f.status,
        [t.is_reference ? "compared with" : t.kept ? "kept" : "", t.is_present ? "shown" : ""]
          .filter((w) => w)
          .join(", "),
      ]),
    );
    const content: HTMLElement[] = [
      rows.length > 0
        ? table("Tries", ["try", "recipe", "CD", "CLF", "CLR", "status", ""], rows)
        : element("p", {}, "Nothing is settled yet."),
    ];
    if (s.kept_text)
      content.push(
        element(
          "details",
          {},
          element("summary", {}, "What was kept, for the campaign file"),
          element("pre", {}, s.kept_text),
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
      r.recipe,
      withInterval(r.CD, r.half_interval_95),
      r.status,
    ]);
    const content: HTMLElement[] = [
      rows.length > 0
        ? table("Finished runs", ["run", "recipe", "CD", "status"], rows)
        : element("p", {}, "None is finished yet."),
    ];
    if (s.going_on.length > 0)
      content.push(element("p", {}, `Going on: ${s.going_on.join(", ")}.`));
    this.runs.replaceChildren(...content);
  }
}
