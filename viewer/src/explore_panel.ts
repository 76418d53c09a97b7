// The controls of the page that looks at finished runs, made anew from its scene.
import { button, choice, element, group, labelled, tick } from "./dom";
import type { Explore } from "./explore";
import { LookControls, texts } from "./look_controls";
import { commandOf, tableOf } from "./looks";

export class ExplorePanel {
  readonly host = element("div", { class: "view-panel" });
  private partFilter = "";
  private readonly looks: LookControls;
  constructor(private readonly page: Explore) {
    this.looks = new LookControls(page);
  }

  build() {
    if (!this.page.viewer) return; // it is still being made
    const focused = this.host.contains(document.activeElement) ? document.activeElement?.id : "";
    const top = this.host.scrollTop;
    this.host.replaceChildren(
      this.runs(),
      this.surface(),
      this.looks.planes(),
      this.looks.smokes(),
      this.looks.volumes(),
      this.parts(),
      this.words(),
    );
    this.host.scrollTop = top;
    if (focused) document.getElementById(focused)?.focus();
  }

  private runs() {
    const { scene, told } = this.page;
    const [only] = told.runs;
    if (told.runs.length < 2)
      return group("Run", [
        element("p", { class: "note" }, (only?.folder ? only.summary : only?.name) ?? ""),
      ]);
    const options = told.runs.map((r, i) => ({ value: String(i), text: r.name }));
    const content: HTMLElement[] = [
      labelled(
        "side by side",
        choice(texts(["1", "2", "4"]), String(scene.layout), (v) => {
          scene.layout = Number(v) as 1 | 2 | 4;
          this.page.changed();
          this.page.viewer.lookFrom(this.page.viewer.state.view);
        }),
      ),
    ];
    for (let pane = 0; pane < scene.layout; ++pane)
      content.push(
        labelled(
          scene.layout === 1 ? "run" : `run ${pane + 1}`,
          choice(options, String(scene.shown[pane]), (v) => {
            scene.shown[pane] = Number(v);
            this.page.changed();
          }),
        ),
      );
    content.push(
      labelled(
        "change from",
        choice([{ value: "-1", text: "no other run" }, ...options], String(scene.against), (v) => {
          scene.against = Number(v);
          this.page.changed();
        }),
      ),
    );
    return group("Runs", content);
  }

  private surface() {
    const { scene } = this.page;
    const s = scene.surface;
    const content: HTMLElement[] = [
      labelled(
        "colour",
        this.looks.quantity(s.quantity, "on_wall", true, "explore-surface", (v) => {
          s.quantity = v;
          this.page.changed();
        }),
      ),
    ];
    for (const [key, text] of [
      ["separation", "separation and attachment"],
      ["tufts", "tufts"],
      ["lines", "iso-lines"],
    ] as const)
      content.push(
        tick(text, s[key], (on) => {
          s[key] = on;
          this.page.changed();
        }),
      );
    content.push(
      tick("translucent", scene.translucent, (on) => {
        scene.translucent = on;
        this.page.changed();
      }),
    );
    if (s.quantity) content.push(this.looks.range(s.quantity));
    return group("Vehicle", content);
  }

  private parts() {
    const names = this.page.viewer.names("vehicle");
    const { scene } = this.page;
    const list = element("div", {});
    const fill = () => {
      const found = names.filter((n) => n.toLowerCase().includes(this.partFilter.toLowerCase()));
      list.replaceChildren(
        ...found.map((name) =>
          tick(name, !scene.hidden.includes(name), (on) => {
            scene.hidden = scene.hidden.filter((h) => h !== name);
            if (!on) scene.hidden.push(name);
            this.page.changed();
          }),
        ),
      );
    };
    fill();
    const search = element("input", {
      type: "search",
      id: "explore-parts",
      placeholder: "search",
      value: this.partFilter,
    });
    search.addEventListener("input", () => {
      this.partFilter = search.value;
      fill();
    });
    const all = (hidden: string[]) => () => {
      scene.hidden = hidden;
      this.page.changed();
    };
    return group("Parts", [
      labelled("find", search),
      element(
        "div",
        { class: "buttons" },
        button("all", all([])),
        button("none", all(names.slice())),
      ),
      list,
    ]);
  }

  private words() {
    const { scene, told } = this.page;
    const camera = this.page.camera();
    const command = commandOf(
      scene,
      told.runs.map((r) => r.folder),
      camera,
    );
    const table = tableOf(scene, "found by hand", camera);
    const copy = (text: string) => () =>
      navigator.clipboard.writeText(text).then(
        () => this.page.viewer.tell("Copied."),
        () =>
          this.page.viewer.tell("The browser does not let the page copy: take it from the box."),
      );
    const forFile = button("copy for the campaign file", copy(table), { id: "explore-table" });
    const stored = told.runs.every((r) => r.folder); // else there is no run yet to draw from
    return group("As words", [
      element(
        "div",
        { class: "buttons" },
        ...(stored ? [button("copy as command", copy(command), { id: "explore-command" })] : []),
        forFile,
      ),
      element(
        "pre",
        { class: "words", tabindex: 0, "aria-label": "the same picture in words" },
        stored ? command : table,
      ),
    ]);
  }
}
