import type { RasterFrame } from '../raster/index.js';

/** Where water runs over a grid of elevations. Arrays are as long as the grid, row 0 the southernmost. */
export interface Flow {
  /** The grid with its pits filled to where they overflow; NaN where there is none. */
  readonly filled: Float64Array;
  /** The cell that each runs to, −1 where it leaves the grid. */
  readonly to: Int32Array;
  /** Cells that drain through each, itself counted. */
  readonly gathered: Float64Array;
  /** Cells in the order they were reached: each runs to one before it. */
  readonly order: Uint32Array;
}

const [EAST, NORTH] = [[1, 1, 0, -1, -1, -1, 0, 1], [0, 1, 1, 1, 0, -1, -1, -1]] as const; // prettier-ignore
const NONE = -1;
const DIAGONAL = Math.SQRT2;

/**
 * Flow over a grid: pits are filled from the rim inwards (priority-flood; Barnes, Lehman and Mulla 2014, "Priority-flood: an optimal
 * depression-filling and watershed-labeling algorithm", Computers & Geosciences 62, 117-127), then each cell runs to the neighbour that
 * lies steepest below it (D8; O'Callaghan and Mark 1984, Computer Vision, Graphics and Image Processing 28, 323-344), and on level ground
 * and in filled pits the way the water came in. Cells without a value and the rim of the grid are where water leaves.
 */
export function flowOver(elevation: ArrayLike<number>, { columns, rows }: Pick<RasterFrame, 'columns' | 'rows'>): Flow {
  const cells = columns * rows;
  const filled = Float64Array.from(elevation);
  const to = new Int32Array(cells).fill(NONE);
  const order = new Uint32Array(cells);
  const isReached = new Uint8Array(cells);
  const heap = new Heap(filled);
  const isOutside = (column: number, row: number): boolean =>
    column < 0 || row < 0 || column >= columns || row >= rows || Number.isNaN(elevation[row * columns + column]!);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      if (Number.isNaN(elevation[at]!)) continue;
      for (let d = 0; d < 8; d++) {
        if (!isOutside(column + EAST[d]!, row + NORTH[d]!)) continue;
        isReached[at] = 1;
        heap.push(at);
        break;
      }
    }
  let count = 0;
  while (heap.size > 0) {
    const at = heap.pop();
    order[count++] = at;
    const [column, row] = [at % columns, Math.floor(at / columns)];
    for (let d = 0; d < 8; d++) {
      if (isOutside(column + EAST[d]!, row + NORTH[d]!)) continue;
      const next = at + EAST[d]! + NORTH[d]! * columns;
      if (isReached[next] === 1) continue;
      isReached[next] = 1;
      if (filled[next]! < filled[at]!) filled[next] = filled[at]!;
      to[next] = at; // the way it came in, until a steeper one is known
      heap.push(next);
    }
  }
  for (let k = 0; k < count; k++) {
    const at = order[k]!;
    const [column, row] = [at % columns, Math.floor(at / columns)];
    let steepest = 0;
    for (let d = 0; d < 8; d++) {
      if (isOutside(column + EAST[d]!, row + NORTH[d]!)) continue;
      const next = at + EAST[d]! + NORTH[d]! * columns;
      const fall = (filled[at]! - filled[next]!) / (d % 2 === 0 ? 1 : DIAGONAL);
      if (fall > steepest) [steepest, to[at]] = [fall, next];
    }
  }
  const gathered = new Float64Array(cells);
  // From the last that was reached to the first: what a cell runs to was reached before it.
  for (let k = count - 1; k >= 0; k--) {
    const at = order[k]!;
    gathered[at]! += 1;
    if (to[at] !== NONE) gathered[to[at]!]! += gathered[at]!;
  }
  return { filled, to, gathered, order: order.subarray(0, count) };
}

/** Cells by elevation, the lowest first; of equal ones that which was put in first. */
class Heap {
  size = 0;
  private cells = new Uint32Array(1024);
  private serials = new Float64Array(1024);
  private next = 0;

  constructor(private readonly level: Float64Array) {}

  push(cell: number): void {
    if (this.size === this.cells.length) {
      const [cells, serials] = [new Uint32Array(2 * this.size), new Float64Array(2 * this.size)];
      cells.set(this.cells);
      serials.set(this.serials);
      [this.cells, this.serials] = [cells, serials];
    }
    let at = this.size++;
    const serial = this.next++;
    while (at > 0) {
      const parent = (at - 1) >> 1;
      if (!this.isBefore(cell, serial, this.cells[parent]!, this.serials[parent]!)) break;
      this.cells[at] = this.cells[parent]!;
      this.serials[at] = this.serials[parent]!;
      at = parent;
    }
    this.cells[at] = cell;
    this.serials[at] = serial;
  }

  pop(): number {
    const top = this.cells[0]!;
    const size = --this.size;
    const [cell, serial] = [this.cells[size]!, this.serials[size]!];
    let at = 0;
    for (;;) {
      let child = 2 * at + 1;
      if (child >= size) break;
      const right = child + 1;
      if (right < size && this.isBefore(this.cells[right]!, this.serials[right]!, this.cells[child]!, this.serials[child]!)) child = right; // prettier-ignore
      if (!this.isBefore(this.cells[child]!, this.serials[child]!, cell, serial)) break;
      this.cells[at] = this.cells[child]!;
      this.serials[at] = this.serials[child]!;
      at = child;
    }
    this.cells[at] = cell;
    this.serials[at] = serial;
    return top;
  }

  private isBefore(a: number, serialA: number, b: number, serialB: number): boolean {
    const [za, zb] = [this.level[a]!, this.level[b]!];
    return za < zb || (za === zb && serialA < serialB);
  }
}
