// The controls of a quantity's range.
import { type Range, unitOf } from "./colour";
import type { Scale } from "./data";
import { choice, element, labelled, numberInput } from "./dom";

/**
 * @param changed told of the range that is wanted
 * @param refused told why one cannot be
 */
export function rangeControls(
  quantity: string,
  scale: Scale | undefined,
  range: Range,
  changed: (range: Range) => void,
  refused: (why: string) => void,
): HTMLElement {
  const change = (next: Partial<Range>) => {
    const wanted = { ...range, ...next };
    if (wanted.most > wanted.least) changed(wanted);
    else refused("The range is empty: the second number must be larger.");
  };
  const unit = unitOf(scale);
  return element(
    "div",
    { class: "range", role: "group", "aria-label": `range of ${quantity}` },
    element("span", {}, unit ? `${quantity}, ${unit}` : quantity),
    labelled(
      "from",
      numberInput(range.least, (v) => change({ least: v })),
    ),
    labelled(
      "to",
      numberInput(range.most, (v) => change({ most: v })),
    ),
    labelled(
      "steps",
      choice(
        [0, 5, 8, 10, 16, 20].map((n) => ({
          value: String(n),
          text: n === 0 ? "smooth" : String(n),
        })),
        String(range.steps),
        (v) => change({ steps: Number(v) }),
      ),
    ),
  );
}
