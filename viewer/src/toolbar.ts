// The bar above the view: standard views, steps back and forth, measuring, the picture.
import { button, element } from "./dom";
import type { Explore } from "./explore";
import { namedViews } from "./stage";

export class Toolbar {
  readonly host = element("div", { class: "toolbar", role: "toolbar", "aria-label": "view" });

  constructor(page: Explore) {
    const measure = button(
      "measure",
      () => {
        const s = page.viewer.state;
        s.measuring = !s.measuring;
        s.measured = [];
        measure.setAttribute("aria-pressed", String(s.measuring));
        page.viewer.tell(s.measuring ? "Click on two points." : "");
      },
      { "aria-pressed": "false", id: "explore-measure" },
    );
    const controls = button("\u2630", () => this.fold(controls, page), {
      "aria-expanded": "true",
      "aria-label": "controls",
      title: "show or hide the controls on the left",
    });
    this.host.append(
      controls,
      part(
        button("\u21b6", () => page.undo(), { title: "undo, Ctrl-Z", "aria-label": "undo" }),
        button("\u21b7", () => page.redo(), { title: "redo, Ctrl-Shift-Z", "aria-label": "redo" }),
      ),
      part(
        ...Object.keys(namedViews).map((name, i) =>
          button(
            name.replace("three-quarter", "3/4"),
            () => {
              page.viewer.lookFrom(name);
              page.changed();
            },
            { title: `${name}, key ${i + 1}` },
          ),
        ),
      ),
      measure,
      button("save", () => page.viewer.savePicture(), { title: "save the picture as PNG" }),
    );
  }

  private fold(pressed: HTMLElement, page: Explore) {
    const hidden = !page.panel.host.hidden;
    page.panel.host.hidden = hidden;
    pressed.setAttribute("aria-expanded", String(!hidden));
  }
}

function part(...buttons: HTMLElement[]): HTMLElement {
  return element("span", { class: "toolbar-part" }, ...buttons);
}
