import { NO_STRIP } from './strip-finder.js';

/** Cells in plan in which one strip is kept. */
export interface OverlapFrame {
  readonly west: number;
  readonly south: number;
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
}

export interface OverlapPoints {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly strip: Uint16Array;
  /** Size of the scan angle, any unit. */
  readonly angle: Float64Array;
}

/** A strip with fewer points than this share of the fullest of a cell does not cover it. */
const COVERS = 0.25;

/**
 * The strip that is kept in each cell: the one seen most steeply, or with most points. Where a cell stands alone among its neighbours it takes their
 * strip, if that covers it: seams stay tidy.
 * @returns by cell; NO_STRIP where there are no points
 */
export function keptStrips(points: OverlapPoints, frame: OverlapFrame, keep: 'nadir' | 'densest'): Uint16Array {
  const { columns, rows } = frame;
  const sums = new Map<number, { count: number; angle: number }>();
  const cellOf = cellsOf(points, frame);
  for (let i = 0; i < cellOf.length; i++) {
    if (cellOf[i]! < 0 || points.strip[i] === NO_STRIP) continue;
    const key = cellOf[i]! * 65_536 + points.strip[i]!;
    const sum = sums.get(key);
    if (sum) {
      sum.count++;
      sum.angle += points.angle[i]!;
    } else sums.set(key, { count: 1, angle: points.angle[i]! });
  }
  const covering = new Map<number, { strip: number; count: number; angle: number }[]>();
  for (const [key, { count, angle }] of sums) {
    const cell = Math.floor(key / 65_536);
    const list = covering.get(cell) ?? [];
    list.push({ strip: key % 65_536, count, angle: angle / count });
    covering.set(cell, list);
  }
  const best = new Uint16Array(columns * rows).fill(NO_STRIP);
  for (const [cell, list] of covering) {
    const most = Math.max(...list.map(({ count }) => count));
    const enough = list.filter(({ count }) => count >= COVERS * most).sort((a, b) => a.strip - b.strip);
    covering.set(cell, enough);
    const chosen = enough.reduce((a, b) => ((keep === 'nadir' ? b.angle < a.angle : b.count > a.count) ? b : a));
    best[cell] = chosen.strip;
  }
  const tidy = Uint16Array.from(best);
  for (const [cell, list] of covering) {
    if (list.length < 2) continue;
    const [column, row] = [cell % columns, Math.floor(cell / columns)];
    const votes = new Map<number, number>();
    for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
      for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
        const strip = best[r * columns + c]!;
        if (strip !== NO_STRIP) votes.set(strip, (votes.get(strip) ?? 0) + 1);
      }
    const [winner, count] = [...votes].sort((a, b) => b[1] - a[1] || a[0] - b[0])[0]!;
    if (count >= 5 && list.some(({ strip }) => strip === winner)) tidy[cell] = winner;
  }
  return tidy;
}

/** The cell of each point; -1 outside. */
export function cellsOf({ x, y }: Pick<OverlapPoints, 'x' | 'y'>, frame: OverlapFrame): Int32Array {
  const out = new Int32Array(x.length);
  for (let i = 0; i < out.length; i++) {
    const column = Math.floor((x[i]! - frame.west) / frame.cell);
    const row = Math.floor((y[i]! - frame.south) / frame.cell);
    out[i] = column < 0 || row < 0 || column >= frame.columns || row >= frame.rows ? -1 : row * frame.columns + column;
  }
  return out;
}
