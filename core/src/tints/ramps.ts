/**
 * Colour ramps that are even to the eye: lightness rises (or, for differences, falls to either side) by equal steps of OKLab
 * (Ottosson 2020), so that equal steps of a value look equal, also to colour-blind eyes and in grey print.
 */
export type RampId = 'land' | 'dusk' | 'grey' | 'either-side';

interface Stop {
  readonly lightness: number;
  readonly chroma: number;
  /** Degrees. */
  readonly hue: number;
}

const STOPS: Readonly<Record<RampId, readonly Stop[]>> = {
  land: [
    { lightness: 0.38, chroma: 0.065, hue: 225 },
    { lightness: 0.57, chroma: 0.08, hue: 175 },
    { lightness: 0.76, chroma: 0.1, hue: 110 },
    { lightness: 0.94, chroma: 0.055, hue: 78 },
  ],
  dusk: [
    { lightness: 0.3, chroma: 0.1, hue: 285 },
    { lightness: 0.52, chroma: 0.15, hue: 345 },
    { lightness: 0.74, chroma: 0.13, hue: 45 },
    { lightness: 0.96, chroma: 0.05, hue: 95 },
  ],
  grey: [
    { lightness: 0.22, chroma: 0.004, hue: 230 },
    { lightness: 0.96, chroma: 0.01, hue: 90 },
  ],
  'either-side': [
    { lightness: 0.46, chroma: 0.11, hue: 240 },
    { lightness: 0.95, chroma: 0.01, hue: 240 },
    { lightness: 0.95, chroma: 0.01, hue: 45 },
    { lightness: 0.46, chroma: 0.13, hue: 45 },
  ],
};

export const RAMPS: readonly { readonly id: RampId; readonly name: string }[] = [
  { id: 'land', name: 'Water to stone' },
  { id: 'dusk', name: 'Dusk' },
  { id: 'grey', name: 'Grey' },
  { id: 'either-side', name: 'To either side' },
];

/** Where along a ramp its stops lie: the two middle ones of a two-sided ramp coincide. */
function placesOf(id: RampId): readonly number[] {
  return id === 'either-side' ? [0, 0.5, 0.5, 1] : STOPS[id].map((_, i, all) => i / (all.length - 1));
}

export const RAMP_SIZE = 1024;

const made = new Map<RampId, Uint32Array>();

/** The ramp as {@link RAMP_SIZE} colours, ABGR as an `ImageData` has them on a little-endian machine. */
export function rampTable(id: RampId): Uint32Array {
  let table = made.get(id);
  if (!table) {
    table = new Uint32Array(RAMP_SIZE);
    for (let i = 0; i < RAMP_SIZE; i++) {
      const [r, g, b] = rampColour(id, i / (RAMP_SIZE - 1));
      table[i] = (0xff000000 | (b << 16) | (g << 8) | r) >>> 0;
    }
    made.set(id, table);
  }
  return table;
}

/** The colour at a share of the way, red, green and blue from 0 to 255. */
export function rampColour(id: RampId, share: number): [number, number, number] {
  const stops = STOPS[id];
  const places = placesOf(id);
  let k = 0;
  while (k < stops.length - 2 && share > places[k + 1]!) k++;
  const [a, b] = [stops[k]!, stops[k + 1]!];
  const span = places[k + 1]! - places[k]!;
  const t = span === 0 ? 0 : Math.max(0, Math.min(1, (share - places[k]!) / span));
  const mix = (of: keyof Stop): number => a[of] + (b[of] - a[of]) * t;
  // Hues go round by the shorter way.
  const turn = ((b.hue - a.hue + 540) % 360) - 180;
  return oklchToRgb(mix('lightness'), mix('chroma'), a.hue + turn * t);
}

/** The ramp as a CSS gradient, for legends. */
export function rampGradient(id: RampId): string {
  const stops = Array.from({ length: 17 }, (_, i) => `rgb(${rampColour(id, i / 16).join(' ')})`);
  return `linear-gradient(90deg, ${stops.join(', ')})`;
}

/** A share of the way from one colour to another, in OKLab. */
export function mixColours(
  a: readonly [number, number, number],
  b: readonly [number, number, number],
  share: number,
): [number, number, number] {
  const [p, q] = [oklabOf(a), oklabOf(b)];
  const at = (k: 0 | 1 | 2): number => p[k] + (q[k] - p[k]) * share;
  return oklabToRgb(at(0), at(1), at(2));
}

/** sRGB to OKLab (Ottosson 2020). */
function oklabOf(rgb: readonly [number, number, number]): [number, number, number] {
  const [r, g, b] = rgb.map((v) => (v / 255 <= 0.04045 ? v / 255 / 12.92 : ((v / 255 + 0.055) / 1.055) ** 2.4)) as [
    number,
    number,
    number,
  ];
  const l = Math.cbrt(0.4122214708 * r + 0.5363325363 * g + 0.0514459929 * b);
  const m = Math.cbrt(0.2119034982 * r + 0.6806995451 * g + 0.1073969566 * b);
  const s = Math.cbrt(0.0883024619 * r + 0.2817188376 * g + 0.6299787005 * b);
  return [
    0.2104542553 * l + 0.793617785 * m - 0.0040720468 * s,
    1.9779984951 * l - 2.428592205 * m + 0.4505937099 * s,
    0.0259040371 * l + 0.7827717662 * m - 0.808675766 * s,
  ];
}

/** OKLCh to sRGB (Ottosson 2020), cut off where the screen cannot show it. */
function oklchToRgb(lightness: number, chroma: number, hue: number): [number, number, number] {
  const h = (hue * Math.PI) / 180;
  return oklabToRgb(lightness, chroma * Math.cos(h), chroma * Math.sin(h));
}

function oklabToRgb(lightness: number, a: number, b: number): [number, number, number] {
  const l = (lightness + 0.3963377774 * a + 0.2158037573 * b) ** 3;
  const m = (lightness - 0.1055613458 * a - 0.0638541728 * b) ** 3;
  const s = (lightness - 0.0894841775 * a - 1.291485548 * b) ** 3;
  const linear = [
    4.0767416621 * l - 3.3077115913 * m + 0.2309699292 * s,
    -1.2684380046 * l + 2.6097574011 * m - 0.3413193965 * s,
    -0.0041960863 * l - 0.7034186147 * m + 1.707614701 * s,
  ];
  return linear.map((v) =>
    Math.round(255 * Math.max(0, Math.min(1, v <= 0.0031308 ? 12.92 * v : 1.055 * v ** (1 / 2.4) - 0.055))),
  ) as [number, number, number];
}
