import { packArrays, unpackArrays } from '../binary/index.js';
import type { ContourSet } from './contour-set.js';

/** Contours as bytes for a blob, another thread or the page. */
export function packContours({ origin, ...arrays }: ContourSet): Uint8Array<ArrayBuffer> {
  return packArrays(arrays, { origin });
}

export function unpackContours(bytes: Uint8Array): ContourSet {
  const { arrays, facts } = unpackArrays(bytes);
  const set = { ...(facts as { origin: [number, number] }), ...(arrays as unknown as Omit<ContourSet, 'origin'>) };
  // Sets of earlier versions know nothing of depressions and support.
  const none = new Uint8Array(set.level.length);
  return { ...set, isDepression: set.isDepression ?? none, isObscured: set.isObscured ?? none };
}
