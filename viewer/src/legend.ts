// The legend of a quantity: its colours, round marks, its unit.
import { colourOf, css, type Range, type Rgb, roundMarks, shown } from "./colour";
import { element } from "./dom";

export function legend(title: string, range: Range, palette: Rgb[]): HTMLElement {
  const pieces = range.steps > 0 ? range.steps : 32;
  const colours: string[] = [];
  for (let i = 0; i < pieces; ++i) {
    const value = range.least + ((i + 0.5) / pieces) * (range.most - range.least);
    const colour = css(colourOf(value, range, palette));
    colours.push(`${colour} ${(100 * i) / pieces}%`, `${colour} ${(100 * (i + 1)) / pieces}%`);
  }
  const bar = element("div", { class: "legend-bar" });
  bar.style.background = `linear-gradient(to right, ${colours.join(", ")})`;
  const marks = element("div", { class: "legend-marks", "aria-hidden": "true" });
  for (const mark of roundMarks(range.least, range.most, 4)) {
    const place = (mark - range.least) / (range.most - range.least);
    const word = element("span", {}, shown(mark));
    word.style.left = `${100 * place}%`;
    marks.append(word);
  }
  return element(
    "div",
    {
      class: "legend",
      role: "img",
      "aria-label": `${title}: colours from ${shown(range.least)} to ${shown(range.most)}`,
    },
    element("div", { class: "legend-title" }, title),
    bar,
    marks,
  );
}
