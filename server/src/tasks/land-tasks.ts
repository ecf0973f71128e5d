import { picked } from '@pampero/core/columns';
import { classMask } from '@pampero/core/cloud';
import { gridFromPoints, type CellMethod } from '@pampero/core/grids';
import { planBounds } from '@pampero/core/raster';
import { cellScatters, onePointPerCell, thinEvenLand, type EvenLandOptions } from '@pampero/core/thinning';
import { chosenPoints, type ChosenPoints, type CloudColumns } from './chosen-points.js';

/** A piece of land of whole cells, counted from the origin of the coordinates; the cells of all pieces are those of the whole. */
export interface LandTile {
  readonly column: number;
  readonly row: number;
  /** Cells along a side. */
  readonly cells: number;
}

export interface LandTask {
  readonly clouds: readonly CloudColumns[];
  readonly classes: readonly number[];
  readonly cell: number;
  readonly tile: LandTile;
}

/** How the points of each cell of a tile scatter. */
export function scattersOfLand(task: LandTask): Float64Array {
  const { easting, northing, elevation } = pointsOfTile(task);
  return cellScatters(easting, northing, elevation, task.cell);
}

/** The points of a tile that stay: one a cell, and more where the land breaks if there is a rule for that. */
export function thinLand(task: LandTask & { readonly even: EvenLandOptions | undefined }): {
  readonly points: ChosenPoints;
  /** Points there were. */
  readonly of: number;
} {
  const { cell, even } = task;
  const { easting, northing, elevation } = pointsOfTile(task);
  const kept = even
    ? thinEvenLand(easting, northing, elevation, cell, even)
    : onePointPerCell(easting, northing, elevation, cell);
  return {
    points: { easting: picked(easting, kept), northing: picked(northing, kept), elevation: picked(elevation, kept) },
    of: easting.length,
  };
}

/** The chosen points in the cells of a tile. A point belongs to a tile by its cell, so that no cell is cut by rounding. */
function pointsOfTile({ clouds, classes, cell, tile }: LandTask): ChosenPoints {
  const { easting, northing, elevation } = chosenPoints(clouds, classMask(classes));
  const inside = new Uint32Array(easting.length);
  let count = 0;
  for (let i = 0; i < easting.length; i++) {
    const column = Math.floor(easting[i]! / cell) - tile.column;
    const row = Math.floor(northing[i]! / cell) - tile.row;
    if (column >= 0 && column < tile.cells && row >= 0 && row < tile.cells) inside[count++] = i;
  }
  const own = inside.subarray(0, count);
  return { easting: picked(easting, own), northing: picked(northing, own), elevation: picked(elevation, own) };
}

/** Figures of the cells of a tile, over the part of it that has points; undefined where none has. */
export function gridOfLand(task: LandTask & { readonly methods: readonly CellMethod[] }):
  | {
      readonly column: number;
      readonly row: number;
      readonly columns: number;
      readonly rows: number;
      readonly grids: readonly Float32Array[];
    }
  | undefined {
  const { cell, methods } = task;
  const { easting, northing, elevation } = pointsOfTile(task);
  if (easting.length === 0) return undefined;
  const land = planBounds(easting, northing);
  const [column, row] = [Math.floor(land.west / cell), Math.floor(land.south / cell)];
  const [columns, rows] = [Math.floor(land.east / cell) - column + 1, Math.floor(land.north / cell) - row + 1];
  const frame = { east: column * cell, north: row * cell, cell, columns, rows };
  const grids = methods.map((method) => gridFromPoints(easting, northing, elevation, frame, method));
  return { column, row, columns, rows, grids };
}
