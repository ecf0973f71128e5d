import type { RasterFrame } from './raster-frame.js';

/**
 * How far each cell is from the nearest source, squared, in cells, from middle to middle; infinite where there is none. Exact, in time linear in the cells (Felzenszwalb and
 * Huttenlocher 2012, "Distance transforms of sampled functions", Theory of Computing 8, 415-428).
 */
export function squaredDistances(
  { columns, rows }: Pick<RasterFrame, 'columns' | 'rows'>,
  isSource: ArrayLike<number>,
): Float64Array {
  const out = new Float64Array(columns * rows);
  for (let at = 0; at < out.length; at++) out[at] = isSource[at] === 1 ? 0 : Infinity;
  const longest = Math.max(columns, rows);
  const line = {
    values: new Float64Array(longest),
    apex: new Int32Array(longest),
    from: new Float64Array(longest + 1),
  };
  for (let column = 0; column < columns; column++) alongLine(out, column, columns, rows, line);
  for (let row = 0; row < rows; row++) alongLine(out, row * columns, 1, columns, line);
  return out;
}

/** The lower envelope of parabolas that stand on the values of a line. */
function alongLine(
  values: Float64Array,
  first: number,
  step: number,
  count: number,
  line: { readonly values: Float64Array; readonly apex: Int32Array; readonly from: Float64Array },
): void {
  const { values: own, apex, from } = line;
  for (let k = 0; k < count; k++) own[k] = values[first + k * step]!;
  let last = -1;
  for (let k = 0; k < count; k++) {
    if (own[k] === Infinity) continue;
    let start = -Infinity;
    while (last >= 0) {
      const j = apex[last]!;
      start = (own[k]! + k * k - own[j]! - j * j) / (2 * (k - j));
      if (start > from[last]!) break;
      last--;
      start = -Infinity;
    }
    last++;
    apex[last] = k;
    from[last] = start;
  }
  if (last < 0) return;
  from[last + 1] = Infinity;
  for (let k = 0, at = 0; k < count; k++) {
    while (from[at + 1]! < k) at++;
    values[first + k * step] = own[apex[at]!]! + (k - apex[at]!) ** 2;
  }
}
