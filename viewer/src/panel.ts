// The controls of the 3-D view, made anew from its state.
import type { Range } from "./colour";
import type { Kind } from "./data";
import { button, choice, element, group, labelled, tick } from "./dom";
import { rangeControls } from "./range_controls";
import { namedViews } from "./stage";
import type { Viewer } from "./viewer";

const titles: Record<Kind, string> = {
  vehicle: "Parts",
  slice: "Slices",
  smoke: "Smoke",
  volume: "Volumes",
  cores: "Vortices",
};

export class Panel {
  readonly host = element("div", { class: "view-panel" });
  constructor(private readonly viewer: Viewer) {}

  /** The controls, anew from the state. */
  build() {
    const focused = this.host.contains(document.activeElement) ? document.activeElement?.id : "";
    this.host.replaceChildren(
      this.runControls(),
      this.colourControls(),
      this.viewControls(),
      ...(["slice", "smoke", "volume"] as Kind[])
        .map((k) => this.things(k))
        .filter((g) => g !== null),
      this.parts(),
    );
    for (const note of this.viewer.data.notes)
      this.host.append(element("p", { class: "note" }, note));
    if (focused) document.getElementById(focused)?.focus();
  }

  private runControls() {
    const s = this.viewer.state;
    const runs = this.viewer.data.runs.map((r, i) => ({ value: String(i), text: r.name }));
    const many = [1, 2, 4].filter((n) => n === 1 || this.viewer.data.runs.length >= 2);
    const content: HTMLElement[] = [];
    if (many.length > 1)
      content.push(
        labelled(
          "side by side",
          choice(
            many.map((n) => ({ value: String(n), text: String(n) })),
            String(s.layout),
            (v) => {
              s.layout = Number(v) as 1 | 2 | 4;
              this.build();
              this.viewer.show().then(() => this.viewer.lookFrom(s.view));
            },
          ),
        ),
      );
    for (let pane = 0; pane < s.layout; ++pane)
      content.push(
        labelled(
          s.layout === 1 ? "run" : `run ${pane + 1}`,
          choice(runs, String(s.shownRuns[pane]), (v) => {
            s.shownRuns[pane] = Number(v);
            this.viewer.show();
          }),
        ),
      );
    return group("Runs", content);
  }

  private colourControls() {
    const s = this.viewer.state;
    const options = (kind: Kind) => [
      { value: "", text: "plain" },
      ...this.viewer.quantitiesOf(kind).map((q) => ({ value: q, text: q })),
    ];
    const content: HTMLElement[] = [
      labelled(
        "on the vehicle",
        choice(options("vehicle"), s.surface, (v) => {
          s.surface = v;
          this.build();
          this.viewer.show();
        }),
      ),
    ];
    const air = this.viewer.quantitiesOf("slice");
    if (air.length > 0)
      content.push(
        labelled(
          "on slices",
          choice(options("slice").slice(1), s.air, (v) => {
            s.air = v;
            this.build();
            this.viewer.show();
          }),
        ),
      );
    const ranged = new Set([s.surface, air.length > 0 ? s.air : ""].filter((q) => q !== ""));
    for (const quantity of ranged) content.push(this.rangeControls(quantity));
    return group("Colours", content);
  }

  private rangeControls(quantity: string) {
    const range = this.viewer.state.ranges.get(quantity) as Range;
    const change = (wanted: Range) => {
      Object.assign(range, wanted);
      this.viewer.show();
    };
    const refused = (why: string) => this.viewer.tell(why);
    return rangeControls(quantity, this.viewer.data.scales[quantity], range, change, refused);
  }

  private viewControls() {
    const views = element("div", { class: "buttons" });
    for (const name of Object.keys(namedViews))
      views.append(button(name, () => this.viewer.lookFrom(name)));
    const measure = button(
      "measure",
      () => {
        this.viewer.state.measuring = !this.viewer.state.measuring;
        this.viewer.state.measured = [];
        measure.setAttribute("aria-pressed", String(this.viewer.state.measuring));
        this.viewer.tell(
          this.viewer.state.measuring ? "Choose two points on the vehicle or a slice." : "",
        );
      },
      { "aria-pressed": this.viewer.state.measuring },
    );
    const tools = element("div", { class: "buttons" }, measure);
    if (document.fullscreenEnabled)
      tools.append(button("full screen", () => this.viewer.frame.requestFullscreen()));
    tools.append(button("save the picture", () => this.viewer.savePicture()));
    return group("View", [views, tools]);
  }

  private things(kind: Kind): HTMLElement | null {
    const names = this.viewer.names(kind);
    if (names.length === 0) return null;
    return group(titles[kind], [
      ...names.map((name) =>
        tick(name, this.viewer.state.shownThings.has(`${kind}/${name}`), (on) => {
          if (on) this.viewer.state.shownThings.add(`${kind}/${name}`);
          else this.viewer.state.shownThings.delete(`${kind}/${name}`);
          this.viewer.show();
        }),
      ),
    ]);
  }

  private parts() {
    const names = this.viewer.names("vehicle");
    const all = (hidden: boolean) => {
      this.viewer.state.hiddenParts = new Set(hidden ? names : []);
      this.build();
      this.viewer.show();
    };
    return group(titles.vehicle, [
      element(
        "div",
        { class: "buttons" },
        button("all", () => all(false)),
        button("none", () => all(true)),
      ),
      tick("see through", this.viewer.state.translucent, (on) => {
        this.viewer.state.translucent = on;
        this.viewer.show();
      }),
      ...names.map((name) =>
        tick(name, !this.viewer.state.hiddenParts.has(name), (on) => {
          if (on) this.viewer.state.hiddenParts.delete(name);
          else this.viewer.state.hiddenParts.add(name);
          this.viewer.show();
        }),
      ),
    ]);
  }
}
