/** Scans of one site lie within a few kilometres of one another: common practice, no source. */
const FAR_METRES = 20_000;

export interface ScanApart {
  /** From 1, in the order of the file. */
  readonly number: number;
  /** From the middle of the others, metres. */
  readonly distance: number;
}

/** Scans that lie far from the others: one whose pose was lost, or that is in another system. @param places - of each scan, undefined where it has none */
export function scansApart(places: readonly (readonly [number, number, number] | undefined)[]): ScanApart[] {
  const known = places.flatMap((place, k) => (place ? [{ place, number: k + 1 }] : []));
  if (known.length < 2) return [];
  const median = (axis: 0 | 1): number => {
    const sorted = known.map(({ place }) => place[axis]).sort((a, b) => a - b);
    return sorted[(sorted.length - 1) >> 1]!;
  };
  const [x, y] = [median(0), median(1)];
  return known
    .map(({ place, number }) => ({ number, distance: Math.hypot(place[0] - x, place[1] - y) }))
    .filter(({ distance }) => distance > FAR_METRES);
}
