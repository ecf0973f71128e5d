import type { RasterFrame } from '../raster/index.js';
import { nextSide } from './half-edges.js';
import type { Tin } from './tin.js';

/**
 * A surface through the centres of a grid's cells: two triangles between each four centres that have a value, along the diagonal whose
 * ends differ less, so that a ridge or ditch across the cells stays one.
 * @param values - rows times columns, row 0 the southernmost, NaN where there is none
 */
export function gridToTin(values: Float32Array, { east, north, cell, columns, rows }: RasterFrame): Tin {
  const origin: [number, number] = [Math.floor(east), Math.floor(north)];
  const number = new Int32Array(values.length).fill(-1);
  let count = 0;
  const used = (at: number): number => (number[at]! >= 0 ? number[at]! : (number[at] = count++));
  const facets: number[] = [];
  for (let row = 0; row + 1 < rows; row++)
    for (let column = 0; column + 1 < columns; column++) {
      const [sw, se] = [row * columns + column, row * columns + column + 1];
      const [nw, ne] = [sw + columns, se + columns];
      const [a, b, c, d] = [values[sw]!, values[se]!, values[ne]!, values[nw]!];
      if (Number.isNaN(a + b + c + d)) continue;
      const [A, B, C, D] = [used(sw), used(se), used(ne), used(nw)];
      if (Math.abs(a - c) <= Math.abs(b - d)) facets.push(A, B, C, A, C, D);
      else facets.push(A, B, D, B, C, D);
    }
  const [easting, northing, elevation] = [0, 1, 2].map(() => new Float64Array(count)) as [
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  number.forEach((to, at) => {
    if (to < 0) return;
    easting[to] = east + ((at % columns) + 0.5) * cell - origin[0];
    northing[to] = north + (Math.floor(at / columns) + 0.5) * cell - origin[1];
    elevation[to] = values[at]!;
  });
  const corners = Uint32Array.from(facets);
  return { origin, easting, northing, elevation, facets: corners, twins: twinsOf(corners, count) };
}

/** The neighbour over each side, −1 at the rim. */
function twinsOf(facets: Uint32Array, corners: number): Int32Array {
  const twins = new Int32Array(facets.length).fill(-1);
  const open = new Map<number, number>();
  for (let h = 0; h < facets.length; h++) {
    const a = facets[h]!;
    const b = facets[nextSide(h)]!;
    const twin = open.get(b * corners + a);
    if (twin === undefined) open.set(a * corners + b, h);
    else {
      twins[h] = twin;
      twins[twin] = h;
      open.delete(b * corners + a);
    }
  }
  return twins;
}
