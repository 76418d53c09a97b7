// The two sides of a sheet lie in one place: what looks at the eye is what is seen.

/**
 * Of the depth that the camera sees: so much nearer to the eye is what looks at it. Where the
 * vehicle's wall is a sheet, chance would show now one side and now the other.
 */
export const nearer = 2e-5;

/** Of what a ray meets, nearest first, what is seen. */
export function firstSeen<T extends { distance: number }>(
  met: T[],
  looksHere: (one: T) => boolean,
  depth: number,
): T | undefined {
  const same = (met[0]?.distance ?? 0) + nearer * depth;
  return met.find((one) => one.distance < same && looksHere(one)) ?? met[0];
}
