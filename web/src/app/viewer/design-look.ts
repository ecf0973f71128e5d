import { RAMP_SIZE, rgbOf } from '@pampero/core/tints';

/** Alternatives are told apart by these, in turn; safe for colour-blind eyes, and none of them a colour of the land. */
const COLOURS = ['#d1603d', '#6a4c93', '#1b7f9e', '#b08900'] as const;

/** Designs let the ground be seen through them. */
export const DESIGN_OPACITY = 0.75;

/** The colour of the n-th design. */
export function designColour(n: number): string {
  return COLOURS[n % COLOURS.length]!;
}

/** The same as a table of tints that are all alike. */
export function designTable(n: number): Uint32Array {
  const [red, green, blue] = rgbOf(designColour(n));
  return new Uint32Array(RAMP_SIZE).fill(((255 << 24) | (blue << 16) | (green << 8) | red) >>> 0);
}
