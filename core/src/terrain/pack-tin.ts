import { packArrays, unpackArrays } from '../binary/index.js';
import type { Tin } from './tin.js';

/** A TIN as bytes for a blob or another thread. */
export function packTin({ origin, easting, northing, elevation, facets, twins, held }: Tin): Uint8Array<ArrayBuffer> {
  return packArrays({ easting, northing, elevation, facets, twins, ...(held && { held }) }, { origin });
}

export function unpackTin(bytes: Uint8Array): Tin {
  const { arrays, facts } = unpackArrays(bytes);
  return { ...(facts as { origin: [number, number] }), ...(arrays as unknown as Omit<Tin, 'origin'>) };
}
