// What the server of a watched campaign tells, and how it is asked: as often as there is something
// new, and again when it has not answered.

export interface Mean {
  mean: number | null;
  half_interval_95: number | null;
}
export interface FiguresTold {
  CD: Mean;
  CLF: Mean;
  CLR: Mean;
  drag_N: number | null;
  status: string;
  recipe: string;
}
export interface DifferenceTold {
  value: number | null;
  uncertainty_95: number | null;
}
export interface TryTold {
  number: number;
  name: string;
  kept: boolean;
  is_reference: boolean;
  is_present: boolean;
  figures: FiguresTold[];
}
export interface KeyTold {
  key: string;
  from: number;
  to: number;
  unit: string;
  value: string;
}
export interface Told {
  version: number;
  view: number;
  campaign: string;
  phase: string;
  message: string;
  error: string;
  recipe: string;
  cells: number;
  seconds_left: number | null;
  variants: string[];
  speeds: number[];
  wanted: { variant: string; speed: number; settings: Record<string, string> };
  keys: KeyTold[];
  history: {
    iteration: number[];
    CD: (number | null)[];
    CLF: (number | null)[];
    CLR: (number | null)[];
  };
  present: FiguresTold | null;
  change: {
    CD: DifferenceTold | null;
    CLF: DifferenceTold | null;
    CLR: DifferenceTold | null;
    share_of_CD: number | null;
    recipe: string;
    words: string;
  } | null;
  kept: string | null;
  tries: TryTold[];
  kept_text: string;
  runs: {
    variant: string;
    speed: number;
    settings: string;
    recipe: string;
    status: string;
    CD: number | null;
    half_interval_95: number | null;
  }[];
  going_on: string[];
  seconds_since_change: Record<string, number>;
}

export interface Listener {
  told(state: Told): void;
  viewed(): Promise<void>; // there is something new to look at
  lost(): void;
}

const between = 400; // ms
const again = 1500; // ms, after no answer

/** Asks for ever; one question at a time. */
export async function follow(base: string, listener: Listener) {
  let version = -1;
  let view = 0;
  for (;;) {
    let pause = between;
    try {
      const answer = await fetch(`${base}state?after=${version}`);
      if (answer.status === 200) {
        const state = (await answer.json()) as Told;
        if (state.version < version) view = 0; // another server
        version = state.version;
        listener.told(state);
        if (state.view > view) {
          view = state.view;
          await listener.viewed();
        }
      } else if (answer.status !== 204) throw new Error(String(answer.status));
    } catch {
      listener.lost();
      version = -1;
      view = 0;
      pause = again;
    }
    await new Promise((next) => setTimeout(next, pause));
  }
}

/** @returns what was wrong with it; empty: nothing */
export async function ask(base: string, what: unknown): Promise<string> {
  try {
    const answer = await fetch(`${base}ask`, { method: "POST", body: JSON.stringify(what) });
    return answer.ok ? "" : await answer.text();
  } catch {
    return "The server does not answer.";
  }
}
