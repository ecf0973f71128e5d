import { planBounds, planBoundsOf, type PlanBounds, type RasterFrame } from '@pampero/core/raster';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import {
  cutPart,
  fillGaps,
  gridDifference,
  gridFromPoints,
  insideAndOutside,
  layLines,
  naturalNeighbours,
  type GridMethod,
  type GridPart,
} from '@pampero/core/grids';
import { PamperoError } from '@pampero/core/task';
import { sampleTin, unpackTin, type TerrainLine, type Tin } from '@pampero/core/terrain';
import type { ReadGrid } from '../files/geotiff-grid.js';
import { chosenPoints, type CloudColumns } from './chosen-points.js';

/** What is said of a grid: where it lies, its range, how many cells have a value. */
export interface GridFacts extends RasterFrame {
  readonly lowest: number;
  readonly highest: number;
  readonly filled: number;
}

/** A grid ready to be kept. */
export function packGrid(
  elevation: Float32Array<ArrayBuffer>,
  frame: RasterFrame,
): { readonly grid: Uint8Array; readonly facts: GridFacts } {
  let [lowest, highest, filled] = [Infinity, -Infinity, 0];
  for (const value of elevation) {
    if (Number.isNaN(value)) continue;
    lowest = Math.min(lowest, value);
    highest = Math.max(highest, value);
    filled++;
  }
  return { grid: packArrays({ elevation }, frame), facts: { ...frame, lowest, highest, filled } };
}

export function gridOfSurface({ tin, cell }: { readonly tin: Uint8Array; readonly cell: number }) {
  const surface = unpackTin(tin);
  const frame = frameOfSurface(surface, cell);
  return packGrid(sampleTin(surface, frame), frame);
}

/** Cells on whole multiples of their side, so that grids of one job lie on each other. */
function frameOfSurface({ origin, easting, northing, facets }: Tin, cell: number): RasterFrame {
  const { west, south, east, north } = planBoundsOf(facets, easting, northing);
  const firstColumn = Math.floor((west + origin[0]) / cell);
  const firstRow = Math.floor((south + origin[1]) / cell);
  return sized({
    east: firstColumn * cell,
    north: firstRow * cell,
    cell,
    columns: Math.ceil((east + origin[0]) / cell) - firstColumn,
    rows: Math.ceil((north + origin[1]) / cell) - firstRow,
  });
}

const MOST_CELLS = 100_000_000;

/** @throws PamperoError `grid-too-fine` */
export function refuseTooFine(columns: number, rows: number): void {
  if (columns * rows > MOST_CELLS)
    throw new PamperoError('grid-too-fine', {
      what: `A grid of ${columns} by ${rows} cells is too large (at most ${MOST_CELLS} cells).`,
      fix: 'Give a larger cell.',
    });
}

function sized(frame: RasterFrame): RasterFrame {
  refuseTooFine(frame.columns, frame.rows);
  return { ...frame, columns: Math.max(1, frame.columns), rows: Math.max(1, frame.rows) };
}

/** Elevations of the first surface less those of the second, where both are. */
export function gridOfDifference({
  tin,
  other,
  cell,
}: {
  readonly tin: Uint8Array;
  readonly other: Uint8Array;
  readonly cell: number;
}) {
  const surface = unpackTin(tin);
  const frame = frameOfSurface(surface, cell);
  const values = sampleTin(surface, frame);
  const less = sampleTin(unpackTin(other), frame);
  for (let at = 0; at < values.length; at++) values[at]! -= less[at]!;
  const packed = packGrid(values, frame);
  if (packed.facts.filled === 0)
    throw new PamperoError('surfaces-apart', {
      what: 'The two surfaces do not overlap.',
      fix: 'Choose surfaces of the same area.',
    });
  return packed;
}

/** Elevations of the first grid less those of the second, where both are. */
export function gridOfGrids({ grid, other }: { readonly grid: Uint8Array; readonly other: Uint8Array }) {
  const [one, two] = [unpackGrid(grid), unpackGrid(other)];
  const packed = packGrid(gridDifference(one.values, one.frame, two.values, two.frame), one.frame);
  if (packed.facts.filled === 0)
    throw new PamperoError('surfaces-apart', {
      what: 'The two grids do not overlap.',
      fix: 'Choose grids of the same area.',
    });
  return packed;
}

function unpackGrid(bytes: Uint8Array): { values: Float32Array; frame: RasterFrame } {
  const { arrays, facts } = unpackArrays(bytes);
  return { values: arrays['elevation'] as Float32Array, frame: facts as unknown as RasterFrame };
}

/** A grid as its file has it, ready to be kept. */
export interface GridOfFile extends ReturnType<typeof packGrid> {
  readonly remarks: readonly string[];
}

/** @throws PamperoError `grid-empty` where no cell has a value */
export function packFile({ values, frame, remarks }: ReadGrid, fileName: string): GridOfFile {
  const packed = packGrid(values, frame);
  if (packed.facts.filled === 0)
    throw new PamperoError('grid-empty', {
      what: `${fileName} has no cell with a value.`,
      fix: 'Check that the right band and no-data value were written.',
    });
  return { ...packed, remarks };
}

export interface PointGridTask {
  /** Read whole, for figures that hang on more than a cell's own points; */
  readonly clouds: readonly CloudColumns[];
  readonly classMask: Uint8Array;
  /** else the cells as they were gathered tile by tile: of the method, and of the one inside outlines. */
  readonly cells?: { readonly frame: RasterFrame; readonly values: readonly Float32Array<ArrayBuffer>[] } | undefined;
  readonly method: GridMethod;
  readonly cell: number;
  /** How far gaps are filled, cells. */
  readonly fillCells: number;
  /** Another value inside outlines, and the width over which the two are blended; job units. */
  readonly inside?: {
    readonly outlines: readonly TerrainLine[];
    readonly method: GridMethod;
    readonly blendWidth: number;
  };
  /** Water laid flat, lines burnt in. */
  readonly burnLines: readonly TerrainLine[];
  /** Of a large site: the grid has the cells whose middles lie in it. */
  readonly square?: PlanBounds | undefined;
}

export function gridOfPoints(task: PointGridTask) {
  const { method, cell, fillCells, inside, burnLines, square } = task;
  const { frame, valuesOf } = task.cells
    ? { frame: task.cells.frame, valuesOf: (_: GridMethod, k: 0 | 1) => task.cells!.values[k]! }
    : cellsOfPoints(task);
  const filled = (how: GridMethod, k: 0 | 1): Float32Array<ArrayBuffer> => {
    const given = valuesOf(how, k);
    return how === 'natural' || how === 'count' ? given : fillGaps(given, frame.columns, frame.rows, fillCells);
  };
  let values = filled(method, 0);
  if (inside) values = insideAndOutside(filled(inside.method, 1), values, frame, inside.outlines, inside.blendWidth);
  layLines(values, frame, burnLines);
  if (!square) return packGrid(values, frame);
  const part = cellsIn(frame, square);
  if (part.columns <= 0 || part.rows <= 0)
    throw new PamperoError('nothing-selected', {
      what: 'No cell of the grid lies in the square of this job.',
      fix: 'Give a smaller cell, or leave the square out.',
    });
  const own = { ...frame, east: frame.east + part.column * cell, north: frame.north + part.row * cell, columns: part.columns, rows: part.rows }; // prettier-ignore
  return packGrid(cutPart(values, frame.columns, part), own);
}

/** Points that are in memory whole, and a way to their cells. */
function cellsOfPoints({ clouds, classMask, cell, fillCells }: PointGridTask): {
  frame: RasterFrame;
  valuesOf: (how: GridMethod) => Float32Array<ArrayBuffer>;
} {
  const { easting: e, northing: n, elevation: z } = chosenPoints(clouds, classMask);
  if (e.length === 0) throw nothingChosen();
  const land = planBounds(e, n);
  const [firstColumn, firstRow] = [Math.floor(land.west / cell), Math.floor(land.south / cell)];
  const frame = sized({
    east: firstColumn * cell,
    north: firstRow * cell,
    cell,
    columns: Math.floor(land.east / cell) - firstColumn + 1,
    rows: Math.floor(land.north / cell) - firstRow + 1,
  });
  return {
    frame,
    valuesOf: (how) =>
      how === 'natural'
        ? naturalNeighbours(e, n, z, frame, Math.max(2, fillCells))
        : gridFromPoints(e, n, z, frame, how),
  };
}

export const nothingChosen = (): PamperoError =>
  new PamperoError('nothing-selected', {
    what: 'The clouds have no points of the chosen classes that are not withheld.',
    fix: 'Choose other classes, or restore what is withheld.',
  });

/** The cells of a raster whose middles lie in some land. */
function cellsIn({ east, north, cell, columns, rows }: RasterFrame, land: PlanBounds): GridPart {
  // A middle on an edge is east or north of it, as a point is.
  const first = (edge: number, from: number): number => Math.max(0, Math.ceil((edge - from) / cell - 0.5 - 1e-9));
  const column = first(land.west, east);
  const row = first(land.south, north);
  return {
    column,
    row,
    columns: Math.min(columns, first(land.east, east)) - column,
    rows: Math.min(rows, first(land.north, north)) - row,
  };
}
