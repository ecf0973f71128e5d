import { gridElevation } from './point-values';
import { RAMP_SIZE, rampTable } from './ramps';
import type { DrawnGrid } from './rasteriser';
import type { AreaAnswer } from './viewer-protocol';

/** Elevation tints lit from the north-west, for a surface on its own. */
export function shadedGrid(
  elevation: Float32Array,
  frame: { east: number; north: number; cell: number; columns: number; rows: number },
  origin: readonly [number, number, number],
): DrawnGrid {
  const { columns, rows, cell } = frame;
  const ramp = rampTable('land');
  let low = Infinity;
  let high = -Infinity;
  for (const z of elevation) {
    if (z < low) low = z;
    if (z > high) high = z;
  }
  const colour = new Uint32Array(columns * rows);
  const heights = new Float32Array(columns * rows);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column;
      const z = elevation[at]!;
      heights[at] = z - origin[2];
      if (Number.isNaN(z)) continue;
      const west = elevation[column > 0 ? at - 1 : at]!;
      const east = elevation[column < columns - 1 ? at + 1 : at]!;
      const south = elevation[row > 0 ? at - columns : at]!;
      const north = elevation[row < rows - 1 ? at + columns : at]!;
      const slopeEast = (east - west) / (2 * cell) || 0;
      const slopeNorth = (north - south) / (2 * cell) || 0;
      const light = Math.max(0.35, Math.min(1.18, 0.95 + (slopeEast - slopeNorth) * 0.75));
      const share = (z - low) / Math.max(1e-6, high - low);
      const tint = ramp[Math.max(0, Math.min(RAMP_SIZE - 1, Math.round(share * (RAMP_SIZE - 1))))]!;
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
