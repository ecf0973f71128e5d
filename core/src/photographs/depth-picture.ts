import type { Camera } from './camera.js';

/** Depths are kept in thousandths of a unit, so that the nearest does not depend on who comes first. */
const FINENESS = 1000;
export const NOTHING_SEEN = 0x7fffffff;

export interface DepthFrame {
  readonly columns: number;
  readonly rows: number;
  /** Pixels of the photograph along the side of a cell. */
  readonly cell: number;
}

export function depthFrame({ columns, rows }: Camera, cell: number): DepthFrame {
  return { columns: Math.ceil(columns / cell), rows: Math.ceil(rows / cell), cell };
}

/** Cells around one that may stand before it, of which more than half must. */
const AROUND = 4;

/** How far away the nearest thing is in each cell of a photograph: what stands behind it is not seen. Threads may fill one together. */
export class DepthPicture {
  /** @param depths - in memory that threads share, filled with {@link NOTHING_SEEN} */
  constructor(
    private readonly frame: DepthFrame,
    private readonly depths: Int32Array,
  ) {}

  enter(column: number, row: number, depth: number): void {
    const { frame, depths } = this;
    const at = Math.floor(row / frame.cell) * frame.columns + Math.floor(column / frame.cell);
    const value = Math.round(depth * FINENESS);
    let before = Atomics.load(depths, at);
    while (value < before) {
      const met = Atomics.compareExchange(depths, at, before, value);
      if (met === before) return;
      before = met;
    }
  }

  /**
   * Whether nothing stands before a point that lies in this cell. Cells that no point fell into would let through what is behind, so
   * one is also hidden where most cells around are nearer.
   */
  isSeen(column: number, row: number, depth: number, tolerance: number): boolean {
    const { columns, rows, cell } = this.frame;
    const [c, r] = [Math.floor(column / cell), Math.floor(row / cell)];
    const least = (depth - tolerance) * FINENESS;
    if (this.depths[r * columns + c]! < least) return false;
    let nearer = 0;
    for (let dr = -1; dr <= 1; dr++)
      for (let dc = -1; dc <= 1; dc++) {
        const [cc, rr] = [c + dc, r + dr];
        if (cc < 0 || rr < 0 || cc >= columns || rr >= rows) continue;
        if (this.depths[rr * columns + cc]! < least) nearer++;
      }
    return nearer <= AROUND;
  }
}
