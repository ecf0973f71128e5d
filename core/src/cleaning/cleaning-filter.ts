import { columnFrom } from '../columns/index.js';
import { floatingPoints, type FloatingOptions } from './floating-points.js';
import { isolatedPoints, type IsolatedOptions } from './isolated-points.js';
import { lowPoints, type LowPointOptions } from './low-points.js';
import type { Places } from './neighbour-grid.js';
import {
  meanNeighbourDistances,
  outlierThreshold,
  sumDistances,
  type DistanceSums,
  type StatisticalOptions,
} from './statistical-outliers.js';
import { unreliablePoints, type UnreliableOptions } from './unreliable-points.js';

/** A search for points that are not real, with what it needs to know. */
export type CleaningFilter =
  | ({ readonly kind: 'isolated' } & IsolatedOptions)
  | ({ readonly kind: 'outliers'; readonly furthest: number } & StatisticalOptions)
  | ({ readonly kind: 'low' } & LowPointOptions)
  | ({ readonly kind: 'floating' } & FloatingOptions)
  | ({ readonly kind: 'unreliable' } & UnreliableOptions);

/** How far beyond a piece of land its points must be known, job units. */
export function marginOf(filter: CleaningFilter): number {
  return filter.kind === 'outliers' ? filter.furthest : filter.radius;
}

/**
 * Runs a filter over a piece of land with a margin about it.
 * @param count - points to be judged: the first of `places`; the others are the margin
 * @param sums - mean distances of the whole cloud, where the filter goes by them; this piece's own otherwise
 */
export function runFilter(filter: CleaningFilter, places: Places, count: number, sums?: DistanceSums): Uint8Array {
  switch (filter.kind) {
    case 'isolated':
      return isolatedPoints(places, filter, count);
    case 'low':
      return lowPoints(places, filter, count);
    case 'unreliable':
      return unreliablePoints(places, filter, count);
    case 'floating':
      return floatingPoints(places, filter, count);
    case 'outliers': {
      const distances = meanNeighbourDistances(places, filter.neighbours, filter.furthest, count);
      const threshold = outlierThreshold(sums ?? sumDistances(distances), filter.deviations);
      return columnFrom(Uint8Array, distances, (d) => (d > threshold ? 1 : 0));
    }
  }
}
