/**
 * The colour index of a drawing nearest to `#rrggbb`. The palette is made by the rule it follows (24 hues, five values, two
 * saturations, then greys), from memory; a drawing's own table of colours decides what is seen.
 */
export function nearestColourIndex(colour: string): number {
  const wanted = [1, 3, 5].map((at) => Number.parseInt(colour.slice(at, at + 2), 16)) as [number, number, number];
  let [best, least] = [7, Infinity];
  for (let index = 1; index <= 255; index++) {
    const own = rgbOf(index);
    const distance = own.reduce((sum, value, k) => sum + (value - wanted[k]!) ** 2, 0);
    if (distance < least) [best, least] = [index, distance];
  }
  return best;
}

const FIRST: readonly (readonly [number, number, number])[] = [
  ...([[255, 0, 0], [255, 255, 0], [0, 255, 0], [0, 255, 255], [0, 0, 255], [255, 0, 255]] as const), // prettier-ignore
  ...([
    [255, 255, 255],
    [128, 128, 128],
    [192, 192, 192],
  ] as const),
];
const VALUES = [255, 165, 127, 76, 38] as const;
const GREYS = [51, 91, 132, 173, 214, 255] as const;

function rgbOf(index: number): readonly [number, number, number] {
  if (index < 10) return FIRST[index - 1]!;
  if (index >= 250) {
    const grey = GREYS[index - 250]!;
    return [grey, grey, grey];
  }
  const hue = Math.floor((index - 10) / 10) * 15;
  const shade = (index - 10) % 10;
  const value = VALUES[shade >> 1]!;
  const saturation = shade % 2 === 0 ? 1 : 0.5;
  const part = (shift: number): number => {
    const k = (shift + hue / 60) % 6;
    return Math.round(value * (1 - saturation * Math.max(0, Math.min(k, 4 - k, 1))));
  };
  return [part(5), part(3), part(1)];
}
