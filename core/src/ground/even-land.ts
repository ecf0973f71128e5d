import { PlaneSums } from '../measuring/index.js';
import { eachNeighbour } from '../raster/index.js';
import type { LowestRaster } from './lowest-raster.js';

/** A window of three by three cells tells a plane where so many of its cells have a point. */
const LEAST_IN_WINDOW = 6;
/** Steepest even land, as a tangent: walls are steeper, and what has only walls about it is not reached. */
const STEEPEST = 2;
/** Of a piece of even land that is ground a quarter is known; of a roof that one wrong corner lies on, next to nothing. Share of cells. */
const FEW_KNOWN = 0.01;
/** So many neighbours lead to a cell of land; where the low edge of a roof or a solar panel looks like a slope, hardly two do. */
const LEAST_WAYS = 2;

/** Slopes and scatter of planes, a cell each. */
interface Planes {
  readonly eastSlope: Float32Array;
  readonly northSlope: Float32Array;
  /** Infinite where there is none. */
  readonly scatter: Float32Array;
}

/**
 * Cells that even land leads to from cells known to be ground: up a bank and on over its brow, however high. Each cell has the plane of
 * the evenest of the windows it lies in, so that a bend between two even pieces spoils neither. One goes from a cell to its neighbour
 * where the difference in height is what the two planes, or a bend between them, make of the way: a wall, the edge of a crop or of a roof is
 * a step between planes that do not explain it, and plants are not even. A piece of which hardly a cell is known is left: a single corner
 * on a roof must not make ground of all of it; nor is a cell reached that one neighbour alone leads to. What is reached does not depend on the order of cells.
 * @param even - largest scatter about a plane (root mean square) of even land, job units
 */
export function evenLandFrom(raster: LowestRaster, isGround: Uint8Array, even: number): number[] {
  const { columns, cell, lowest, fromCentreEast, fromCentreNorth } = raster;
  const { eastSlope, northSlope, scatter } = evenestPlanes(raster);
  /** Whether one comes from a cell to its neighbour over even land, and back. */
  const leads = (at: number, k: number): boolean => {
    if (scatter[k]! > even) return false;
    const column = at % columns;
    const east = ((k % columns) - column) * cell + fromCentreEast[k]! - fromCentreEast[at]!;
    const north = ((k - (k % columns) - at + column) / columns) * cell + fromCentreNorth[k]! - fromCentreNorth[at]!;
    const byOwn = east * eastSlope[at]! + north * northSlope[at]!;
    const byOther = east * eastSlope[k]! + north * northSlope[k]!;
    const rise = lowest[k]! - lowest[at]!;
    return rise >= Math.min(byOwn, byOther) - even && rise <= Math.max(byOwn, byOther) + even;
  };
  const isSeen = new Uint8Array(isGround.length);
  /** How many neighbours that are reached lead to a cell. */
  const ways = new Uint8Array(isGround.length);
  const isReached = new Uint8Array(isGround.length);
  const found: number[] = [];
  for (let start = 0; start < isGround.length; start++) {
    if (isGround[start] !== 1 || isSeen[start] === 1 || scatter[start]! > even) continue;
    const piece: number[] = [start];
    isSeen[start] = 1;
    for (let done = 0; done < piece.length; done++) {
      const at = piece[done]!;
      eachNeighbour(raster, at, (k) => {
        if (isSeen[k] === 1 || !leads(at, k)) return;
        isSeen[k] = 1;
        piece.push(k);
      });
    }
    const front = piece.filter((k) => isGround[k] === 1);
    if (front.length < FEW_KNOWN * piece.length) continue;
    for (const k of front) isReached[k] = 1;
    for (let done = 0; done < front.length; done++) {
      const at = front[done]!;
      eachNeighbour(raster, at, (k) => {
        if (isReached[k] === 1 || !leads(at, k) || ++ways[k]! < LEAST_WAYS) return;
        isReached[k] = 1;
        front.push(k);
        found.push(k);
      });
    }
  }
  return found.sort((a, b) => a - b);
}

/** For each cell the plane of the evenest window among the nine it lies in. */
function evenestPlanes(raster: LowestRaster): Planes {
  const own = windowPlanes(raster);
  const cells = own.scatter.length;
  const out = newPlanes(cells);
  for (let at = 0; at < cells; at++) {
    if (raster.lowest[at] === Infinity) continue;
    let best = at;
    eachNeighbour(raster, at, (k) => {
      if (own.scatter[k]! < own.scatter[best]!) best = k;
    });
    out.scatter[at] = own.scatter[best]!;
    out.eastSlope[at] = own.eastSlope[best]!;
    out.northSlope[at] = own.northSlope[best]!;
  }
  return out;
}

/** The plane through the points of each cell and its neighbours, by least squares. */
function windowPlanes(raster: LowestRaster): Planes {
  const { columns, rows, cell, lowest, fromCentreEast, fromCentreNorth } = raster;
  const out = newPlanes(columns * rows);
  const sums = new PlaneSums();
  for (let row = 1; row < rows - 1; row++)
    for (let column = 1; column < columns - 1; column++) {
      const at = row * columns + column;
      sums.clear();
      const base = lowest[at] === Infinity ? 0 : lowest[at]!;
      for (let r = -1; r <= 1; r++)
        for (let c = -1; c <= 1; c++) {
          const k = at + r * columns + c;
          if (lowest[k] === Infinity) continue;
          sums.add(c * cell + fromCentreEast[k]!, r * cell + fromCentreNorth[k]!, lowest[k]! - base);
        }
      const plane = sums.count < LEAST_IN_WINDOW ? undefined : sums.plane(0.01 * cell ** 4);
      if (!plane || Math.hypot(plane.east, plane.north) > STEEPEST) continue;
      out.eastSlope[at] = plane.east;
      out.northSlope[at] = plane.north;
      out.scatter[at] = plane.scatter;
    }
  return out;
}

function newPlanes(cells: number): Planes {
  return {
    eastSlope: new Float32Array(cells),
    northSlope: new Float32Array(cells),
    scatter: new Float32Array(cells).fill(Infinity),
  };
}
