import { columnFrom } from '../columns/index.js';
import { grouped, groundNoise, stripDisagreement, type PointColumns3, type StripPoints } from './piece-planes.js';

const SLOPE_CELL_METRES = 10;

/**
 * The slope that one in twenty of the steps between lowest points of neighbouring ten-metre cells exceeds, degrees; 0 where
 * there are no two cells beside each other. Any even sample of a cloud will do.
 */
export function steepSlope({ count, x, y, z }: PointColumns3, metresPerUnit: number): number {
  const cell = SLOPE_CELL_METRES / metresPerUnit;
  const lowest = new Map<number, number>();
  const keyOf = (column: number, row: number): number => column * 2 ** 26 + row;
  for (let i = 0; i < count; i++) {
    const key = keyOf(Math.floor(x[i]! / cell), Math.floor(y[i]! / cell));
    const held = lowest.get(key);
    if (held === undefined || z[i]! < held) lowest.set(key, z[i]!);
  }
  const steps: number[] = [];
  for (const [key, height] of lowest)
    for (const ahead of [2 ** 26, 1]) {
      const other = lowest.get(key + ahead);
      if (other !== undefined) steps.push(Math.abs(other - height) / cell);
    }
  if (steps.length === 0) return 0;
  steps.sort((a, b) => a - b);
  return (Math.atan(steps[Math.floor(0.95 * (steps.length - 1))]!) * 180) / Math.PI;
}

/** What points tell of the land and of themselves before any is known to be ground. Lengths in job units. */
export interface PointEvidence {
  /** See {@link steepSlope}. */
  readonly steepSlope: number;
  /** See {@link groundNoise}. */
  readonly noise: number | undefined;
  /** See {@link stripDisagreement}. */
  readonly stripDisagreement: number | undefined;
}

/** Pieces of so many spacings hold some sixteen points; those in which strips are told apart hold that many of each of two. */
const [PIECE_SPACINGS, STRIP_PIECE_SPACINGS] = [4, 6];

/**
 * @param even - a sample from the whole cloud
 * @param dense - last returns of some places, in full
 * @param spacing - of last returns, job units
 */
export function pointEvidence(
  even: PointColumns3,
  dense: readonly StripPoints[],
  spacing: number,
  metresPerUnit: number,
): PointEvidence {
  // Strips that disagree would look like noise: each is asked by itself, unless it leaves too few points.
  const noise =
    groundNoise(dense.flatMap(byStrip), STRIP_PIECE_SPACINGS * spacing) ?? groundNoise(dense, PIECE_SPACINGS * spacing);
  return {
    steepSlope: steepSlope(even, metresPerUnit),
    noise,
    stripDisagreement:
      noise === undefined ? undefined : stripDisagreement(dense, STRIP_PIECE_SPACINGS * spacing, noise),
  };
}

function byStrip({ count, x, y, z, strip }: StripPoints): PointColumns3[] {
  const lists = grouped(new Uint32Array(count).keys(), (i) => strip[i]!);
  const of = (list: readonly number[], values: ArrayLike<number>): Float64Array =>
    columnFrom(Float64Array, list, (i) => values[i]!);
  return [...lists.entries()]
    .sort(([a], [b]) => a - b)
    .map(([, list]) => ({ count: list.length, x: of(list, x), y: of(list, y), z: of(list, z) }));
}
