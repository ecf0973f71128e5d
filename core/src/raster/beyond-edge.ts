const SIDES = [
  [1, 0],
  [-1, 0],
  [0, 1],
  [0, -1],
] as const;

/**
 * Visits every side at which a patch of cells ends, with the first cell outwards that counts and how many cells away it is; without one where
 * none lies within reach.
 * @param cells - of the patch, by index
 * @param counts - whether a cell outside the patch is what is looked for
 */
export function eachBeyondEdge(
  { columns, rows }: { readonly columns: number; readonly rows: number },
  cells: readonly number[],
  counts: (i: number) => boolean,
  reach: number,
  visit: (from: number, to: number | undefined, far: number) => void,
): void {
  const own = new Set(cells);
  /** Undefined beyond the raster. */
  const cellAt = (c: number, r: number): number | undefined =>
    c < 0 || r < 0 || c >= columns || r >= rows ? undefined : r * columns + c;
  for (const i of cells) {
    const [column, row] = [i % columns, Math.floor(i / columns)];
    for (const [dc, dr] of SIDES) {
      const beside = cellAt(column + dc, row + dr);
      if (beside !== undefined && own.has(beside)) continue;
      for (let far = 1; ; far++) {
        const at = far > reach ? undefined : cellAt(column + dc * far, row + dr * far);
        if (at !== undefined && (own.has(at) || !counts(at))) continue;
        visit(i, at, far);
        break;
      }
    }
  }
}
