import { hslToHex } from '@pampero/core/tints';

/** A colour as it lies in an `ImageData` on a little-endian machine: ABGR. */
export function abgr(hex: string): number {
  const value = parseInt(hex.slice(1), 16);
  return (0xff000000 | ((value & 255) << 16) | (value & 0xff00) | (value >> 16)) >>> 0;
}

/** Colours of strips, by number: neighbours in time are far apart in hue. */
export function stripColour(id: number): string {
  return hslToHex((id * 137.508 + 200) % 360, 0.5, 0.42 + 0.18 * ((id % 3) / 2));
}

/** Colours of single, first, intermediate and last returns. */
export const RETURN_COLOURS = {
  single: '#C9C2B2',
  first: '#5C9E57',
  intermediate: '#E0B400',
  last: '#9A6A3A',
} as const;
