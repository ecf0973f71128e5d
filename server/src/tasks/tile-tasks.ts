import type { LengthUnit } from '@pampero/core/geodesy';
import { readSurfaceFile } from '../incoming/surface-files.js';
import { geoJsonSystem } from '@pampero/core/formats/lines';
import type { MessagePort } from 'node:worker_threads';
import { PamperoError } from '@pampero/core/task';
import { PointFlag, unpackColumns, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import {
  contourFacts,
  departureOf,
  filledBands,
  packContours,
  partObscured,
  smoothSurface,
  thinFacets,
  traceGrid,
  traceWithFacets,
  type ContourFacts,
  type ContourOptions,
  type Departure,
} from '@pampero/core/contours';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { Outline, type Place } from '@pampero/core/selection';
import { onePointPerCell } from '@pampero/core/thinning';
import {
  editTin,
  gridFrameOver,
  gridToTin,
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
  type GridFrame,
  type SurfaceEdit,
  type SurfaceFault,
  type Tin,
  type TinFacts,
  type TinOptions,
} from '@pampero/core/terrain';

/**
 * What worker threads do: pure functions of cloneable input to cloneable output. Nothing here knows where it runs. Buffers
 * in results are fresh and may be transferred.
 */

/** A node's columns as they lie in the store. */
export interface NodeColumns {
  readonly nodeId: number;
  readonly count: number;
  readonly geometry: Uint8Array;
  readonly classification: Uint8Array;
  readonly flags: Uint8Array;
  readonly attributes?: Uint8Array;
}

const POSITION_NAMES = ['x', 'y', 'z'] as const satisfies readonly ColumnName[];
const NO_COLUMNS: PointColumns = {
  gpsTime: false,
  rgb: false,
  nearInfrared: false,
  wavePacket: false,
  extraBytesLength: 0,
};

export function positionsOf(node: Pick<NodeColumns, 'count' | 'geometry'>): {
  count: number;
  x: Int32Array;
  y: Int32Array;
  z: Int32Array;
} {
  return { count: node.count, ...unpackColumns(node.geometry, node.count, POSITION_NAMES, NO_COLUMNS) } as ReturnType<
    typeof positionsOf
  >;
}

export interface TriangulateTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly classes: readonly number[];
  /** 0 takes every point. */
  readonly thinCell: number;
  readonly options: TinOptions;
  readonly lines: readonly TerrainLine[];
  /** Done by hand, and done again. */
  readonly edits: readonly SurfaceEdit[];
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
  readonly pointsBesideLines: number;
  readonly crossings: readonly Crossing[];
  /** Edits that no longer fit. */
  readonly editsRefused: number;
}

/** Cells along the longer side of the grid that stands in for a surface on the screen. */
const DISPLAY_GRID_CELLS = 1200;

/** @param wanted - cells that are kept where they cover the surface, so that little differs from what the page has */
function displayGrid(tin: Tin, wanted?: GridFrame): Uint8Array<ArrayBuffer> {
  const frame = wanted && covers(wanted, tin) ? wanted : gridFrameOver(tin, DISPLAY_GRID_CELLS);
  return packArrays({ elevation: sampleTin(tin, frame) }, frame);
}

function covers({ east, north, cell, columns, rows }: GridFrame, { origin, easting, northing }: Tin): boolean {
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
  readonly frame: GridFrame;
}): {
  tin: Uint8Array;
  grid: Uint8Array;
  facts: TinFacts;
} {
  const { tin: edited, refused } = editTin(unpackTin(tin), edits);
  const error = refused.find((each) => each !== undefined);
  if (error) throw error;
  if (edited.facets.length === 0)
    throw new PamperoError('nothing-left', { what: 'No triangle would be left.', mend: 'Draw a smaller outline.' });
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
      what: `A window of ${columns} by ${rows} cells is no screen.`,
      mend: `Ask for ${MOST_WINDOW_CELLS} cells at most.`,
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

export function surfacesOfFile({
  text,
  fileName,
  unit,
}: {
  readonly text: string;
  readonly fileName: string;
  readonly unit: LengthUnit;
}): SurfaceOfFile[] {
  return readSurfaceFile(text, fileName, unit).map(({ name, tin, report }) => ({
    name,
    origin: tin.origin,
    report,
    facts: tinFacts(tin),
    tin: packTin(tin),
    grid: displayGrid(tin),
  }));
}

/** More sides than this in a window are not drawn: they would be a grey sheet. */
const MOST_SIDES = 60_000;

/** Sides of the triangles that touch a window, each once. */
export function sidesOfSurface({
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
  for (let h = 0; h < facets.length && marks.length <= MOST_SIDES; h++) {
    if (twins[h]! > h) continue;
    const a = facets[h]!;
    const b = facets[nextSide(h)]!;
    if (Math.max(easting[a]!, easting[b]!) < west || Math.min(easting[a]!, easting[b]!) > east) continue;
    if (Math.max(northing[a]!, northing[b]!) < south || Math.min(northing[a]!, northing[b]!) > north) continue;
    for (const i of [a, b]) places.push(easting[i]! + origin[0], northing[i]! + origin[1], elevation[i]!);
    marks.push(twins[h]! < 0 ? 2 : (held?.[h] ?? 0));
  }
  const tooMany = marks.length > MOST_SIDES;
  return packArrays(
    { places: Float64Array.from(tooMany ? [] : places), marks: Uint8Array.from(tooMany ? [] : marks) },
    { tooMany },
  );
}

export function buildTin({
  nodes,
  quantisation,
  classes,
  thinCell,
  options,
  lines,
  edits,
  port,
}: TriangulateTask): TriangulateResult {
  const takes = new Uint8Array(256);
  for (const code of classes) takes[code] = 1;
  let count = 0;
  for (const node of nodes)
    for (let i = 0; i < node.count; i++)
      if (takes[node.classification[i]!] === 1 && (node.flags[i]! & PointFlag.withheld) === 0) count++;
  const easting = new Float64Array(count);
  const northing = new Float64Array(count);
  const elevation = new Float64Array(count);
  const { scale, offset } = quantisation;
  let at = 0;
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (let i = 0; i < node.count; i++) {
      if (takes[node.classification[i]!] === 0 || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
      easting[at] = x[i]! * scale[0] + offset[0];
      northing[at] = y[i]! * scale[1] + offset[1];
      elevation[at++] = z[i]! * scale[2] + offset[2];
    }
  }
  port.postMessage(0.1);
  const kept = thinCell > 0 ? onePointPerCell(easting, northing, elevation, thinCell) : undefined;
  const of = (values: Float64Array): Float64Array => (kept ? Float64Array.from(kept, (i) => values[i]!) : values);
  const { tin: built, report } = triangulate(of(easting), of(northing), of(elevation), options, lines);
  port.postMessage(0.8);
  const { tin, refused } = edits.length > 0 ? editTin(built, edits) : { tin: built, refused: [] };
  const grid = displayGrid(tin);
  port.postMessage(0.9);
  const result = {
    tin: packTin(tin),
    grid,
    origin: tin.origin,
    facts: tinFacts(tin),
    pointsThinned: kept ? count - kept.length : 0,
    editsRefused: refused.filter((error) => error !== undefined).length,
    ...report,
  };
  port.postMessage(1);
  return result;
}

export interface ContourTask {
  readonly tin: Uint8Array;
  readonly options: ContourOptions;
  /** In elevation, job units; 0 for none. */
  readonly smoothing: number;
  /** Sides longer than this are thin support, job units; 0 parts nothing. */
  readonly dashedFrom: number;
  readonly port: MessagePort;
}

/** Contours of a surface, evened out and parted where support is thin, as asked. */
export function contours({ tin, options, smoothing, dashedFrom, port }: ContourTask): {
  lines: Uint8Array;
  facts: ContourFacts & { departure?: Departure };
} {
  const measured = unpackTin(tin);
  const surface = smoothSurface(measured, smoothing);
  const traced = traceWithFacets(surface, options, throttled(port));
  const isThin = dashedFrom > 0 ? thinFacets(measured, dashedFrom) : undefined;
  const set = isThin ? partObscured(traced, (facet) => isThin[facet] === 1, dashedFrom) : traced.contours;
  return {
    lines: packContours(set),
    facts: {
      ...contourFacts(set),
      ...(smoothing > 0 && { departure: departureOf(traced, surface, measured.elevation) }),
    },
  };
}

/** The land between contours as GeoJSON polygons in full coordinates, each with its band, area and where it came from. */
export function bandsOfSurface({
  on,
  options,
  about,
  epsg,
}: {
  readonly on: { readonly tin: Uint8Array } | { readonly grid: Uint8Array };
  readonly options: { readonly interval: number; readonly base: number };
  readonly about: Readonly<Record<string, string>>;
  readonly epsg: number | undefined;
}): string {
  const surface = 'tin' in on ? unpackTin(on.tin) : tinOfGrid(on.grid);
  const [oe, north] = surface.origin;
  const rounded = (value: number): number => Number(value.toFixed(4));
  // Bands meet in corners closer than a tenth of a millimetre; rounded to it they would cross.
  const fine = (value: number): number => Number(value.toFixed(7));
  return JSON.stringify({
    type: 'FeatureCollection',
    ...geoJsonSystem(epsg),
    features: filledBands(surface, options).map(({ low, high, polygons, area }) => ({
      type: 'Feature',
      properties: { low: rounded(low), high: rounded(high), area: Number(area.toFixed(2)), ...about },
      geometry: {
        type: 'MultiPolygon',
        coordinates: polygons.map((rings) =>
          rings.map((ring) => [...ring, ring[0]!].map(([e, n]) => [fine(e + oe), fine(n + north)])),
        ),
      },
    })),
  });
}

/** Triangles of more cells would not fit into the memory of a thread. */
const MOST_BANDED_CELLS = 4_000_000;

function tinOfGrid(grid: Uint8Array): Tin {
  const { arrays, facts } = unpackArrays(grid);
  const frame = facts as unknown as GridFrame;
  if (frame.columns * frame.rows > MOST_BANDED_CELLS)
    throw new PamperoError('grid-too-fine', {
      what: `Bands are cut out of ${MOST_BANDED_CELLS} cells at most; the grid has ${frame.columns * frame.rows}.`,
      mend: 'Make a grid of larger cells, or draw contours on a surface.',
    });
  return gridToTin(arrays['elevation'] as Float32Array, frame);
}

/** Contours of a grid as it is stored. */
export function gridContours({
  grid,
  options,
  port,
}: Pick<ContourTask, 'options' | 'port'> & { readonly grid: Uint8Array }): {
  lines: Uint8Array;
  facts: ContourFacts & { departure?: Departure };
} {
  const { arrays, facts } = unpackArrays(grid);
  const set = traceGrid(arrays['elevation'] as Float32Array, facts as unknown as GridFrame, options, throttled(port));
  return { lines: packContours(set), facts: contourFacts(set) };
}

export interface NearPlacesTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly places: readonly (readonly [easting: number, northing: number])[];
  readonly radius: number;
}

export interface NearPoint {
  readonly place: number;
  /** From the place, job units. */
  readonly east: number;
  readonly north: number;
  readonly elevation: number;
  readonly classCode: number;
}

const NOISE_CLASSES: readonly number[] = [7, 18];

/** Points within a radius of any of the places, noise and withheld points left out. */
export function nearPlaces({ nodes, quantisation: { scale, offset }, places, radius }: NearPlacesTask): NearPoint[] {
  const found: NearPoint[] = [];
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (const [place, [easting, northing]] of places.entries()) {
      // In integers: most points are settled by one comparison.
      const cx = (easting - offset[0]) / scale[0];
      const cy = (northing - offset[1]) / scale[1];
      const rx = radius / scale[0];
      const ry = radius / scale[1];
      for (let i = 0; i < node.count; i++) {
        const dx = x[i]! - cx;
        if (dx > rx || dx < -rx) continue;
        const dy = y[i]! - cy;
        if (dy > ry || dy < -ry) continue;
        const east = dx * scale[0];
        const north = dy * scale[1];
        if (east * east + north * north > radius * radius) continue;
        const classCode = node.classification[i]!;
        if (NOISE_CLASSES.includes(classCode) || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
        found.push({ place, east, north, elevation: z[i]! * scale[2] + offset[2], classCode });
      }
    }
  }
  return found;
}

export interface CountWindowTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly outline: readonly Place[];
  readonly classes: readonly number[] | undefined;
}

/** How many points of each class lie within an outline, and how high. */
export function countWindow({ nodes, quantisation: { scale, offset }, outline, classes }: CountWindowTask): {
  counts: Float64Array;
  lowest: number;
  highest: number;
} {
  const shape = new Outline(outline);
  const wanted = new Uint8Array(256).fill(classes ? 0 : 1);
  for (const code of classes ?? []) wanted[code] = 1;
  const counts = new Float64Array(256);
  let [low, high] = [Infinity, -Infinity];
  for (const node of nodes) {
    const { x, y, z } = positionsOf(node);
    for (let i = 0; i < node.count; i++) {
      const code = node.classification[i]!;
      if (wanted[code] === 0 || !shape.contains(x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1])) continue;
      counts[code]!++;
      if (z[i]! < low) low = z[i]!;
      if (z[i]! > high) high = z[i]!;
    }
  }
  return { counts, lowest: low * scale[2] + offset[2], highest: high * scale[2] + offset[2] };
}

/** Progress to a port, at most every fiftieth of a second. */
export function throttled(port: MessagePort): (share: number) => void {
  let last = 0;
  return (share) => {
    const now = Date.now();
    if (now - last < 20 && share < 1) return;
    last = now;
    port.postMessage(share);
  };
}
