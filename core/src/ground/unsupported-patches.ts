import { connectedCells, eachBeyondEdge } from '../raster/index.js';
import type { NearSums } from './ground-planes.js';
import type { LowestRaster } from './lowest-raster.js';

/** Distances at which the surroundings are asked, metres: of what stands out, and of pits, which are small. */
const DISTANCES_METRES = { up: [4, 7, 12, 18], down: [2, 4, 7] } as const;
/** Directions either way. */
const DIRECTIONS = 8;
/** A patch stands out by at least so much, metres, and by this share of what the land's slopes make over the distance. */
const LEAST_METRES = { up: 0.6, down: 0.35 } as const;
const SLOPE_SHARE = 0.6;
/** Of all last returns over ground at least this share lies near its surface, unless it hides under plants. */
const BARE = 0.5;
/** An edge falls off where the next ground beyond, so many cells away at most, lies lower by so much, metres, and steeper than this. */
const BEYOND_CELLS = 5;
const DROP_METRES = 0.8;
const DROP_SLOPE = 0.8;
/** So much of what is known of a roof's edge falls off. */
const EDGE_SHARE = 0.7;

/**
 * Empties cells of small patches that a first surface has climbed onto, though the land about them says otherwise: a roof, a close
 * crown, a thicket; or fallen into, where false points lie under it. Such a patch stands over the middle between any two opposite places about it, in every direction; a bank or a
 * terrace goes on in one. A bare hill does stand so too: what is bare is taken away only where its edge falls off all round, and a bare pit
 * never.
 * @param heights - of the first surface, at the cells' centres, job units
 * @param near - what was seen near that surface, with all last returns in `all`
 * @param steepSlope - of the land, as a tangent
 * @returns how many cells were emptied
 */
export function rejectUnsupported(
  raster: LowestRaster,
  heights: Float64Array,
  near: NearSums,
  steepSlope: number,
  metresPerUnit: number,
): number {
  const { columns, rows, cell, lowest } = raster;
  const metre = 1 / metresPerUnit;
  let emptied = 0;
  for (const way of ['down', 'up'] as const) {
    const standsOut = new Uint8Array(columns * rows);
    const sign = way === 'up' ? 1 : -1;
    for (const distance of DISTANCES_METRES[way]) {
      const limit = (LEAST_METRES[way] + SLOPE_SHARE * steepSlope * distance) * metre;
      const offsets = Array.from({ length: DIRECTIONS }, (_, k) => {
        const angle = (k * Math.PI) / DIRECTIONS;
        const cells = (distance * metre) / cell;
        return [Math.round(cells * Math.cos(angle)), Math.round(cells * Math.sin(angle))] as const;
      });
      for (let row = 0, i = 0; row < rows; row++)
        for (let column = 0; column < columns; column++, i++)
          if (standsOut[i] === 0 && isPeak(column, row, i, offsets, sign, limit)) standsOut[i] = 1;
    }
    for (const cells of connectedCells(raster, (i) => standsOut[i] === 1)) {
      const held = cells.filter((i) => lowest[i] !== Infinity);
      if (held.length === 0) continue;
      const seen = held.reduce((sum, i) => sum + near.all[i]!, 0);
      const close = held.reduce((sum, i) => sum + near.count[i]!, 0);
      if (close >= BARE * seen && (way === 'down' || !fallsOff(raster, cells, heights, metre))) continue;
      for (const i of held) lowest[i] = Infinity;
      emptied += held.length;
    }
  }
  return emptied;

  function isPeak(
    column: number,
    row: number,
    i: number,
    offsets: readonly (readonly [number, number])[],
    sign: number,
    limit: number,
  ): boolean {
    for (const [c, r] of offsets) {
      const [back, ahead] = [at(column - c, row - r), at(column + c, row + r)];
      // A bank may go on just where nothing is known.
      if (back === undefined && ahead === undefined) return false;
      // Beyond the raster may be anything: the side that is known speaks for both.
      const middle = ((back ?? ahead!) + (ahead ?? back!)) / 2;
      if (sign * (heights[i]! - middle) <= limit) return false;
    }
    return true;
  }

  /** Undefined beyond the raster. */
  function at(c: number, r: number): number | undefined {
    return c < 0 || r < 0 || c >= columns || r >= rows ? undefined : heights[r * columns + c]!;
  }
}

/** Whether most of a patch's edge falls off to what lies beyond. */
function fallsOff(raster: LowestRaster, cells: readonly number[], heights: Float64Array, metre: number): boolean {
  const { cell, lowest } = raster;
  let [known, falling] = [0, 0];
  eachBeyondEdge(
    raster,
    cells,
    (i) => lowest[i] !== Infinity,
    BEYOND_CELLS,
    (from, to, far) => {
      if (to === undefined) return;
      known++;
      const drop = heights[from]! - lowest[to]!;
      if (drop > DROP_METRES * metre && drop > DROP_SLOPE * far * cell) falling++;
    },
  );
  return known > 0 && falling >= EDGE_SHARE * known;
}
