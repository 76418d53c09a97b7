// The numbers of the run that goes on: means with intervals, their change from what is kept, CD
// over the iterations.
import uPlot from "uplot";
import { element } from "./dom";
import type { Told } from "./watching";
import { differenceInWords, shareInWords, withInterval } from "./words";

export function table(
  name: string,
  head: string[],
  rows: string[][],
  captioned = true,
): HTMLElement {
  const cell = (text: string, i: number) =>
    element(i === 0 ? "th" : "td", i === 0 ? { scope: "row" } : {}, text);
  return element(
    "div",
    { class: "scroll", tabindex: 0, role: "group", "aria-label": name },
    element(
      "table",
      {},
      ...(captioned ? [element("caption", {}, name)] : []),
      element(
        "thead",
        {},
        element(
          "tr",
          {},
          ...head.map((h) => (h ? element("th", { scope: "col" }, h) : element("td", {}))),
        ),
      ),
      element("tbody", {}, ...rows.map((r) => element("tr", {}, ...r.map(cell)))),
    ),
  );
}

export function numbers(s: Told): HTMLElement[] {
  const p = s.present;
  if (!p) return [element("p", { class: "note" }, "Numbers come with the first iterations.")];
  const c = s.change;
  const alike = c !== null && c.recipe === p.recipe; // else the change is of an earlier run
  const row = (name: "CD" | "CLF" | "CLR") => {
    const change = c?.[name];
    return [
      name,
      withInterval(p[name].mean, p[name].half_interval_95),
      ...(alike ? [change ? differenceInWords(change.value, change.uncertainty_95) : ""] : []),
    ];
  };
  const content: HTMLElement[] = [];
  if (c && c.share_of_CD !== null)
    content.push(
      element(
        "p",
        { class: "verdict-now" },
        `CD ${shareInWords(c.share_of_CD, c.CD?.value ?? null, c.CD?.uncertainty_95 ?? null)}`,
        element("span", {}, `against what is kept, ${c.recipe}; verdict: ${c.words}`),
      ),
    );
  else
    content.push(
      element(
        "p",
        { class: "verdict-now" },
        `CD ${withInterval(p.CD.mean, p.CD.half_interval_95)}`,
        element("span", {}, p.drag_N === null ? "" : `drag ${p.drag_N.toPrecision(4)} N`),
      ),
    );
  content.push(
    table(
      `${p.status}, ${p.recipe}`,
      ["", "mean", ...(alike ? ["change"] : [])],
      [row("CD"), row("CLF"), row("CLR")],
    ),
  );
  return content;
}

/** CD over the iterations of the run that goes on. */
export class HistoryChart {
  readonly host = element("section", { class: "history", "aria-label": "history of CD" });
  private plot: uPlot | null = null;
  private values: (number | null)[] = [];
  constructor() {
    new ResizeObserver(() => this.plot?.setSize(this.size())).observe(this.host);
  }
  private size() {
    return { width: Math.max(200, this.host.clientWidth), height: 170 };
  }
  show(h: Told["history"]) {
    this.values = h.CD;
    const data = [h.iteration, h.CD] as uPlot.AlignedData;
    if (!this.plot) {
      const style = getComputedStyle(this.host);
      const axis = { stroke: style.color, grid: { stroke: "rgba(128,128,128,0.25)" } };
      this.plot = new uPlot(
        {
          ...this.size(),
          title: "CD",
          legend: { show: false },
          cursor: { show: false },
          scales: { x: { time: false }, y: { range: () => usualRange(this.values) } },
          axes: [
            { ...axis, label: "iteration", labelSize: 18 },
            { ...axis, size: 52 },
          ],
          series: [{}, { stroke: style.getPropertyValue("--accent").trim(), width: 2 }],
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
export function usualRange(values: (number | null)[]): [number, number] {
  const late = values.slice(Math.floor(values.length / 2)).filter((v) => v !== null) as number[];
  if (late.length === 0) return [0, 1];
  const low = Math.min(...late);
  const high = Math.max(...late);
  const room = Math.max(0.02 * Math.abs(high), 0.3 * (high - low), 1e-3);
  return [low - room, high + room];
}
