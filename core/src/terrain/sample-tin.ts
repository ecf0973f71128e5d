import type { RasterFrame } from '../raster/index.js';
import type { Tin } from './tin.js';

/** A frame over the whole surface whose longer side has about `mostCells` cells. */
export function gridFrameOver(tin: Tin, mostCells: number): RasterFrame {
  const { easting, northing, origin } = tin;
  let maxE = 0;
  let maxN = 0;
  for (let i = 0; i < easting.length; i++) {
    if (easting[i]! > maxE) maxE = easting[i]!;
    if (northing[i]! > maxN) maxN = northing[i]!;
  }
  const cell = Math.max(maxE, maxN, 1e-6) / mostCells;
  return {
    east: origin[0],
    north: origin[1],
    cell,
    columns: Math.max(1, Math.ceil(maxE / cell)),
    rows: Math.max(1, Math.ceil(maxN / cell)),
  };
}

/**
 * Elevation of the surface at each cell's centre, linear within the facet; NaN where there is no surface.
 * @returns rows times columns values, a new array
 */
export function sampleTin(tin: Tin, frame: RasterFrame): Float32Array<ArrayBuffer> {
  const { easting, northing, elevation, facets, origin } = tin;
  const { cell, columns, rows } = frame;
  const grid = new Float32Array(columns * rows).fill(NaN);
  const shiftE = origin[0] - frame.east;
  const shiftN = origin[1] - frame.north;
  for (let f = 0; f < facets.length; f += 3) {
    const a = facets[f]!;
    const b = facets[f + 1]!;
    const c = facets[f + 2]!;
    const ax = (easting[a]! + shiftE) / cell - 0.5;
    const ay = (northing[a]! + shiftN) / cell - 0.5;
    const bx = (easting[b]! + shiftE) / cell - 0.5;
    const by = (northing[b]! + shiftN) / cell - 0.5;
    const cx = (easting[c]! + shiftE) / cell - 0.5;
    const cy = (northing[c]! + shiftN) / cell - 0.5;
    const firstRow = Math.max(0, Math.ceil(Math.min(ay, by, cy)));
    const lastRow = Math.min(rows - 1, Math.floor(Math.max(ay, by, cy)));
    const firstColumn = Math.max(0, Math.ceil(Math.min(ax, bx, cx)));
    const lastColumn = Math.min(columns - 1, Math.floor(Math.max(ax, bx, cx)));
    if (firstRow > lastRow || firstColumn > lastColumn) continue;
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    if (area === 0) continue;
    for (let row = firstRow; row <= lastRow; row++) {
      for (let column = firstColumn; column <= lastColumn; column++) {
        const wb = ((column - ax) * (cy - ay) - (row - ay) * (cx - ax)) / area;
        const wc = ((bx - ax) * (row - ay) - (by - ay) * (column - ax)) / area;
        if (wb < -1e-9 || wc < -1e-9 || wb + wc > 1 + 1e-9) continue;
        grid[row * columns + column] =
          elevation[a]! + (elevation[b]! - elevation[a]!) * wb + (elevation[c]! - elevation[a]!) * wc;
      }
    }
  }
  return grid;
}
