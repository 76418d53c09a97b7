// Small helpers to build the page: always text, never markup from data.

type Attributes = Record<string, string | number | boolean | undefined>;

export function element<K extends keyof HTMLElementTagNameMap>(
  name: K,
  attributes: Attributes = {},
  ...content: (Node | string)[]
): HTMLElementTagNameMap[K] {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes))
    if (value !== undefined && value !== false)
      made.setAttribute(key, value === true ? "" : String(value));
  made.append(...content);
  return made;
}

export function button(text: string, pressed: () => void, attributes: Attributes = {}) {
  const made = element("button", { type: "button", ...attributes }, text);
  made.addEventListener("click", pressed);
  return made;
}

let numbered = 0;

/** A control with its name before it. */
export function labelled(text: string, control: HTMLElement): HTMLElement {
  if (!control.id) control.id = `control-${++numbered}`;
  return element(
    "span",
    { class: "control" },
    element("label", { for: control.id }, text),
    control,
  );
}

export function choice(
  options: { value: string; text: string }[],
  chosen: string,
  changed: (value: string) => void,
): HTMLSelectElement {
  const made = element(
    "select",
    {},
    ...options.map((o) =>
      element("option", { value: o.value, selected: o.value === chosen }, o.text),
    ),
  );
  made.addEventListener("change", () => changed(made.value));
  return made;
}

export function tick(text: string, on: boolean, changed: (on: boolean) => void): HTMLElement {
  const box = element("input", { type: "checkbox", checked: on });
  box.addEventListener("change", () => changed(box.checked));
  return element("label", { class: "tick" }, box, ` ${text}`);
}

export function numberInput(
  value: number,
  changed: (value: number) => void,
  attributes: Attributes = {},
): HTMLInputElement {
  const made = element("input", { type: "number", step: "any", value, ...attributes });
  made.addEventListener("change", () => {
    const read = made.valueAsNumber;
    if (Number.isFinite(read)) changed(read);
  });
  return made;
}

const folded = new Map<string, boolean>(); // by title: controls are made anew all the time

/** Controls under a title that folds them away. @param open at first */
export function group(title: string, content: (Node | string)[], open = true): HTMLElement {
  const made = element(
    "details",
    { class: "group", open: !(folded.get(title) ?? !open) },
    element("summary", {}, title),
    element("div", { role: "group", "aria-label": title }, ...content),
  );
  made.addEventListener("toggle", () => folded.set(title, !made.open));
  return made;
}
