import type { LengthUnit } from './units.js';

/** Where points lie, and where they might be meant to lie. */
export interface PlaceFacts {
  /** Middle of the points, in the file's numbers. */
  readonly easting: number;
  readonly northing: number;
  readonly unit: LengthUnit;
  /** Whether a place of the system, in degrees, is inside the area it is for. */
  readonly isInside: (easting: number, northing: number) => boolean;
}

export type PlaceFinding = 'feet-as-metres' | 'metres-as-feet' | 'axes-swapped' | 'degrees' | 'elsewhere';

const FOOT = 0.3048;

/**
 * Whether numbers look like a place of their system; if not, what would make them one: feet taken for metres or the other
 * way round, easting and northing exchanged, degrees.
 */
export function checkPlace({ easting, northing, unit, isInside }: PlaceFacts): PlaceFinding | undefined {
  if (isInside(easting, northing)) return undefined;
  if (Math.abs(easting) <= 360 && Math.abs(northing) <= 90) return 'degrees';
  if (isInside(northing, easting)) return 'axes-swapped';
  if (unit === 'metre' && isInside(easting * FOOT, northing * FOOT)) return 'feet-as-metres';
  if (unit !== 'metre' && isInside(easting / FOOT, northing / FOOT)) return 'metres-as-feet';
  return 'elsewhere';
}

/** What a finding says to the surveyor. */
export const placeFindingTexts: Readonly<Record<PlaceFinding, string>> = {
  'feet-as-metres':
    'The numbers look like feet: read as metres they lie outside the system’s area, read as feet inside it.',
  'metres-as-feet':
    'The numbers look like metres: read as feet they lie outside the system’s area, read as metres inside it.',
  'axes-swapped': 'Easting and northing look exchanged: the other way round they lie inside the system’s area.',
  degrees: 'The numbers look like degrees, not like lengths.',
  elsewhere: 'The points lie outside the area the coordinate system is for.',
};
