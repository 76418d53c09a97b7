// Controls of what an explored view shows: quantities, ranges, planes, smoke, volumes.
import type { Range } from "./colour";
import { button, choice, element, group, labelled, numberInput, tick } from "./dom";
import type { Explore, QuantityTold } from "./explore";
import type { Look, PlaneLook, SmokeLook, VolumeLook } from "./looks";
import { rangeControls } from "./range_controls";

export const texts = (names: string[]) => names.map((n) => ({ value: n, text: n }));

export class LookControls {
  constructor(private readonly page: Explore) {}

  private quantities(where: "in_air" | "on_wall"): string[] {
    const shown = this.page.scene.shown.slice(0, this.page.scene.layout);
    const lists = shown.map((r) => this.page.told.runs[r]?.quantities ?? []);
    const first: QuantityTold[] = lists[0] ?? [];
    return first
      .filter((q) => q[where] && !q.vector && lists.every((l) => l.some((o) => o.name === q.name)))
      .map((q) => q.name);
  }
  /** A quantity of the list, or a formula. */
  quantity(
    chosen: string,
    where: "in_air" | "on_wall",
    plain: boolean,
    id: string,
    changed: (name: string) => void,
  ) {
    const names = this.quantities(where);
    if (chosen && !names.includes(chosen)) names.push(chosen);
    const options = [...(plain ? [{ value: "", text: "plain" }] : []), ...texts(names)];
    const select = choice([...options, { value: "=", text: "a formula ..." }], chosen, (v) => {
      if (v !== "=") return changed(v);
      const formula = window.prompt("A formula of the quantities, like = 1 - total_Cp", "= ");
      if (formula?.startsWith("=")) changed(formula.trim());
      else this.page.panel.build();
    });
    select.id = id;
    return select;
  }

  /** Set once, it is kept whatever is shown. */
  range(quantity: string) {
    const range = this.page.viewer.state.ranges.get(quantity) as Range | undefined;
    if (!range) return element("p", { class: "note" }, quantity);
    const change = (r: Range) => {
      this.page.scene.ranges[quantity] = [r.least, r.most, r.steps];
      this.page.changed();
    };
    const { data } = this.page.viewer;
    const refused = (why: string) => this.page.viewer.tell(why);
    return rangeControls(quantity, data.scales[quantity], range, change, refused);
  }

  private quantityOf(look: PlaneLook | SmokeLook | VolumeLook, title: string, plain: boolean) {
    const id = `explore-quantity-${look.id}`;
    const select = this.quantity(look.quantity, "in_air", plain, id, (v) => {
      look.quantity = v;
      this.page.changed();
    });
    return labelled(title, select);
  }
  /** A choice among words that changes the page. */
  private words<T extends string>(title: string, known: T[], now: T, set: (v: T) => void) {
    const select = choice(texts(known), now, (v) => {
      set(v as T);
      this.page.changed();
    });
    return labelled(title, select);
  }

  private head(look: Look, title: string) {
    return element(
      "div",
      { class: "look-head" },
      tick(title, look.on, (on) => {
        look.on = on;
        this.page.changed();
      }),
      button("\u00d7", () => this.page.remove(look), {
        "aria-label": `remove ${title}`,
        title: "remove",
      }),
    );
  }

  planes() {
    const planes = this.page.scene.looks.filter((l): l is PlaneLook => l.kind === "slice");
    const ranged = new Set(planes.filter((l) => l.on).map((l) => l.quantity));
    return group("Planes", [
      element(
        "div",
        { class: "buttons" },
        ...(["x", "y", "z"] as const).map((axis) =>
          button(`+ ${axis}`, () => this.page.addPlane(axis), {
            id: `explore-plane-${axis}`,
            title: `a plane across ${axis}`,
          }),
        ),
      ),
      ...planes.map((l) => this.plane(l)),
      ...[...ranged].map((q) => this.range(q)),
    ]);
  }
  private plane(look: PlaneLook) {
    const [least, most] = this.page.rangeOfPlane(look.axis);
    const slider = element("input", {
      type: "range",
      min: least,
      max: most,
      step: 0.005,
      value: look.at,
      id: `explore-slider-${look.id}`,
      "aria-label": `place of the plane ${look.axis}, m`,
    });
    slider.addEventListener("input", () => this.page.moveTo(look, slider.valueAsNumber, false));
    slider.addEventListener("change", () => this.page.moveTo(look, slider.valueAsNumber, true));
    return element(
      "div",
      { class: "look" },
      this.head(look, `plane ${look.axis}`),
      slider,
      labelled(
        `${look.axis}, m`,
        numberInput(look.at, (v) => this.page.moveTo(look, v, true), {
          id: `explore-at-${look.id}`,
        }),
      ),
      button("play", () => this.page.play(look), { title: "through the car" }),
      this.quantityOf(look, "colour", false),
      tick("iso-lines", look.lines, (on) => {
        look.lines = on;
        this.page.changed();
      }),
      tick("arrows", look.arrows, (on) => {
        look.arrows = on;
        this.page.changed();
      }),
    );
  }

  smokes() {
    const smokes = this.page.scene.looks.filter((l): l is SmokeLook => l.kind === "smoke");
    const p = this.page;
    return group("Smoke", [
      element(
        "div",
        { class: "buttons" },
        button("place by click", () => p.place(!p.isPlacing), {
          "aria-pressed": p.isPlacing,
          id: "explore-place",
        }),
        button("+ from ahead", () => p.addSmoke("ahead")),
        button("+ around the vortex", () => p.addSmoke("vortex")),
        button("+ at stagnation points", () => p.addSmoke("stagnation")),
      ),
      ...smokes.map((l) => this.smoke(l)),
    ]);
  }
  private smoke(look: SmokeLook) {
    const placed = look.form === "rake" || look.form === "circle" || look.form === "point";
    const change = () => this.page.changed();
    const content: HTMLElement[] = [this.head(look, placed ? "smoke" : `smoke: ${look.form}`)];
    if (placed) {
      const forms: SmokeLook["form"][] = ["rake", "circle", "point"];
      content.push(
        this.words("form", forms, look.form, (v) => {
          look.form = v;
        }),
      );
      (["x", "y", "z"] as const).forEach((axis, k) => {
        content.push(
          labelled(
            `${axis}, m`,
            numberInput(
              look.at[k] as number,
              (v) => {
                look.at[k] = v;
                change();
              },
              { id: `explore-smoke-${look.id}-${axis}` },
            ),
          ),
        );
      });
      if (look.form !== "point")
        content.push(
          labelled(
            look.form === "rake" ? "half height, m" : "radius, m",
            numberInput(
              look.size,
              (v) => {
                if (v > 0) look.size = v;
                change();
              },
              { min: 0.001 },
            ),
          ),
        );
    }
    if (look.form !== "point")
      content.push(
        labelled(
          "lines",
          numberInput(
            look.count,
            (v) => {
              look.count = Math.min(400, Math.max(1, Math.round(v)));
              change();
            },
            { min: 1, max: 400 },
          ),
        ),
      );
    content.push(
      this.words("direction", ["forward", "backward", "both ways"], look.way, (v) => {
        look.way = v;
      }),
      this.quantityOf(look, "colour", true),
    );
    return element("div", { class: "look" }, ...content);
  }

  volumes() {
    const p = this.page;
    const volumes = p.scene.looks.filter((l): l is VolumeLook => l.kind === "volume");
    const cores = p.scene.looks.find((l) => l.kind === "cores");
    return group("Volumes and vortices", [
      element(
        "div",
        { class: "buttons" },
        button(
          "+ volume",
          () =>
            p.add({
              id: p.nextId(),
              kind: "volume",
              on: true,
              quantity: "total Cp",
              level: 0,
              colour: "",
            }),
          { id: "explore-volume" },
        ),
      ),
      ...volumes.map((l) => this.volume(l)),
      tick("vortex cores", cores?.on ?? false, (on) => {
        if (cores) cores.on = on;
        else p.scene.looks.push({ id: p.nextId(), kind: "cores", on });
        p.changed();
      }),
    ]);
  }
  private volume(look: VolumeLook) {
    const scale = this.page.viewer.data.scales[look.quantity];
    const least = scale?.least ?? -1;
    const most = scale?.most ?? 1;
    const slider = element("input", {
      type: "range",
      min: least,
      max: most,
      step: (most - least) / 200,
      value: look.level,
      id: `explore-slider-${look.id}`,
      "aria-label": "level of the volume",
    });
    slider.addEventListener("change", () => {
      look.level = slider.valueAsNumber;
      this.page.changed();
    });
    return element(
      "div",
      { class: "look" },
      this.head(look, "volume"),
      this.quantityOf(look, "of", false),
      slider,
      labelled(
        "level",
        numberInput(
          Number(look.level.toPrecision(4)),
          (v) => {
            look.level = v;
            this.page.changed();
          },
          { id: `explore-level-${look.id}` },
        ),
      ),
      labelled(
        "colour",
        this.quantity(look.colour, "in_air", true, `explore-colour-${look.id}`, (v) => {
          look.colour = v;
          this.page.changed();
        }),
      ),
    );
  }
}
