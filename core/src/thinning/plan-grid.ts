import { planBounds } from '../raster/index.js';

/** Points sorted into square cells in plan, for walking the points in a triangle. */
export class PlanGrid {
  readonly columns: number;
  readonly rows: number;
  private readonly west: number;
  private readonly south: number;
  private readonly start: Uint32Array;
  private readonly order: Uint32Array;

  /**
   * @param x - finite coordinates; likewise `y`
   * @param perCell - points a cell, on average
   */
  constructor(
    private readonly x: Float64Array | Int32Array,
    private readonly y: Float64Array | Int32Array,
    perCell = 6,
  ) {
    const count = x.length;
    const { west, south, east, north } = planBounds(x, y);
    const [width, height] = [Math.max(east - west, 1e-9), Math.max(north - south, 1e-9)];
    this.cell = Math.max(Math.sqrt((width * height * perCell) / Math.max(1, count)), Math.max(width, height) / 20_000);
    this.west = west;
    this.south = south;
    this.columns = Math.floor(width / this.cell) + 1;
    this.rows = Math.floor(height / this.cell) + 1;
    this.start = new Uint32Array(this.columns * this.rows + 1);
    const cellOf = new Uint32Array(count);
    for (let i = 0; i < count; i++) {
      const at = this.rowOf(y[i]!) * this.columns + this.columnOf(x[i]!);
      cellOf[i] = at;
      this.start[at + 1]!++;
    }
    for (let k = 0; k < this.columns * this.rows; k++) this.start[k + 1]! += this.start[k]!;
    const next = this.start.slice();
    this.order = new Uint32Array(count);
    for (let i = 0; i < count; i++) this.order[next[cellOf[i]!]!++] = i;
  }

  readonly cell: number;

  private columnOf(x: number): number {
    return Math.min(this.columns - 1, Math.max(0, Math.floor((x - this.west) / this.cell)));
  }

  private rowOf(y: number): number {
    return Math.min(this.rows - 1, Math.max(0, Math.floor((y - this.south) / this.cell)));
  }

  /** Calls `visit` with each point in the triangle, its rim included, and its weights at the second and third corner. */
  inTriangle(
    ax: number,
    ay: number,
    bx: number,
    by: number,
    cx: number,
    cy: number,
    visit: (i: number, wb: number, wc: number) => void,
  ): void {
    const area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
    if (area === 0) return;
    const { cell, x, y, start, order } = this;
    const first = this.rowOf(Math.min(ay, by, cy));
    const last = this.rowOf(Math.max(ay, by, cy));
    for (let row = first; row <= last; row++) {
      // Where the triangle lies within this row, widened by a hair for what lies on its rim.
      const low = this.south + row * cell - 1e-9;
      const high = row === this.rows - 1 ? Infinity : low + cell + 2e-9;
      let left = Infinity;
      let right = -Infinity;
      for (let side = 0; side < 3; side++) {
        const px = side === 0 ? ax : side === 1 ? bx : cx;
        const py = side === 0 ? ay : side === 1 ? by : cy;
        const qx = side === 0 ? bx : side === 1 ? cx : ax;
        const qy = side === 0 ? by : side === 1 ? cy : ay;
        if ((py < low && qy < low) || (py > high && qy > high)) continue;
        const at = (level: number): number => (qy === py ? px : px + ((qx - px) * (level - py)) / (qy - py));
        const p = py < low ? at(low) : py > high ? at(high) : px;
        const q = qy < low ? at(low) : qy > high ? at(high) : qx;
        left = Math.min(left, p, q);
        right = Math.max(right, p, q);
      }
      if (left > right) continue;
      const to = row * this.columns + this.columnOf(right + 1e-9);
      for (let at = row * this.columns + this.columnOf(left - 1e-9); at <= to; at++)
        for (let k = start[at]!; k < start[at + 1]!; k++) {
          const i = order[k]!;
          const dx = x[i]! - ax;
          const dy = y[i]! - ay;
          const wb = (dx * (cy - ay) - dy * (cx - ax)) / area;
          const wc = ((bx - ax) * dy - (by - ay) * dx) / area;
          if (wb >= -1e-9 && wc >= -1e-9 && wb + wc <= 1 + 1e-9) visit(i, wb, wc);
        }
    }
  }
}
