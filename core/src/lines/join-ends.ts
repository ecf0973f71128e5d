import { joinLines } from './cut-line.js';
import type { LineShape } from './line-shape.js';

/** A line that came of one line or several, by their places in the list given. */
export interface JoinedLine {
  readonly shape: LineShape;
  readonly of: readonly number[];
}

/**
 * Joins lines whose ends lie nearer to each other than a gap, the nearest first; each end is joined once. Lines that come back to their own
 * beginning close.
 */
export function joinEnds(lines: readonly LineShape[], gap: number): JoinedLine[] {
  const ends = lines.flatMap((line, k) =>
    line.isClosed || line.easting.length < 2
      ? []
      : [0, line.easting.length - 1].map((corner) => ({ k, e: line.easting[corner]!, n: line.northing[corner]! })),
  );
  // In cells as wide as the gap, an end can only be joined to one in its own cell or beside it.
  const cell = Math.max(gap, 1e-6);
  const cells = new Map<string, number[]>();
  const key = (column: number, row: number): string => `${column} ${row}`;
  ends.forEach(({ e, n }, at) => {
    const name = key(Math.floor(e / cell), Math.floor(n / cell));
    const list = cells.get(name);
    if (list) list.push(at);
    else cells.set(name, [at]);
  });
  const pairs: { a: number; b: number; apart: number }[] = [];
  ends.forEach(({ e, n, k }, a) => {
    const [column, row] = [Math.floor(e / cell), Math.floor(n / cell)];
    for (let dc = -1; dc <= 1; dc++)
      for (let dr = -1; dr <= 1; dr++)
        for (const b of cells.get(key(column + dc, row + dr)) ?? []) {
          if (b <= a || ends[b]!.k === k) continue;
          const apart = Math.hypot(ends[b]!.e - e, ends[b]!.n - n);
          if (apart <= gap) pairs.push({ a, b, apart });
        }
  });
  pairs.sort((p, q) => p.apart - q.apart || p.a - q.a || p.b - q.b);
  const isUsed = new Uint8Array(ends.length);
  const group = lines.map((shape, k): { shape: LineShape; of: number[] } => ({ shape, of: [k] }));
  const now = [...group];
  for (const { a, b } of pairs) {
    if (isUsed[a] || isUsed[b]) continue;
    const [one, other] = [now[ends[a]!.k]!, now[ends[b]!.k]!];
    if (one === other) continue;
    isUsed[a] = isUsed[b] = 1;
    const joined = {
      shape: joinLines(one.shape, other.shape, gap),
      of: [...one.of, ...other.of].sort((p, q) => p - q),
    };
    for (const k of joined.of) now[k] = joined;
  }
  return [...new Set(now)];
}
