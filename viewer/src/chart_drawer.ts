// Charts of the runs in view, below it; where the pointer is in a chart is marked in the view.
import * as THREE from "three";
import uPlot from "uplot";
import { choice, element, labelled } from "./dom";
import type { Explore } from "./explore";
import type { PlaneLook } from "./looks";

interface ChartTold {
  title: string;
  x_title: string;
  footer: string;
  x_names: string[];
  panels: {
    title: string;
    downward: boolean;
    lines: { name: string; x: number[]; y: (number | null)[] }[];
  }[];
}

const inks = ["#1c6e8c", "#b3541e", "#5b7f3a", "#7d4a91"];

/** One list of x for all lines, with gaps where a line has none. */
export function joined(lines: { x: number[]; y: (number | null)[] }[]): (number | null)[][] {
  const all = [...new Set(lines.flatMap((l) => l.x))].sort((a, b) => a - b);
  const place = new Map(all.map((x, i) => [x, i]));
  const columns = lines.map((l) => {
    const column: (number | null)[] = new Array(all.length).fill(null);
    l.x.forEach((x, i) => {
      column[place.get(x) as number] = l.y[i] ?? null;
    });
    return column;
  });
  return [all, ...columns];
}

export class ChartDrawer {
  readonly host = element("section", { class: "chart-drawer", "aria-label": "charts" });
  private readonly plots = element("div", { class: "chart-plots" });
  private readonly mark = element("div", { class: "chart-mark", "aria-hidden": "true" });
  private chosen = "";
  private asked = "";
  private made: uPlot[] = [];

  constructor(private readonly page: Explore) {
    const options = [
      { value: "", text: "no chart" },
      { value: "section", text: "Cp along a cut" },
      { value: "build-up", text: "build-up along the car" },
      { value: "history", text: "history" },
    ];
    this.host.append(
      labelled(
        "chart",
        choice(options, "", (v) => {
          this.chosen = v;
          this.refresh();
        }),
      ),
      this.plots,
    );
    page.viewer.frame.append(this.mark);
    this.mark.hidden = true;
  }

  /** A cut is where the first plane stands that is moved across the car. */
  private words(): string {
    if (this.chosen !== "section") return this.chosen;
    const plane = this.page.scene.looks.find((l): l is PlaneLook => l.kind === "slice" && l.on);
    return plane && plane.axis !== "x"
      ? `section, ${plane.axis} = ${plane.at} m`
      : "section, y = 0";
  }

  async refresh() {
    const words = this.words();
    const { scene, version } = this.page;
    const asked = words && `${words} ${scene.shown.slice(0, scene.layout).join()} ${version}`;
    if (asked === this.asked) return;
    this.asked = asked;
    if (!words) return this.clear();
    try {
      const told = (await this.page.askChart(words)) as ChartTold;
      if (asked === this.asked) this.show(told);
    } catch (error) {
      this.clear();
      this.page.viewer.tell(String(error).replace(/^Error: /, ""));
    }
  }
  private clear() {
    for (const p of this.made) p.destroy();
    this.made = [];
    this.plots.replaceChildren();
    this.mark.hidden = true;
  }

  private show(chart: ChartTold) {
    this.clear();
    const ink = getComputedStyle(this.host).color;
    const panels = chart.panels.slice(0, 2);
    for (const panel of panels) {
      const box = element("div", { role: "img", "aria-label": `${chart.title}: ${panel.title}` });
      this.plots.append(box);
      const axis = { stroke: ink, grid: { stroke: "rgba(128,128,128,0.25)" } };
      const along = chart.x_title.startsWith("x");
      this.made.push(
        new uPlot(
          {
            width: Math.max(200, this.plots.clientWidth / panels.length - 8),
            height: 170,
            title: panel.title,
            cursor: { y: false },
            legend: { show: panel.lines.length > 1 },
            scales: { x: { time: false }, y: { dir: panel.downward ? -1 : 1 } },
            axes: [
              { ...axis, label: chart.x_title, labelSize: 18 },
              { ...axis, size: 54 },
            ],
            series: [
              { label: chart.x_title },
              ...panel.lines.map((l, i) => ({
                label: l.name || panel.title,
                stroke: inks[i % inks.length] as string,
                // A cut goes round the body: points, since lines would join top and bottom.
                ...(this.chosen === "section"
                  ? { paths: () => null, points: { show: true, size: 3 } }
                  : { width: 1.6, spanGaps: true }),
              })),
            ],
            hooks: {
              setCursor: [
                (u: uPlot) => {
                  const i = u.cursor.idx;
                  this.markAt(along && i != null ? (u.data[0][i] as number) : null);
                },
              ],
            },
          },
          joined(panel.lines) as uPlot.AlignedData,
          box,
        ),
      );
    }
  }

  private markAt(x: number | null) {
    this.mark.hidden = x === null;
    if (x === null) return;
    const { min, max } = this.page.box;
    const low = this.page.viewer.stage.placeOf(new THREE.Vector3(x, 0, min.z), 0);
    const high = this.page.viewer.stage.placeOf(new THREE.Vector3(x, 0, max.z * 1.1), 0);
    const length = Math.hypot(high[0] - low[0], high[1] - low[1]);
    const turn = Math.atan2(low[1] - high[1], low[0] - high[0]);
    this.mark.style.width = `${length}px`;
    this.mark.style.transform = `translate(${high[0]}px, ${high[1]}px) rotate(${turn}rad)`;
  }
}
