import { hexOf, RAMP_SIZE, rampTable } from '@pampero/core/tints';
import type { StripSpan } from './strip-span';

/** A trajectory or the places of photographs as the server shows them. */
export interface FlightFile {
  readonly features: readonly {
    readonly geometry: { readonly coordinates: readonly (readonly number[])[] };
    readonly properties?: {
      /** Of each place, seconds on the trajectory's clock. */
      readonly time: readonly number[];
      /** ... and the standard deviation of its height, where it is known. */
      readonly accuracy?: readonly number[];
    };
  }[];
}

/** Lines of one colour. */
export interface FlightPart {
  readonly name: string;
  readonly colour: string;
  readonly positions: Float32Array;
}

export type FlightColouring =
  | { readonly by: 'plain' }
  /** Strips in the trajectory's own times. */
  | { readonly by: 'strip'; readonly spans: readonly StripSpan[] }
  | { readonly by: 'time' | 'accuracy' };

const PLAIN = '#8A3FA0';
/** Turns and ascents between strips. */
const BETWEEN = '#9A968C';
/** Colours that a ramp is drawn with. */
const STEPS = 24;

/** The lines of a flight about the scene's origin, a part for each colour. */
export function flightParts(
  file: FlightFile,
  origin: readonly [number, number, number],
  colouring: FlightColouring,
): FlightPart[] {
  const parts = new Map<string, { colour: string; positions: number[] }>();
  const ramp = rampTable('dusk');
  for (const { geometry, properties } of file.features) {
    const { coordinates } = geometry;
    const look = lookOf(properties, colouring, ramp);
    for (let k = 1; k < coordinates.length; k++) {
      const { name, colour } = look(k);
      let part = parts.get(name);
      if (!part) parts.set(name, (part = { colour, positions: [] }));
      for (const [e, n, z] of [coordinates[k - 1]!, coordinates[k]!])
        part.positions.push(e! - origin[0], n! - origin[1], (z ?? origin[2]) - origin[2]);
    }
  }
  return [...parts].map(([name, { colour, positions }]) => ({ name, colour, positions: Float32Array.from(positions) }));
}

interface Look {
  readonly name: string;
  readonly colour: string;
}

/** How each leg looks, by the place it ends in. */
function lookOf(
  properties: FlightFile['features'][number]['properties'],
  colouring: FlightColouring,
  ramp: Uint32Array,
): (leg: number) => Look {
  const plain: Look = { name: 'plain', colour: PLAIN };
  const { time, accuracy } = properties ?? {};
  if (colouring.by === 'plain' || !time) return () => plain;
  if (colouring.by === 'strip') {
    const { spans } = colouring;
    return (leg) => {
      const at = (time[leg - 1]! + time[leg]!) / 2;
      const span = spans.find(({ from, to }) => at >= from && at <= to);
      return span ? { name: `strip ${span.name}`, colour: span.colour } : { name: 'between', colour: BETWEEN };
    };
  }
  const values = colouring.by === 'time' ? time : accuracy;
  if (!values) return () => plain;
  let [low, high] = [Infinity, -Infinity];
  for (const value of values) {
    low = Math.min(low, value);
    high = Math.max(high, value);
  }
  return (leg) => {
    const share = high > low ? (values[leg]! - low) / (high - low) : 0;
    const step = Math.min(STEPS - 1, Math.floor(share * STEPS));
    return { name: `step ${step}`, colour: hexOfAbgr(ramp[Math.round(((step + 0.5) / STEPS) * (RAMP_SIZE - 1))]!) };
  };
}

const hexOfAbgr = (colour: number): string => hexOf([colour & 255, (colour >> 8) & 255, (colour >> 16) & 255]);
