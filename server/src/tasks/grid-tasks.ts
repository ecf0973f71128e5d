import { packArrays, unpackArrays } from '@pampero/core/binary';
import type { Quantisation } from '@pampero/core/cloud';
import { readAsciiGrid } from '@pampero/core/formats/ascii-grid';
import {
  fillGaps,
  gridDifference,
  gridFromPoints,
  insideAndOutside,
  layLines,
  naturalNeighbours,
  type GridMethod,
} from '@pampero/core/grids';
import { PamperoError } from '@pampero/core/task';
import { sampleTin, unpackTin, type TerrainLine, type GridFrame, type Tin } from '@pampero/core/terrain';
import type { ReadGrid } from '../incoming/geotiff-grid.js';
import type { NodeColumns } from './node-columns.js';
import { surfacePoints } from './thinning-tasks.js';

/** What is said of a grid: where it lies, its range, how many cells have a value. */
export interface GridFacts extends GridFrame {
  readonly lowest: number;
  readonly highest: number;
  readonly filled: number;
}

/** A grid ready to be kept. */
export function packGrid(
  elevation: Float32Array<ArrayBuffer>,
  frame: GridFrame,
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
function frameOfSurface({ origin, easting, northing, facets }: Tin, cell: number): GridFrame {
  let [west, south, east, north] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const i of facets) {
    west = Math.min(west, easting[i]!);
    east = Math.max(east, easting[i]!);
    south = Math.min(south, northing[i]!);
    north = Math.max(north, northing[i]!);
  }
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

function sized(frame: GridFrame): GridFrame {
  if (frame.columns * frame.rows > MOST_CELLS)
    throw new PamperoError('grid-too-fine', {
      what: `A grid of ${frame.columns} by ${frame.rows} cells is more than can be kept at once (${MOST_CELLS} cells).`,
      mend: 'Give a larger cell.',
    });
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
      what: 'The two surfaces do not lie over each other anywhere.',
      mend: 'Choose surfaces of the same land.',
    });
  return packed;
}

/** Elevations of the first grid less those of the second, where both are. */
export function gridOfGrids({ grid, other }: { readonly grid: Uint8Array; readonly other: Uint8Array }) {
  const [one, two] = [unpackGrid(grid), unpackGrid(other)];
  const packed = packGrid(gridDifference(one.values, one.frame, two.values, two.frame), one.frame);
  if (packed.facts.filled === 0)
    throw new PamperoError('surfaces-apart', {
      what: 'The two grids do not lie over each other anywhere.',
      mend: 'Choose grids of the same land.',
    });
  return packed;
}

function unpackGrid(bytes: Uint8Array): { values: Float32Array; frame: GridFrame } {
  const { arrays, facts } = unpackArrays(bytes);
  return { values: arrays['elevation'] as Float32Array, frame: facts as unknown as GridFrame };
}

/** A grid as its file has it, ready to be kept. */
export interface GridOfFile extends ReturnType<typeof packGrid> {
  readonly remarks: readonly string[];
}

/** A grid as text, read and packed. */
export function gridOfText({ text, fileName }: { readonly text: string; readonly fileName: string }): GridOfFile {
  const { values, frame } = readAsciiGrid(text, fileName);
  return packFile({ values: values as Float32Array<ArrayBuffer>, frame, remarks: [] }, fileName);
}

/** @throws PamperoError `grid-empty` where no cell has a value */
export function packFile({ values, frame, remarks }: ReadGrid, fileName: string): GridOfFile {
  const packed = packGrid(values, frame);
  if (packed.facts.filled === 0)
    throw new PamperoError('grid-empty', {
      what: `${fileName} has no cell with a value.`,
      mend: 'Look whether the right band and no-data value were written.',
    });
  return { ...packed, remarks };
}

export interface PointGridTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly takes: Uint8Array;
  readonly method: GridMethod;
  readonly cell: number;
  /** How far gaps are filled, cells. */
  readonly reach: number;
  /** Another treatment inside outlines, and the width of the seam; job units. */
  readonly within?: { readonly outlines: readonly TerrainLine[]; readonly method: GridMethod; readonly seam: number };
  /** Water laid flat, lines burnt in. */
  readonly laid: readonly TerrainLine[];
}

export function gridOfPoints({ nodes, quantisation, takes, method, cell, reach, within, laid }: PointGridTask) {
  const { points } = surfacePoints({ nodes, quantisation, takes });
  if (points.x.length === 0)
    throw new PamperoError('nothing-selected', {
      what: 'The cloud has no points of the chosen classes that are not withheld.',
      mend: 'Choose other classes, or restore what is withheld.',
    });
  const full = (values: Float64Array, axis: 0 | 1 | 2): Float64Array =>
    values.map((value) => value + quantisation.offset[axis]);
  const [e, n, z] = [full(points.x, 0), full(points.y, 1), full(points.z, 2)];
  const least = (values: Float64Array): number => values.reduce((a, b) => Math.min(a, b));
  const most = (values: Float64Array): number => values.reduce((a, b) => Math.max(a, b));
  const [firstColumn, firstRow] = [Math.floor(least(e) / cell), Math.floor(least(n) / cell)];
  const frame = sized({
    east: firstColumn * cell,
    north: firstRow * cell,
    cell,
    columns: Math.floor(most(e) / cell) - firstColumn + 1,
    rows: Math.floor(most(n) / cell) - firstRow + 1,
  });
  const valuesOf = (how: GridMethod): Float32Array<ArrayBuffer> =>
    how === 'natural'
      ? naturalNeighbours(e, n, z, frame, Math.max(2, reach))
      : how === 'count'
        ? gridFromPoints(e, n, z, frame, how)
        : fillGaps(gridFromPoints(e, n, z, frame, how), frame.columns, frame.rows, reach);
  let values = valuesOf(method);
  if (within) values = insideAndOutside(valuesOf(within.method), values, frame, within.outlines, within.seam);
  layLines(values, frame, laid);
  return packGrid(values, frame);
}
