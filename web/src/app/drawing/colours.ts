/** A colour as it lies in an `ImageData` on a little-endian machine: ABGR. */
export function abgr(hex: string): number {
  const value = parseInt(hex.slice(1), 16);
  return (0xff000000 | ((value & 255) << 16) | (value & 0xff00) | (value >> 16)) >>> 0;
}

/** Pampero's class colours: told apart by lightness as well as hue, so also by colour-blind eyes. */
export const CLASS_COLOURS: Readonly<Record<number, string>> = {
  0: '#8D9294',
  1: '#AEB2AF',
  2: '#B98A3A',
  3: '#BFD37F',
  4: '#7FAF5C',
  5: '#2F7D5B',
  6: '#8A63A8',
  7: '#C13E7A',
  8: '#D9B36A',
  9: '#3C83B8',
  10: '#5B4B3A',
  11: '#6F7B86',
  12: '#C9C2B2',
  13: '#F0D264',
  14: '#E0B400',
  15: '#B5651D',
  16: '#D98E04',
  17: '#D98C9E',
  18: '#E0569B',
  19: '#9C86C4',
  20: '#8F7A4E',
  21: '#E8F1F5',
  22: '#6B5B73',
};

export function classColour(code: number): string {
  const known = CLASS_COLOURS[code];
  if (known) return known;
  // The surveyor's own classes: steps of the golden angle round the hues keep neighbours apart.
  const hue = (code * 137.508) % 360;
  return hslToHex(hue, 0.45, 0.55);
}

function hslToHex(hue: number, saturation: number, lightness: number): string {
  const channel = (n: number): string => {
    const k = (n + hue / 30) % 12;
    const value = lightness - saturation * Math.min(lightness, 1 - lightness) * Math.max(-1, Math.min(k - 3, 9 - k, 1));
    return Math.round(value * 255)
      .toString(16)
      .padStart(2, '0');
  };
  return `#${channel(0)}${channel(8)}${channel(4)}`;
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
