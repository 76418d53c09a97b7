// Numbers as people read them, with what is not certain of them.

/** Rounded so that the uncertainty has two digits: "0.2815 ± 0.0012". */
export function withInterval(value: number | null, half: number | null, digits = 4): string {
  if (value === null) return "\u2013";
  if (half === null || !(half > 0)) return value.toFixed(digits);
  const places = Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(half))));
  return `${value.toFixed(places)} \u00b1 ${half.toFixed(places)}`;
}

export function signed(value: number, places: number): string {
  const text = Math.abs(value).toFixed(places);
  return `${value < 0 ? "\u2212" : "+"}${text}`;
}

export function differenceInWords(value: number | null, half: number | null): string {
  if (value === null) return "\u2013";
  const places =
    half === null || !(half > 0) ? 4 : Math.min(6, Math.max(0, 1 - Math.floor(Math.log10(half))));
  const interval = half === null ? "" : ` \u00b1 ${half.toFixed(places)}`;
  return `${signed(value, places)}${interval}`;
}

export function speedInWords(metresPerSecond: number): string {
  return `${Number((3.6 * metresPerSecond).toPrecision(4))} km/h`;
}

/** "2:05" */
export function clock(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, "0")}`;
}

/** "\u221216.1 \u00b1 1.2 %" of a change that is a share of the whole. */
export function shareInWords(share: number, value: number | null, half: number | null): string {
  const percent = 100 * share;
  const open = half !== null && value ? Math.abs((percent * half) / value) : null;
  return `${differenceInWords(percent, open)} %`;
}
