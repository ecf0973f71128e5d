import type { GroundPlanes } from './ground-planes.js';
import type { LowestRaster } from './lowest-raster.js';

/** A cell is overgrown from this share of what was seen standing over its ground. */
const OVERGROWN = 0.2;
/** And in the cell itself this share: where most points lie together they bear each other out. */
const OVERGROWN_ITSELF = 0.5;
/** Lower is what lies lower by so many tolerances. */
const LOWER = 2.5;
/** Neighbours looked at, in cells either way, and how many of them have to say the same. */
const REACH = 2;
const LEAST_LOWER = 4;
/** Lower neighbours that lie further down than this are the foot of a step, metres. */
const STEP_METRES = 0.7;

/**
 * Empties cells whose lowest point stands on plants: in grass and scrub the beam reaches the ground in one cell and not in the next,
 * so that lowest points lie at all heights, and the ground is the lowest level that several neighbours share. A cell where something
 * grows is refused when at least four of its neighbours have their lowest points lower than it, by some tolerances, on land as
 * steep as that under it. Bare cells are never refused: their points bear each other out.
 * @param planes - fitted to the points near a first surface, with their `crowd`
 * @param tolerance - job units
 * @returns how many cells were emptied
 */
export function refuseOvergrown(
  raster: LowestRaster,
  { eastSlope, northSlope, crowd, ownCrowd }: GroundPlanes,
  tolerance: number,
  metresPerUnit: number,
): number {
  const { columns, rows, cell, lowest, fromCentreEast, fromCentreNorth } = raster;
  const step = STEP_METRES / metresPerUnit;
  const refused: number[] = [];
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (lowest[i] === Infinity || crowd[i]! < OVERGROWN || ownCrowd[i]! < OVERGROWN_ITSELF) continue;
      let lower = 0;
      for (let r = Math.max(0, row - REACH); r <= Math.min(rows - 1, row + REACH); r++)
        for (let c = Math.max(0, column - REACH); c <= Math.min(columns - 1, column + REACH); c++) {
          const j = r * columns + c;
          if (lowest[j] === Infinity || j === i) continue;
          const east = (c - column) * cell + fromCentreEast[j]! - fromCentreEast[i]!;
          const north = (r - row) * cell + fromCentreNorth[j]! - fromCentreNorth[i]!;
          const off = lowest[i]! + eastSlope[i]! * east + northSlope[i]! * north - lowest[j]!;
          if (off > LOWER * tolerance && off < step) lower++;
        }
      if (lower >= LEAST_LOWER) refused.push(i);
    }
  for (const i of refused) lowest[i] = Infinity;
  return refused.length;
}
