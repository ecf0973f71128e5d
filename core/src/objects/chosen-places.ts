import { columnFrom } from '../columns/index.js';
import type { Places } from '../cleaning/neighbour-grid.js';

/** Some of the places, in their order, and which each of them was. */
export function chosenPlaces(
  { count, x, y, z }: Places,
  isChosen: (i: number) => boolean,
): { readonly places: Places; readonly which: readonly number[] } {
  const which: number[] = [];
  for (let i = 0; i < count; i++) if (isChosen(i)) which.push(i);
  const of = (column: Float64Array): Float64Array => columnFrom(Float64Array, which, (i) => column[i]!);
  return { places: { count: which.length, x: of(x), y: of(y), z: of(z) }, which };
}
