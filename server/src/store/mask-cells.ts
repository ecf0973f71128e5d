import { deflateSync, inflateSync } from 'node:zlib';
import type { MaskRingResource, ProductOf } from '@pampero/contract';
import type { MaskRing } from '@pampero/core/masks';
import { sharedBytes } from '../shared-memory.js';
import type { Models } from './models.js';
import { readProductBlob } from './product-repository.js';

/** A mask as it is kept: a bit a pixel, deflated. */
export function keptMask(mask: Uint8Array): Uint8Array {
  const bits = new Uint8Array(Math.ceil(mask.length / 8));
  for (let at = 0; at < mask.length; at++) if (mask[at] === 1) bits[at >> 3]! |= 128 >> (at & 7);
  return deflateSync(bits);
}

/** A mask as tasks share it: a byte a pixel. */
export async function readMask(
  models: Models,
  { id, facts: { columns, rows } }: Pick<ProductOf<'mask'>, 'id' | 'facts'>,
): Promise<Uint8Array> {
  const bits = inflateSync(await readProductBlob(models, id, 'cells'));
  const mask = sharedBytes(columns * rows);
  for (let at = 0; at < mask.length; at++) mask[at] = (bits[at >> 3]! >> (7 - (at & 7))) & 1;
  return mask;
}

/** Edges as the page shows them, to the millimetre of metres or better. */
export function shownRings(rings: readonly MaskRing[]): MaskRingResource[] {
  return rings.map(({ shape, isIsland }) => ({
    isIsland,
    places: Array.from(shape.easting, (e, k): [number, number] => [rounded(e), rounded(shape.northing[k]!)]),
  }));
}

const rounded = (value: number): number => Math.round(value * 1000) / 1000;
