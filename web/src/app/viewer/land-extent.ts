import type { Cloud } from '@pampero/contract';
import type { Bounds } from '@pampero/core/cloud';
import { rangeOver } from '../drawing/colour-modes/colour-mode';

type Seen = Pick<Cloud, 'source'>;
type Place3 = readonly [number, number, number];

/** How far the land in sight reaches up, in scene coordinates. */
export interface LandExtent {
  /** Where ground is to be expected: the lowest of the clouds' elevations without strays. */
  readonly groundLevel: number;
  /** From there to the highest, at least one unit. */
  readonly heightSpan: number;
}

export function shiftedBounds({ min, max }: Bounds, origin: Place3): Bounds {
  const shift = (corner: readonly number[]): [number, number, number] =>
    corner.map((value, axis) => value - origin[axis]!) as [number, number, number];
  return { min: shift(min), max: shift(max) };
}

export function landExtent(clouds: readonly Seen[], origin: Place3): LandExtent {
  if (clouds.length === 0) return { groundLevel: 0, heightSpan: 1 };
  const [low, high] = rangeOver(clouds.map(({ source }) => source.elevationRange));
  return { groundLevel: low - origin[2], heightSpan: Math.max(1, high - low) };
}
