import { mixColours, RAMP_SIZE, rampColour, type RampId } from './ramps.js';

/** A colour at a value; between two stops colours go over evenly to the eye. */
export interface TintStop {
  readonly value: number;
  /** `#rrggbb`. */
  readonly colour: string;
}

/** Colours of a surface by a value: its elevation, its slope, what it differs by from another. */
export interface Tint {
  /** Two at least, by value. Beyond the outermost their colours go on. */
  readonly stops: readonly TintStop[];
  /** Height of a band of one colour; 0 for colours that go over continuously. */
  readonly band: number;
  /** A value at which a band begins. */
  readonly base: number;
}

export function hexOf([r, g, b]: readonly [number, number, number]): string {
  return `#${((1 << 24) | (r << 16) | (g << 8) | b).toString(16).slice(1)}`;
}

export function rgbOf(hex: string): [number, number, number] {
  const value = Number.parseInt(hex.slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}

/** Stops of one of the ramps over a range; a two-sided ramp has its middle at the range’s. */
export function stopsOf(ramp: RampId, low: number, high: number): TintStop[] {
  const count = ramp === 'grey' ? 2 : ramp === 'either-side' ? 3 : 4;
  return Array.from({ length: count }, (_, i) => ({
    value: low + ((high - low) * i) / (count - 1),
    colour: hexOf(rampColour(ramp, i / (count - 1))),
  }));
}

/** Values that a {@link tintTable} is laid over. */
export function tintRange({ stops, band, base }: Tint): [low: number, high: number] {
  const [first, last] = [stops[0]!.value, stops.at(-1)!.value];
  if (!(band > 0)) return [first, Math.max(last, first + 1e-9)];
  return [base + Math.floor((first - base) / band) * band, base + Math.ceil((last - base) / band) * band];
}

/** The colour of a value. In bands it is that of the band’s middle. */
export function tintColour({ stops, band, base }: Tint, value: number): [number, number, number] {
  const at = band > 0 ? base + (Math.floor((value - base) / band + 1e-9) + 0.5) * band : value;
  let k = 0;
  while (k < stops.length - 2 && at > stops[k + 1]!.value) k++;
  const [a, b] = [stops[k]!, stops[Math.min(stops.length - 1, k + 1)]!];
  const span = b.value - a.value;
  const share = span > 0 ? Math.max(0, Math.min(1, (at - a.value) / span)) : at < a.value ? 0 : 1;
  return mixColours(rgbOf(a.colour), rgbOf(b.colour), share);
}

/** {@link RAMP_SIZE} colours over {@link tintRange}, ABGR. */
export function tintTable(tint: Tint): Uint32Array<ArrayBuffer> {
  const [low, high] = tintRange(tint);
  return Uint32Array.from({ length: RAMP_SIZE }, (_, i) => {
    const [r, g, b] = tintColour(tint, low + ((high - low) * (i + 0.5)) / RAMP_SIZE);
    return (0xff000000 | (b << 16) | (g << 8) | r) >>> 0;
  });
}
