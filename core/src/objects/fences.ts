import type { Places } from '../cleaning/neighbour-grid.js';
import { beside, type PlanCells } from './plan-cells.js';
import { SMALL_OBJECT, STANDS_FROM } from './small-object-kind.js';

/** Metres. Where no source is named these are sizes of made things as met in practice, no source. */
const FENCE_HEIGHT = 2.6;
const FENCE_WINDOW = 2.5;
/** Half a metre wide at most, root mean square about the line. */
const FENCE_SCATTER = 0.25;

/** Cells whose points, with those about them, lie on a line in plan; where they run on, what stands in them is a fence. */
export function markFences(
  { count, x, y }: Places,
  heights: Float32Array,
  leastLength: number,
  metre: number,
  isFree: Uint8Array,
  { cell, columns, rows, cellAt }: PlanCells,
  out: Uint8Array,
): void {
  const cells = columns * rows;
  const [n, sx, sy, xx, xy, yy] = Array.from({ length: 6 }, () => new Float64Array(cells)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const isTall = new Uint8Array(cells);
  const [x0, y0] = [x[0]!, y[0]!];
  for (let i = 0; i < count; i++) {
    if (isFree[i] === 0 || heights[i]! < STANDS_FROM * metre) continue;
    const at = cellAt(i);
    if (heights[i]! > FENCE_HEIGHT * metre) {
      isTall[at] = 1;
      continue;
    }
    const [dx, dy] = [x[i]! - x0, y[i]! - y0];
    n[at]!++;
    sx[at]! += dx;
    sy[at]! += dy;
    xx[at]! += dx * dx;
    xy[at]! += dx * dy;
    yy[at]! += dy * dy;
  }
  const linear = (at: number): Line | undefined => {
    const window = FENCE_WINDOW * metre;
    const reach = Math.max(1, Math.round(window / cell));
    const [row, column] = [Math.floor(at / columns), at % columns];
    let [m, ax, ay, axx, axy, ayy] = [0, 0, 0, 0, 0, 0];
    for (let r = Math.max(0, row - reach); r <= Math.min(rows - 1, row + reach); r++)
      for (let c = Math.max(0, column - reach); c <= Math.min(columns - 1, column + reach); c++) {
        const k = r * columns + c;
        if (isTall[k] === 1 && Math.abs(r - row) <= 1 && Math.abs(c - column) <= 1) return undefined;
        m += n[k]!;
        ax += sx[k]!;
        ay += sy[k]!;
        axx += xx[k]!;
        axy += xy[k]!;
        ayy += yy[k]!;
      }
    if (m < 5) return undefined;
    const [vx, vy, c] = [axx / m - (ax / m) ** 2, ayy / m - (ay / m) ** 2, axy / m - (ax * ay) / m / m];
    const half = Math.sqrt(((vx - vy) / 2) ** 2 + c * c);
    const [major, minor] = [(vx + vy) / 2 + half, Math.max(0, (vx + vy) / 2 - half)];
    if (minor > (FENCE_SCATTER * metre) ** 2 || major < (0.3 * window) ** 2) return undefined;
    const turn = Math.atan2(2 * c, vx - vy) / 2;
    return { x: ax / m, y: ay / m, ux: Math.cos(turn), uy: Math.sin(turn) };
  };
  const isLine = new Uint8Array(cells);
  const lines = new Map<number, Line>();
  for (let at = 0; at < cells; at++) {
    const line = n[at]! > 0 ? linear(at) : undefined;
    if (!line) continue;
    isLine[at] = 1;
    lines.set(at, line);
  }
  // Posts and rails leave gaps: cells within three of one another belong together.
  const kept = new Uint8Array(cells);
  const seen = new Uint8Array(cells);
  for (let start = 0; start < cells; start++) {
    if (isLine[start] === 0 || seen[start] === 1) continue;
    const run = [start];
    seen[start] = 1;
    let [west, east, south, north] = [Infinity, -Infinity, Infinity, -Infinity];
    for (let head = 0; head < run.length; head++) {
      const at = run[head]!;
      const [row, column] = [Math.floor(at / columns), at % columns];
      west = Math.min(west, column);
      east = Math.max(east, column);
      south = Math.min(south, row);
      north = Math.max(north, row);
      for (const k of beside(at, columns, cells, 3))
        if (isLine[k] === 1 && seen[k] === 0) {
          seen[k] = 1;
          run.push(k);
        }
    }
    if (Math.hypot(east - west, north - south) * cell >= leastLength) for (const at of run) kept[at] = 1;
  }
  // At corners and beside other things a piece is no line; there the lines that lead up to it say what lies on them.
  const reach = Math.round((1.6 * FENCE_WINDOW * metre) / cell);
  const isNear = new Uint8Array(cells);
  for (let at = 0; at < cells; at++)
    if (kept[at] === 1) for (const k of beside(at, columns, cells, reach)) isNear[k] = 1;
  for (let i = 0; i < count; i++) {
    if (isFree[i] === 0 || heights[i]! < 0.25 * metre || heights[i]! > FENCE_HEIGHT * metre) continue;
    const at = cellAt(i);
    const isOn =
      kept[at] === 1 ||
      (isNear[at] === 1 &&
        isTall[at] === 0 &&
        beside(at, columns, cells, reach).some((k) => {
          const line = kept[k] === 1 ? lines.get(k) : undefined;
          if (!line) return false;
          const [dx, dy] = [x[i]! - x0 - line.x, y[i]! - y0 - line.y];
          return Math.abs(dx * line.uy - dy * line.ux) <= FENCE_SCATTER * metre;
        }));
    if (isOn) out[i] = SMALL_OBJECT.fence;
  }
}

/** A line in plan about a cell. */
interface Line {
  readonly x: number;
  readonly y: number;
  readonly ux: number;
  readonly uy: number;
}
