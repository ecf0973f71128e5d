import { picked } from '@pampero/core/columns';
import type { RasterFrame } from '@pampero/core/raster';
import { packArrays } from '@pampero/core/binary';
import { classMask } from '@pampero/core/cloud';
import { PamperoError } from '@pampero/core/task';
import {
  waterLines,
  type WaterPiece,
  cutTin,
  editTin,
  gridFrameOver,
  nextSide,
  packTin,
  sampleTin,
  tinFacts,
  triangulate,
  unpackTin,
  type Crossing,
  type TerrainLine,
  surfaceFaults,
  type FaultLimits,
  type MeshReport,
  type SurfaceEdit,
  type SurfaceFault,
  type Tin,
  type TinFacts,
  type TinOptions,
} from '@pampero/core/terrain';
import { seamsOf, type JobSquare } from '@pampero/core/squares';
import { onePointPerCell, thinEvenLand } from '@pampero/core/thinning';
import type { MessagePort } from 'node:worker_threads';
import { chosenPoints, type ChosenPoints, type CloudColumns } from './chosen-points.js';

export interface TriangulateTask {
  /** Read whole; empty where the points were thinned tile by tile before. */
  readonly clouds: readonly CloudColumns[];
  readonly thinned?: { readonly points: ChosenPoints; readonly of: number } | undefined;
  readonly classes: readonly number[];
  /** 0 takes every point. */
  readonly thinCell: number;
  /** Finer cells where the land breaks. */
  readonly keepBreaks: boolean;
  readonly options: TinOptions;
  readonly lines: readonly TerrainLine[];
  /** What becomes of the land under points of class 9. */
  readonly water: 'as-it-is' | 'flat' | 'left-out';
  readonly metresPerUnit: number;
  /** Done by hand, and done again. */
  readonly edits: readonly SurfaceEdit[];
  /** Of a large site: the surface ends at its edges. */
  readonly square?: JobSquare | undefined;
  readonly port: MessagePort;
}

export interface TriangulateResult {
  readonly tin: Uint8Array;
  readonly grid: Uint8Array;
  readonly origin: readonly [number, number];
  readonly facts: TinFacts;
  readonly pointsThinned: number;
  readonly duplicatesDropped: number;
  readonly facetsLeftOut: number;
  readonly edgesHeld: number;
  readonly edgesNotHeld: number;
  readonly pointsNearLines: number;
  readonly crossings: readonly Crossing[];
  /** Edits that no longer fit. */
  readonly editsRefused: number;
  /** Water that was laid flat or left out. */
  readonly waters: readonly Omit<WaterPiece, 'lines'>[];
}

/** Cells along the longer side of the grid that stands in for a surface on the screen. */
const DISPLAY_GRID_CELLS = 1200;

/** @param wanted - cells that are kept where they cover the surface, so that little differs from what the page has */
export function displayGrid(tin: Tin, wanted?: RasterFrame): Uint8Array<ArrayBuffer> {
  const frame = wanted && covers(wanted, tin) ? wanted : gridFrameOver(tin, DISPLAY_GRID_CELLS);
  return packArrays({ elevation: sampleTin(tin, frame) }, frame);
}

function covers({ east, north, cell, columns, rows }: RasterFrame, { origin, easting, northing }: Tin): boolean {
  const isWithin = (values: Float64Array, shift: number, length: number): boolean => {
    for (let i = 0; i < values.length; i++)
      if (values[i]! + shift < -1e-6 || values[i]! + shift > length + 1e-6) return false;
    return true;
  };
  return isWithin(easting, origin[0] - east, columns * cell) && isWithin(northing, origin[1] - north, rows * cell);
}

/** A surface with what was done to it by hand; the first edit that cannot be done stops it. */
export function editSurface({
  tin,
  edits,
  frame,
}: {
  readonly tin: Uint8Array;
  readonly edits: readonly SurfaceEdit[];
  /** Of the grid that stands in for the surface before. */
  readonly frame: RasterFrame;
}): {
  tin: Uint8Array;
  grid: Uint8Array;
  facts: TinFacts;
} {
  const { tin: edited, refused } = editTin(unpackTin(tin), edits);
  const error = refused.find((each) => each !== undefined);
  if (error) throw error;
  if (edited.facets.length === 0)
    throw new PamperoError('nothing-left', { what: 'No triangle would be left.', fix: 'Draw a smaller outline.' });
  return { tin: packTin(edited), grid: displayGrid(edited, frame), facts: tinFacts(edited) };
}

export function faultsOfSurface({
  tin,
  limits,
}: {
  readonly tin: Uint8Array;
  readonly limits: FaultLimits;
}): SurfaceFault[] {
  return surfaceFaults(unpackTin(tin), limits);
}

/** A screen of cells. */
const MOST_WINDOW_CELLS = 4_000_000;

/** A window of a surface as a grid for display. */
export function windowOfSurface({
  tin,
  window: { west, south, east, north, cell },
}: {
  readonly tin: Uint8Array;
  readonly window: {
    readonly west: number;
    readonly south: number;
    readonly east: number;
    readonly north: number;
    readonly cell: number;
  };
}): Uint8Array {
  const [columns, rows] = [Math.ceil((east - west) / cell), Math.ceil((north - south) / cell)];
  if (!(columns > 0 && rows > 0 && columns * rows <= MOST_WINDOW_CELLS))
    throw new PamperoError('window-too-large', {
      what: `A window of ${columns} by ${rows} cells cannot be shown.`,
      fix: `Ask for at most ${MOST_WINDOW_CELLS} cells.`,
    });
  const frame = { east: west, north: south, cell, columns, rows };
  return packArrays({ elevation: sampleTin(unpackTin(tin), frame) }, frame);
}

/** A surface as a file has it, ready to be kept. */
export interface SurfaceOfFile {
  readonly name: string;
  readonly origin: readonly [number, number];
  readonly report: MeshReport;
  readonly facts: TinFacts;
  readonly tin: Uint8Array;
  readonly grid: Uint8Array;
}

/** More edges than this in a window are not drawn: they would be a grey sheet. */
const MOST_EDGES = 60_000;

/** Edges of the triangles that touch a window, each once. */
export function edgesOfSurface({
  tin,
  window,
}: {
  readonly tin: Uint8Array;
  readonly window: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
}): Uint8Array {
  const { easting, northing, elevation, facets, twins, origin, held } = unpackTin(tin);
  const [west, south] = [window.west - origin[0], window.south - origin[1]];
  const [east, north] = [window.east - origin[0], window.north - origin[1]];
  const places: number[] = [];
  const marks: number[] = [];
  for (let h = 0; h < facets.length && marks.length <= MOST_EDGES; h++) {
    if (twins[h]! > h) continue;
    const a = facets[h]!;
    const b = facets[nextSide(h)]!;
    if (Math.max(easting[a]!, easting[b]!) < west || Math.min(easting[a]!, easting[b]!) > east) continue;
    if (Math.max(northing[a]!, northing[b]!) < south || Math.min(northing[a]!, northing[b]!) > north) continue;
    for (const i of [a, b]) places.push(easting[i]! + origin[0], northing[i]! + origin[1], elevation[i]!);
    marks.push(twins[h]! < 0 ? 2 : (held?.[h] ?? 0));
  }
  const tooMany = marks.length > MOST_EDGES;
  return packArrays(
    { places: Float64Array.from(tooMany ? [] : places), marks: Uint8Array.from(tooMany ? [] : marks) },
    { tooMany },
  );
}

export function buildTin({
  clouds,
  thinned,
  classes,
  thinCell,
  keepBreaks,
  options,
  lines,
  water,
  metresPerUnit,
  edits,
  square,
  port,
}: TriangulateTask): TriangulateResult {
  const land = thinned?.points ?? chosenPoints(clouds, classMask(classes));
  const waters = water === 'as-it-is' ? [] : waterOf(clouds, land, water, metresPerUnit);
  port.postMessage(0.1);
  const kept = thinned || thinCell === 0 ? land : thinnedHere(land, thinCell, keepBreaks, square);
  const shaped = [...lines, ...waters.flatMap(({ lines: own }) => own)];
  const { tin: whole, report } = triangulate(kept.easting, kept.northing, kept.elevation, options, shaped);
  const built = square ? cutTin(whole, square.land) : whole;
  port.postMessage(0.8);
  const { tin, refused } = edits.length > 0 ? editTin(built, edits) : { tin: built, refused: [] };
  const grid = displayGrid(tin);
  port.postMessage(0.9);
  const result = {
    tin: packTin(tin),
    grid,
    origin: tin.origin,
    facts: tinFacts(tin),
    pointsThinned: (thinned?.of ?? land.easting.length) - kept.easting.length,
    waters: waters.map(({ level, spread, area }) => ({ level, spread, area })),
    editsRefused: refused.filter((error) => error !== undefined).length,
    ...report,
  };
  port.postMessage(1);
  return result;
}

/** Points that are in memory whole, thinned. */
function thinnedHere(
  { easting, northing, elevation }: ChosenPoints,
  cell: number,
  keepBreaks: boolean,
  square: JobSquare | undefined,
): ChosenPoints {
  const kept = keepBreaks
    ? thinEvenLand(easting, northing, elevation, cell, { seams: square && seamsOf(square) })
    : onePointPerCell(easting, northing, elevation, cell);
  return { easting: picked(easting, kept), northing: picked(northing, kept), elevation: picked(elevation, kept) };
}

const WATER = 9;
/** Metres: cells in which water is told from land are no finer; pieces smaller than 5 by 5 m stay; water reaches so far unseen. */
const WATER_CELL = 1;
const WATER_AREA = 25;
const WATER_REACH = 25;

/** Outlines of the water of some clouds, laid flat or left out. */
function waterOf(
  clouds: readonly CloudColumns[],
  land: ChosenPoints,
  how: 'flat' | 'left-out',
  metresPerUnit: number,
): WaterPiece[] {
  const points = chosenPoints(clouds, classMask([WATER]));
  if (points.easting.length === 0)
    throw new PamperoError('no-water', {
      what: 'The clouds have no points of class 9, so there is no water to lay flat or leave out.',
      fix: 'Find water in Classify first, or leave water as it is.',
    });
  const metre = 1 / metresPerUnit;
  return waterLines(points, land, how === 'flat' ? 'water' : 'hole', {
    cell: WATER_CELL * metre,
    minimumArea: WATER_AREA * metre * metre,
    reach: WATER_REACH * metre,
  });
}
