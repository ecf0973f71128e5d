import { cornersOf, LineError, shapeOf, sourceNumber, type Corner, type LineShape } from '../lines/index.js';
import type { Tin } from '../terrain/index.js';
import { FacetIndex } from '../volumes/facet-index.js';
import { profileOf } from './profile.js';

/**
 * Lays a line on a surface: its corners take the surface's elevation and a corner is put in wherever it crosses a side of a facet, so
 * that it lies on the surface all along. Where there is no surface, corners keep the elevation they have.
 * @throws LineError `line-off-surface` where no part of it lies over the surface
 */
export function drapeLine(line: LineShape, tin: Tin, index = new FacetIndex(tin, tin.origin)): LineShape {
  const given = cornersOf(line);
  const ring = line.isClosed ? [...given, given[0]!] : given;
  const out: Corner[] = [];
  let isCovered = false;
  /** What the surface says at a corner; the legs on either side of it say the same. */
  const put = (corner: Corner, z: number | undefined): void => {
    const last = out.at(-1);
    const isAgain = last?.e === corner.e && last.n === corner.n;
    const draped = z === undefined ? corner : { ...corner, z, source: sourceNumber('surface') };
    if (!isAgain) out.push(draped);
    else if (z !== undefined) out[out.length - 1] = draped;
  };
  for (let leg = 0; leg + 1 < ring.length; leg++) {
    const [a, b] = [ring[leg]!, ring[leg + 1]!];
    const { station, easting, northing, elevation } = profileOf(tin, [[a.e, a.n], [b.e, b.n]], index); // prettier-ignore
    const length = Math.hypot(b.e - a.e, b.n - a.n);
    const crossed: Corner[] = [];
    let [first, last] = [undefined, undefined] as [number | undefined, number | undefined];
    for (let k = 0; k < station.length; k++) {
      const z = elevation[k]!;
      if (Number.isNaN(z)) continue;
      isCovered = true;
      if (station[k]! <= SAME) first ??= z;
      else if (station[k]! >= length - SAME) last = z;
      else if (crossed.at(-1)?.e !== easting[k] || crossed.at(-1)?.n !== northing[k])
        crossed.push({ e: easting[k]!, n: northing[k]!, z, source: sourceNumber('surface') });
    }
    put(a, first);
    for (const corner of crossed) put(corner, corner.z);
    put(b, last);
  }
  if (!isCovered)
    throw new LineError('line-off-surface', {
      what: 'No part of the line lies over the surface.',
      fix: 'Choose another surface, or other lines.',
    });
  return shapeOf(line.isClosed ? out.slice(0, -1) : out, line.isClosed);
}

/** Corners nearer to an end of a leg are that end; job units. */
const SAME = 1e-6;
