import type { RasterFrame } from '@pampero/core/raster';
import { gridElevation } from './grid-elevation';
import { RAMP_SIZE } from '@pampero/core/tints';
import type { DrawnGrid } from './grid-rasteriser';
import type { AreaAnswer, SurfaceAnswer } from './viewer-questions';

/** Colours over a range of values. */
export interface GridTint {
  readonly table: Uint32Array;
  readonly low: number;
  readonly high: number;
}

/** By what a surface is coloured: its own elevation or steepness in degrees, or the values of another raster. */
export type ColouredBy = 'elevation' | 'slope' | { readonly values: Float32Array; readonly place: RasterFrame };

/** The value that each corner of a surface is coloured by; NaN where there is none. */
export function tintedValues(elevation: Float32Array, frame: RasterFrame, by: ColouredBy): Float32Array {
  if (by === 'elevation') return elevation;
  const { columns, rows, cell, east, north } = frame;
  const out = new Float32Array(columns * rows);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      if (Number.isNaN(elevation[at]!)) out[at] = NaN;
      else if (by === 'slope') {
        const [slopeEast, slopeNorth] = slopeAt(elevation, frame, column, row);
        out[at] = (Math.atan(Math.hypot(slopeEast, slopeNorth)) * 180) / Math.PI;
      } else out[at] = valueAt(by, east + (column + 0.5) * cell, north + (row + 0.5) * cell);
    }
  return out;
}

/** The cells of a raster that a window touches, at most a million of them: of more every n-th. */
export function windowOf(
  values: Float32Array,
  { east, north, cell, columns, rows }: RasterFrame,
  window: { readonly west: number; readonly south: number; readonly east: number; readonly north: number },
): { values: Float32Array; place: RasterFrame } {
  const index = (value: number, origin: number, count: number): number =>
    Math.max(0, Math.min(count - 1, Math.floor((value - origin) / cell)));
  const [c0, c1] = [index(window.west, east, columns), index(window.east, east, columns)];
  const [r0, r1] = [index(window.south, north, rows), index(window.north, north, rows)];
  const stride = Math.max(1, Math.ceil(Math.sqrt(((c1 - c0 + 1) * (r1 - r0 + 1)) / 1e6)));
  const [across, up] = [Math.floor((c1 - c0) / stride) + 1, Math.floor((r1 - r0) / stride) + 1];
  const out = new Float32Array(across * up);
  for (let row = 0, at = 0; row < up; row++)
    for (let column = 0; column < across; column++, at++)
      out[at] = values[(r0 + row * stride) * columns + c0 + column * stride]!;
  // Centres of the chosen cells, about which larger ones are laid.
  const shift = ((1 - stride) * cell) / 2;
  return {
    values: out,
    place: {
      east: east + c0 * cell + shift,
      north: north + r0 * cell + shift,
      cell: cell * stride,
      columns: across,
      rows: up,
    },
  };
}

/** How values are spread: counts of even steps between the lowest and the highest. */
export function spreadOfValues(values: Float32Array, bins = 64): { low: number; high: number; counts: number[] } {
  let [low, high] = [Infinity, -Infinity];
  for (const value of values) {
    if (value < low) low = value;
    if (value > high) high = value;
  }
  const counts = new Array<number>(bins).fill(0);
  if (!(high >= low)) return { low: 0, high: 1, counts };
  const step = Math.max(1e-9, high - low) / bins;
  for (const value of values) if (!Number.isNaN(value)) counts[Math.min(bins - 1, Math.floor((value - low) / step))]!++;
  return { low, high, counts };
}

/** Rise towards the east and the north, from the neighbours either side. */
function slopeAt(
  elevation: Float32Array,
  { columns, rows, cell }: RasterFrame,
  column: number,
  row: number,
): [number, number] {
  const at = row * columns + column;
  const west = elevation[column > 0 ? at - 1 : at]!;
  const east = elevation[column < columns - 1 ? at + 1 : at]!;
  const south = elevation[row > 0 ? at - columns : at]!;
  const north = elevation[row < rows - 1 ? at + columns : at]!;
  return [(east - west) / (2 * cell) || 0, (north - south) / (2 * cell) || 0];
}

/** A surface in its tints, lit from the north-west; where it has no value to show it is pale. */
export function shadedGrid(
  elevation: Float32Array,
  frame: RasterFrame,
  origin: readonly [number, number, number],
  values: Float32Array,
  { table, low, high }: GridTint,
): DrawnGrid {
  const { columns, rows, cell } = frame;
  const colour = new Uint32Array(columns * rows);
  const heights = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column;
      const z = elevation[at]!;
      heights[at] = z - origin[2];
      if (Number.isNaN(z)) continue;
      const [slopeEast, slopeNorth] = slopeAt(elevation, frame, column, row);
      const light = Math.max(0.35, Math.min(1.18, 0.95 + (slopeEast - slopeNorth) * 0.75));
      const share = (values[at]! - low) / Math.max(1e-9, high - low);
      const tint = Number.isNaN(share)
        ? NO_VALUE
        : table[Math.max(0, Math.min(RAMP_SIZE - 1, Math.floor(share * RAMP_SIZE)))]!;
      const lit = (channel: number): number => Math.min(255, Math.round(((tint >> channel) & 255) * light));
      colour[at] = (0xff000000 | (lit(16) << 16) | (lit(8) << 8) | lit(0)) >>> 0;
    }
  }
  return {
    columns,
    rows,
    step: cell,
    x: frame.east + cell / 2 - origin[0],
    y: frame.north + cell / 2 - origin[1],
    elevation: heights,
    colour,
  };
}

const NO_VALUE = 0xffd6dadc;

/** The value of the cell at a place. */
function valueAt(
  { values, place }: { readonly values: Float32Array; readonly place: RasterFrame },
  e: number,
  n: number,
): number {
  const [column, row] = [Math.floor((e - place.east) / place.cell), Math.floor((n - place.north) / place.cell)];
  return column < 0 || row < 0 || column >= place.columns || row >= place.rows
    ? NaN
    : values[row * place.columns + column]!;
}

/** Elevations along a line in plan, scene coordinates, a sample a grid step and at both ends. */
export function profileOver(
  grid: DrawnGrid,
  [ax, ay, bx, by]: readonly [number, number, number, number],
): { stations: Float64Array; elevations: Float64Array } {
  const length = Math.hypot(bx - ax, by - ay);
  const steps = Math.max(1, Math.min(4000, Math.ceil(length / (grid.step / 2))));
  const stations = Float64Array.from({ length: steps + 1 }, (_, i) => (length * i) / steps);
  const elevations = stations.map((_, i) =>
    gridElevation(grid, ax + ((bx - ax) * i) / steps, ay + ((by - ay) * i) / steps),
  );
  return { stations, elevations };
}

/** Area and volume of the surface within an outline in plan, summed over squares of half a grid step at most. */
export function areaOver(
  grid: DrawnGrid,
  corners: readonly (readonly [number, number])[],
  contains: (x: number, y: number) => boolean,
  level: number,
): AreaAnswer | undefined {
  const xs = corners.map(([x]) => x);
  const ys = corners.map(([, y]) => y);
  const [west, east, south, north] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  // At least a few hundred squares across, and no more than two million in all.
  const step = Math.max(
    Math.min(grid.step / 2, Math.max(east - west, north - south) / 300),
    Math.sqrt(((east - west) * (north - south)) / 2e6),
  );
  if (!(step > 0)) return undefined;
  let [planArea, slopeArea, over, under] = [0, 0, 0, 0];
  let isHeld = false;
  const square = step * step;
  for (let y = south + step / 2; y < north; y += step)
    for (let x = west + step / 2; x < east; x += step) {
      if (!contains(x, y)) continue;
      const z = gridElevation(grid, x, y);
      if (Number.isNaN(z)) continue;
      isHeld = true;
      const h = grid.step / 2;
      const dx = (gridElevation(grid, x + h, y) - gridElevation(grid, x - h, y)) / grid.step || 0;
      const dy = (gridElevation(grid, x, y + h) - gridElevation(grid, x, y - h)) / grid.step || 0;
      planArea += square;
      slopeArea += square * Math.sqrt(1 + dx * dx + dy * dy);
      if (z > level) over += (z - level) * square;
      else under += (level - z) * square;
    }
  return isHeld ? { planArea, slopeArea, over, under } : undefined;
}

/** Elevation and slope of the surface at a place, and what lies between it and the corner drawn last. */
export function surfaceAt(
  grid: DrawnGrid,
  [x, y]: readonly [number, number],
  from: readonly [number, number] | undefined,
  origin: number,
): SurfaceAnswer {
  const here = gridElevation(grid, x, y);
  if (Number.isNaN(here)) return { elevation: undefined, slope: NaN, from: undefined };
  const h = grid.step / 2;
  const east = (gridElevation(grid, x + h, y) - gridElevation(grid, x - h, y)) / grid.step || 0;
  const north = (gridElevation(grid, x, y + h) - gridElevation(grid, x, y - h)) / grid.step || 0;
  const before = from ? gridElevation(grid, ...from) : NaN;
  return {
    elevation: here + origin,
    slope: Math.hypot(east, north),
    from: from && { distance: Math.hypot(x - from[0], y - from[1]), rise: here - before },
  };
}

/** Whether a grid reaches over all that a view from above shows. */
export function coversView({ x, y, step, columns, rows }: DrawnGrid, matrix: ArrayLike<number>): boolean {
  const [halfWidth, halfHeight] = [1 / Math.abs(matrix[0]!), 1 / Math.abs(matrix[5]!)];
  const [middleX, middleY] = [-matrix[12]! / matrix[0]!, -matrix[13]! / matrix[5]!];
  return (
    middleX - halfWidth >= x - step &&
    middleX + halfWidth <= x + columns * step &&
    middleY - halfHeight >= y - step &&
    middleY + halfHeight <= y + rows * step
  );
}
