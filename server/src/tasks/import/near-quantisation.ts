import type { Quantisation } from '@pampero/core/cloud';

const OFFSET_STEP = 1000;

/** Scaled integers about a whole thousand near a point: with a scale of 0.0001 there is room for 200 km either way. */
export function quantisationNear(easting: number, northing: number, scale: number): Quantisation {
  const near = (value: number): number => Math.round(value / OFFSET_STEP) * OFFSET_STEP;
  return { scale: [scale, scale, scale], offset: [near(easting), near(northing), 0] };
}
