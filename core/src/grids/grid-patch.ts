/** A rectangle of a grid's cells, row 0 the southernmost. */
export interface GridPart {
  readonly column: number;
  readonly row: number;
  readonly columns: number;
  readonly rows: number;
}

/** Where a grid differs from an earlier one of the same cells; undefined where it does nowhere. */
export function changedPart(
  before: Float32Array,
  after: Float32Array,
  columns: number,
  rows: number,
): GridPart | undefined {
  // Bit by bit: nothing is like nothing.
  const bits = (values: Float32Array): Uint32Array => new Uint32Array(values.buffer, values.byteOffset, values.length);
  const [one, other] = [bits(before), bits(after)];
  let [west, south, east, north] = [Infinity, Infinity, -1, -1];
  for (let row = 0, k = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, k++) {
      if (one[k] === other[k]) continue;
      if (column < west) west = column;
      if (column > east) east = column;
      if (row < south) south = row;
      north = row;
    }
  return east < 0 ? undefined : { column: west, row: south, columns: east - west + 1, rows: north - south + 1 };
}

/** The values of a part, row by row. */
export function cutPart(values: Float32Array, columns: number, part: GridPart): Float32Array<ArrayBuffer> {
  const out = new Float32Array(part.columns * part.rows);
  for (let row = 0; row < part.rows; row++) {
    const from = (part.row + row) * columns + part.column;
    out.set(values.subarray(from, from + part.columns), row * part.columns);
  }
  return out;
}

/** A grid with a part of it replaced, a new array. */
export function withPart(
  values: Float32Array,
  columns: number,
  part: GridPart,
  replaced: Float32Array,
): Float32Array<ArrayBuffer> {
  const out = Float32Array.from(values);
  for (let row = 0; row < part.rows; row++)
    out.set(replaced.subarray(row * part.columns, (row + 1) * part.columns), (part.row + row) * columns + part.column);
  return out;
}
