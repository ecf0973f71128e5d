import { upperMedian } from '../measuring/index.js';
import type { RasterFrame } from '../raster/index.js';
import { edgeField, smoothed, withoutShade } from './edge-field.js';
import { clearnessOf, peakOf, PhaseCorrelation, type Peak } from './phase-correlation.js';
import type { ComplexSquare } from './spectrum.js';
import { applySimilarity, fitSimilarity, type Offset, type Similarity } from './similarity.js';

/** A witness: something the cloud says of the land, as a raster; NaN where it says nothing. It is made when it is asked. */
export interface Witness {
  readonly name: string;
  readonly values: () => Float32Array;
}

/** A tile of land and how far the picture lies off there, job units: what the cloud has at a place the picture has that much further. */
export interface TileShift {
  /** Its centre. */
  readonly e: number;
  readonly n: number;
  readonly east: number;
  readonly north: number;
  /** Whether its own best answer is that of the others. */
  readonly agrees: boolean;
}

export type Sureness = 'sure' | 'doubtful' | 'unknown';

export interface ShiftFound {
  readonly tiles: readonly TileShift[];
  /** Of the tiles that agree. */
  readonly agreeing: number;
  readonly east: number;
  readonly north: number;
  /** Standard deviation of one tile's answer, by the median of what is left, and of the mean. */
  readonly spread: number;
  readonly standardError: number;
  /** Mean shift, turn and scale together. */
  readonly similarity: Similarity;
  readonly sureness: Sureness;
  readonly because: string;
  /** What gave most of the answer. */
  readonly witness: string | undefined;
}

/** Cells of a tile's side, and of the way to the next. */
const [SIDE, STEP] = [64, 32];
/** Shifts looked for, cells; beyond them less than half of two tiles is the same land. */
const REACH = 24;
/** A tile agrees whose own peak is so near to that of all together, cells. */
const NEAR = 1.5;
/** Part of a tile that has to be known. */
const LEAST_FILLED = 0.6;
/** How clear the peak of all tiles together has to be, and that of a witness to be heard. */
const CLEAR = 9;
const HEARD = 5;
/** A second peak of all tiles together that is so high against the first leaves a doubt: furrows, rows of trees. */
const RIVAL = 0.6;
/** Tiles that have to agree, so many and such a part of all: by chance one in three hundred does, and grass says nothing. */
const [LEAST_AGREEING, LEAST_SHARE] = [6, 0.03];
/** Standard error that a sure answer has at most, cells. */
const SURE_ERROR = 0.2;
const SOFT = 1.5;

/**
 * Holds a picture against a cloud, both as rasters on one frame: tile by tile by phase correlation of their edges, then all tiles
 * together. What single tiles say counts where it agrees with all of them.
 * @param picture - lightness, rows times columns, row 0 the southernmost; NaN outside the picture
 * @param witnesses - the one to be believed first first
 */
export function checkShift(picture: Float32Array, witnesses: readonly Witness[], frame: RasterFrame): ShiftFound {
  const { columns, rows } = frame;
  const correlation = new PhaseCorrelation(SIDE, SOFT);
  const edges = (values: Float32Array): ComplexSquare => edgeField(smoothed(values, columns, rows, 1), columns, rows);
  const seen = edges(withoutShade(picture, columns, rows));
  const fields = new Map<string, { readonly values: Float32Array; readonly own: ComplexSquare }>();
  const fieldOf = ({ name, values: made }: Witness): { values: Float32Array; own: ComplexSquare } => {
    const known = fields.get(name);
    if (known) return known;
    const values = made();
    const field = { values, own: edges(values) };
    fields.set(name, field);
    return field;
  };
  const listen = (witness: Witness, ahead: readonly [number, number], step: number): Heard => {
    const { name } = witness;
    const { values, own } = fieldOf(witness);
    const all = new Float64Array(SIDE * SIDE);
    const surfaces = tilesOf(frame, picture, values, step).map(({ column, row }) => {
      const there = cut(seen, frame, column + ahead[0], row + ahead[1]);
      const surface = correlation.correlate(cut(own, frame, column, row), there);
      for (let k = 0; k < all.length; k++) all[k]! += surface[k]!;
      return { column, row, surface };
    });
    if (surfaces.length === 0) return { name, surfaces, all, peak: undefined, clearness: 0 };
    const peak = peakOf(all, SIDE, REACH);
    return { name, surfaces, all, peak, clearness: clearnessOf(all, SIDE, REACH, peak).clearness };
  };
  const heard: Heard[] = [];
  for (const witness of witnesses) {
    heard.push(listen(witness, [0, 0], SIDE));
    if (isClear(heard.at(-1)!)) break;
  }
  const first = together(heard);
  if (!first)
    return nothing(
      frame,
      heard.some(({ peak }) => peak !== undefined),
    );
  // Once more with the picture's tiles taken from where the first answer says: then both show the same land in full.
  const ahead = [Math.round(first.peak.x), Math.round(first.peak.y)] as const;
  const believed = new Set(first.names);
  const again = witnesses.filter(({ name }) => believed.has(name));
  const second = together(again.map((witness) => listen(witness, ahead, STEP)));
  if (!second) return nothing(frame, true);
  const tiles = [...second.tiles.values()].map((tile) => tileShift(frame, tile, second.peak, ahead));
  return concluded(frame, tiles, second, ahead);
}

interface TileSurface {
  readonly column: number;
  readonly row: number;
  readonly surface: Float64Array;
}

/** What one witness says: of each tile, and of all tiles together. */
interface Heard {
  readonly name: string;
  readonly surfaces: readonly TileSurface[];
  readonly all: Float64Array;
  readonly peak: Peak | undefined;
  readonly clearness: number;
}

interface Together {
  readonly all: Float64Array;
  readonly tiles: ReadonlyMap<string, TileSurface>;
  readonly peak: Peak;
  readonly clearness: number;
  readonly rival: number;
  readonly witness: string;
  /** Of those that were heard. */
  readonly names: readonly string[];
}

const isClear = ({ clearness }: Heard): boolean => clearness >= CLEAR;

/** The first witness that is clear; where none is, all that can be heard together, each by how clear it is. */
function together(heard: readonly Heard[]): Together | undefined {
  const tiles = new Map<string, TileSurface>();
  const all = new Float64Array(SIDE * SIDE);
  let clearest: Heard | undefined;
  const names: string[] = [];
  const clear = heard.find(isClear);
  for (const witness of clear ? [clear] : heard) {
    const { surfaces, all: own, peak, clearness } = witness;
    if (!peak || clearness < HEARD) continue;
    if (!clearest || clearness > clearest.clearness) clearest = witness;
    names.push(witness.name);
    const scale = clearness ** 2 / peak.height;
    for (let k = 0; k < all.length; k++) all[k]! += scale * own[k]!;
    for (const { column, row, surface } of surfaces) {
      const key = `${column} ${row}`;
      const held = tiles.get(key) ?? { column, row, surface: new Float64Array(SIDE * SIDE) };
      for (let k = 0; k < surface.length; k++) held.surface[k]! += scale * surface[k]!;
      tiles.set(key, held);
    }
  }
  if (!clearest) return undefined;
  const peak = peakOf(all, SIDE, REACH);
  return { tiles, all, peak, ...clearnessOf(all, SIDE, REACH, peak), witness: clearest.name, names };
}

function tileShift(
  { east, north, cell }: RasterFrame,
  { column, row, surface }: TileSurface,
  peak: Peak,
  ahead: readonly [number, number],
): TileShift {
  const free = peakOf(surface, SIDE, REACH);
  const near = peakOf(surface, SIDE, 3, [peak.x, peak.y]);
  const isFree = Math.hypot(free.x - near.x, free.y - near.y) < 0.5;
  return {
    e: east + (column + SIDE / 2) * cell,
    n: north + (row + SIDE / 2) * cell,
    east: (near.x + ahead[0]) * cell,
    north: (near.y + ahead[1]) * cell,
    agrees: isFree && Math.hypot(near.x - peak.x, near.y - peak.y) <= NEAR,
  };
}

function concluded(
  frame: RasterFrame,
  tiles: readonly TileShift[],
  together: Together,
  ahead: readonly [number, number],
): ShiftFound {
  const { peak, clearness, rival, witness } = together;
  const { cell } = frame;
  const agreeing = tiles.filter(({ agrees }) => agrees);
  if (agreeing.length === 0) return { ...nothing(frame, true), tiles };
  const offsets = weighted(agreeing, cell);
  const similarity = fitSimilarity(offsets, agreeing.length < LEAST_AGREEING);
  const left = offsets.map((o) => {
    const [e, n] = applySimilarity(similarity, o.e, o.n);
    return [o.e + o.east - e, o.n + o.north - n] as const;
  });
  const spread = 1.4826 * upperMedian(left.flatMap(([e, n]) => [Math.abs(e), Math.abs(n)]))!;
  const standardError = cell * Math.max(0.02, errorOf(together));
  const doubts = [
    ...(clearness < CLEAR ? ['edges of picture and cloud have little in common'] : []),
    ...(rival > RIVAL ? ['another shift fits nearly as well'] : []),
    ...(agreeing.length < LEAST_AGREEING + LEAST_SHARE * tiles.length
      ? [`only ${agreeing.length} of ${tiles.length} tiles agree`]
      : []),
    ...(standardError > SURE_ERROR * cell ? ['parts of the land do not agree well'] : []),
    ...(Math.hypot(peak.x + ahead[0], peak.y + ahead[1]) > REACH - 2 ? ['it is as large as can be looked for'] : []),
  ];
  return {
    tiles,
    agreeing: agreeing.length,
    east: (peak.x + ahead[0]) * cell,
    north: (peak.y + ahead[1]) * cell,
    spread,
    standardError,
    similarity,
    sureness: doubts.length === 0 ? 'sure' : 'doubtful',
    because: doubts.length === 0 ? `${agreeing.length} of ${tiles.length} tiles agree` : doubts.join(', '),
    witness,
  };
}

/** Groups of tiles that are left out in turn. */
const GROUPS = 12;

/** Standard error of the peak of all tiles together, cells: from the peaks without one group of them (the delete-a-group jackknife). */
function errorOf({ tiles, all, peak }: Together): number {
  const groups = Array.from({ length: GROUPS }, () => new Float64Array(all.length));
  // Squares of four by four tiles go together: neighbours share half of their land.
  for (const { column, row, surface } of tiles.values()) {
    const [x, y] = [column, row].map((at) => Math.floor(at / (4 * STEP))) as [number, number];
    const group = groups[(x * 5 + y * 7) % GROUPS]!;
    for (let k = 0; k < surface.length; k++) group[k]! += surface[k]!;
  }
  let squares = 0;
  for (const group of groups) {
    const rest = all.map((value, k) => value - group[k]!);
    const without = peakOf(rest, SIDE, 3, [peak.x, peak.y]);
    squares += ((without.x - peak.x) ** 2 + (without.y - peak.y) ** 2) / 2;
  }
  return Math.sqrt(((GROUPS - 1) / GROUPS) * squares);
}

/** The tiles that agree with weights: Tukey's about their median, so that one wrong among them pulls nothing. */
function weighted(tiles: readonly TileShift[], cell: number): Offset[] {
  const [me, mn] = [upperMedian(tiles.map(({ east }) => east))!, upperMedian(tiles.map(({ north }) => north))!];
  const limit = Math.max(2 * cell, 6 * upperMedian(tiles.map((t) => Math.hypot(t.east - me, t.north - mn)))!);
  return tiles.map(({ e, n, east, north }) => {
    const r = Math.hypot(east - me, north - mn) / limit;
    return { e, n, east, north, weight: r < 1 ? (1 - r * r) ** 2 : 0 };
  });
}

function nothing({ east, north, cell, columns, rows }: RasterFrame, isCovered: boolean): ShiftFound {
  const centre = [east + (columns * cell) / 2, north + (rows * cell) / 2] as const;
  return {
    tiles: [],
    agreeing: 0,
    east: 0,
    north: 0,
    spread: NaN,
    standardError: NaN,
    similarity: { east: 0, north: 0, turn: 0, scale: 1, centre },
    sureness: 'unknown',
    because: isCovered
      ? 'edges of picture and cloud have nothing in common'
      : 'picture and cloud share too little land',
    witness: undefined,
  };
}

/** Lower left cells of the tiles in which enough of both is known. */
function tilesOf(
  { columns, rows }: RasterFrame,
  one: Float32Array,
  two: Float32Array,
  step: number,
): { column: number; row: number }[] {
  const found: { column: number; row: number }[] = [];
  for (let row = 0; row + SIDE <= rows; row += step)
    for (let column = 0; column + SIDE <= columns; column += step) {
      let filled = 0;
      for (let y = row; y < row + SIDE; y += 2)
        for (let x = column; x < column + SIDE; x += 2) {
          const at = y * columns + x;
          if (!Number.isNaN(one[at]!) && !Number.isNaN(two[at]!)) filled++;
        }
      if (filled >= (LEAST_FILLED * SIDE * SIDE) / 4) found.push({ column, row });
    }
  return found;
}

/** A tile of a field; what lies beyond its edge is nothing. */
function cut(field: ComplexSquare, { columns, rows }: RasterFrame, column: number, row: number): ComplexSquare {
  const out = new Float64Array(2 * SIDE * SIDE);
  const [from, to] = [Math.max(0, -column), Math.min(SIDE, columns - column)];
  if (to <= from) return out;
  for (let y = 0; y < SIDE; y++) {
    if (row + y < 0 || row + y >= rows) continue;
    const at = 2 * ((row + y) * columns + column + from);
    out.set(field.subarray(at, at + 2 * (to - from)), 2 * (y * SIDE + from));
  }
  return out;
}
