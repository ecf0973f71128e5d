import { PointFlag } from '@pampero/core/cloud';
import { deflateSync } from 'node:zlib';

/** Classes and flags of a node's points, a byte a point each. */
export interface Marks {
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
}

/** What differs between two states of a node, ready to be kept, and the classes of the later one, counted. */
export interface PackedDifference {
  readonly difference: Uint8Array;
  readonly counts: string;
  /** A class differs, or what is withheld; not flags such as key-point alone. */
  readonly touchesClasses: boolean;
}

/** New marks of a node, and what they differ by from the present ones. */
export interface ChangedMarks extends Marks {
  readonly nodeId: number;
  readonly packed: PackedDifference;
}

/** Classes, then flags: one side exclusive-or the other, deflated. Applied to either side it gives the other. */
export function packDifference(before: Marks, after: Marks): PackedDifference {
  const count = before.classification.length;
  const out = new Uint8Array(2 * count);
  let touched = 0;
  for (let i = 0; i < count; i++) {
    out[i] = before.classification[i]! ^ after.classification[i]!;
    out[count + i] = before.flags[i]! ^ after.flags[i]!;
    touched |= out[i]! | (out[count + i]! & PointFlag.withheld);
  }
  // Fast deflate: most of a difference is zeros, and an edit should be stored within the second.
  return {
    difference: deflateSync(out, { level: 1 }),
    counts: JSON.stringify(countClasses(after.classification)),
    touchesClasses: touched !== 0,
  };
}

/** Takes marks to the other side of a difference, in place. */
export function applyDifference(difference: Uint8Array, { classification, flags }: Marks): void {
  const count = classification.length;
  for (let i = 0; i < count; i++) {
    classification[i]! ^= difference[i]!;
    flags[i]! ^= difference[count + i]!;
  }
}

export function countClasses(classification: Uint8Array): Record<string, number> {
  const counts = new Uint32Array(256);
  for (let i = 0; i < classification.length; i++) counts[classification[i]!]!++;
  const out: Record<string, number> = {};
  for (let code = 0; code < 256; code++) if (counts[code]! > 0) out[code] = counts[code]!;
  return out;
}
