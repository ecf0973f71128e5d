import type { RasterFrame } from './raster-frame.js';

/** Pieces of cells that hang together, as runs along rows. */
export interface Pieces {
  /** First cell of each run, the cell after its last, and the piece it belongs to; runs in the order of the cells. */
  readonly from: Int32Array;
  readonly to: Int32Array;
  readonly piece: Int32Array;
  /** Cells of each piece, and whether it touches the rim of the raster. */
  readonly cells: Int32Array;
  readonly isAtRim: Uint8Array;
}

/**
 * Tells apart the pieces of cells that have a value: run by run, joined with those of the row before (Hoshen and Kopelman 1976, Physical Review B 14, 3438-3445). Linear in
 * the cells, and without a list of them.
 * @param byCorners - cells that touch at a corner hang together
 */
export function piecesOf(
  { columns, rows }: Pick<RasterFrame, 'columns' | 'rows'>,
  values: Uint8Array,
  value: number,
  byCorners: boolean,
): Pieces {
  const [from, to, parent]: [number[], number[], number[]] = [[], [], []];
  const root = (run: number): number => {
    let top = run;
    while (parent[top] !== top) top = parent[top]!;
    for (let at = run; parent[at] !== top;) {
      const next = parent[at]!;
      parent[at] = top;
      at = next;
    }
    return top;
  };
  const reach = byCorners ? 1 : 0;
  let [above, aboveEnd, row, begin] = [0, 0, 0, 0];
  for (let start = values.indexOf(value), next; start >= 0; start = values.indexOf(value, next)) {
    const own = Math.floor(start / columns);
    if (own >= rows) break;
    if (own !== row) {
      // Only the runs of the row before can touch this one's.
      [above, aboveEnd] = own === row + 1 ? [begin, from.length] : [from.length, from.length];
      [row, begin] = [own, from.length];
    }
    const end = (row + 1) * columns;
    let at = start + 1;
    while (at < end && values[at] === value) at++;
    next = at;
    const run = from.length;
    from.push(start);
    to.push(at);
    parent.push(run);
    // Runs of the row before that end before this one begins are done with.
    while (above < aboveEnd && to[above]! + columns <= start - reach) above++;
    for (let k = above; k < aboveEnd && from[k]! + columns < at + reach; k++) {
      const [one, other] = [root(k), root(run)];
      // The older stays the root, so that pieces are numbered by their first cell.
      if (one !== other) parent[Math.max(one, other)] = Math.min(one, other);
    }
  }
  const number = new Int32Array(from.length).fill(-1);
  const piece = new Int32Array(from.length);
  const [cells, isAtRim]: [number[], number[]] = [[], []];
  for (let run = 0; run < from.length; run++) {
    const top = root(run);
    if (number[top] === -1) {
      number[top] = cells.length;
      cells.push(0);
      isAtRim.push(0);
    }
    const own = (piece[run] = number[top]!);
    cells[own]! += to[run]! - from[run]!;
    const row = Math.floor(from[run]! / columns);
    if (row === 0 || row === rows - 1 || from[run]! % columns === 0 || to[run]! % columns === 0) isAtRim[own] = 1;
  }
  return {
    from: Int32Array.from(from),
    to: Int32Array.from(to),
    piece,
    cells: Int32Array.from(cells),
    isAtRim: Uint8Array.from(isAtRim),
  };
}
