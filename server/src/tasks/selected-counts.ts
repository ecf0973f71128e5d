import { PointFlag } from '@pampero/core/cloud';

/** How many points of each class are selected, and how many of all are withheld. */
export interface SelectedCounts {
  readonly classes: Float64Array;
  withheld: number;
}

export function countSelectedClasses(
  into: SelectedCounts,
  { count, classification, flags }: { count: number; classification: Uint8Array; flags: Uint8Array },
  mask: Uint8Array,
): void {
  for (let i = 0; i < count; i++) {
    if (mask[i] === 0) continue;
    into.classes[classification[i]!]!++;
    if ((flags[i]! & PointFlag.withheld) !== 0) into.withheld++;
  }
}

export function addCounts(into: SelectedCounts, other: SelectedCounts): void {
  other.classes.forEach((count, code) => (into.classes[code]! += count));
  into.withheld += other.withheld;
}
