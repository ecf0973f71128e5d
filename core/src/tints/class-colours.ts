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

/** Hue in degrees, saturation and lightness from 0 to 1, as #rrggbb. */
export function hslToHex(hue: number, saturation: number, lightness: number): string {
  const channel = (n: number): string => {
    const k = (n + hue / 30) % 12;
    const value = lightness - saturation * Math.min(lightness, 1 - lightness) * Math.max(-1, Math.min(k - 3, 9 - k, 1));
    return Math.round(value * 255)
      .toString(16)
      .padStart(2, '0');
  };
  return `#${channel(0)}${channel(8)}${channel(4)}`;
}
