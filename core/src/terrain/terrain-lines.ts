import { isAreaRole, type LineRole } from '../lines/index.js';
import { Outline, type Place } from '../selection/index.js';

/** A line in space, full coordinates. Boundaries, holes and water close on themselves; the first corner is not repeated. */
export interface TerrainLine {
  readonly role: LineRole;
  readonly easting: readonly number[];
  readonly northing: readonly number[];
  /** NaN where a corner has no elevation of its own: it is taken from the points about it. */
  readonly elevation: readonly number[];
  readonly isClosed: boolean;
  /** Of water and holes: an island in them, where the land is as it is. */
  readonly isIsland?: boolean;
}

export const CROSSING_RULES = ['mean', 'lowest', 'highest', 'first'] as const;
/** Which elevation a crossing of two lines gets. */
export type CrossingRule = (typeof CROSSING_RULES)[number];

export interface LineOptions {
  /** Corners are put in so that none is further from the next; 0 puts in none. Job units. */
  readonly largestStep: number;
  /** Points this near a line are left out, so that it stays clean; job units. */
  readonly offset: number;
  readonly crossing: CrossingRule;
  /** Crossings whose two elevations differ by more are reported; job units. */
  readonly crossingTolerance: number;
}

export const lineDefaults: LineOptions = { largestStep: 0, offset: 0, crossing: 'mean', crossingTolerance: 0.05 };

export interface Crossing {
  readonly easting: number;
  readonly northing: number;
  readonly elevations: readonly [number, number];
}

/** Lines made ready to be sides of facets: corners in common where they cross, edges between corners that follow each other. */
export interface NodedLines {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  /** NaN where no line gave one. */
  readonly elevation: Float64Array;
  /** Pairs of corners. */
  readonly edges: Uint32Array;
  /** 1 for edges of soft lines. */
  readonly isSoft: Uint8Array;
  readonly crossings: readonly Crossing[];
}

/** Along these the land is round. */
const SOFT_ROLES: ReadonlySet<LineRole> = new Set(['soft', 'contour']);

interface Segment {
  readonly line: number;
  readonly a: number;
  readonly b: number;
  /** Corners put in on the way, by share of the length. */
  readonly cuts: { share: number; corner: number }[];
}

/** Corners nearer than this are one, job units. */
const SAME = 1e-4;

/**
 * Brings lines together: corners at one place become one, lines that cross get a corner there, corners that lie on another line
 * cut it. What two lines say of one place is settled by the rule.
 */
export function nodeLines(lines: readonly TerrainLine[], options: LineOptions): NodedLines {
  const easting: number[] = [];
  const northing: number[] = [];
  const elevation: number[] = [];
  const crossings: Crossing[] = [];
  const known = new Map<string, number>();
  const cornerAt = (e: number, n: number, z: number): number => {
    const [ke, kn] = [Math.round(e / SAME), Math.round(n / SAME)];
    const key = `${ke} ${kn}`;
    const held = known.get(key);
    if (held === undefined) {
      known.set(key, easting.length);
      easting.push(e);
      northing.push(n);
      elevation.push(z);
      return easting.length - 1;
    }
    settle(held, z);
    return held;
  };
  const settle = (corner: number, z: number): void => {
    const before = elevation[corner]!;
    if (Number.isNaN(z) || before === z) return;
    if (Number.isNaN(before)) {
      elevation[corner] = z;
      return;
    }
    if (Math.abs(before - z) > options.crossingTolerance)
      crossings.push({ easting: easting[corner]!, northing: northing[corner]!, elevations: [before, z] });
    elevation[corner] = chosen(before, z, options.crossing);
  };

  const segments: Segment[] = [];
  lines.forEach((line, index) => {
    const corners = densified(line, options.largestStep).map(([e, n, z]) => cornerAt(e, n, z));
    if (line.isClosed && corners.length > 2) corners.push(corners[0]!);
    for (let k = 1; k < corners.length; k++)
      if (corners[k] !== corners[k - 1]) segments.push({ line: index, a: corners[k - 1]!, b: corners[k]!, cuts: [] });
  });
  for (const [s, t] of nearPairs(segments, easting, northing)) {
    const cut = crossingOf(segments[s]!, segments[t]!, easting, northing);
    if (!cut) continue;
    const [one, other] = [segments[s]!, segments[t]!];
    const at = (segment: Segment, share: number): number => mixed(elevation, segment, share);
    const isOn = (segment: Segment): boolean => cut.corner === segment.a || cut.corner === segment.b;
    if (cut.corner !== undefined) {
      // A corner of one lies on the other.
      const through = isOn(one) ? other : one;
      settle(cut.corner, at(through, through === one ? cut.shareOne : cut.shareOther));
      through.cuts.push({ share: through === one ? cut.shareOne : cut.shareOther, corner: cut.corner });
      continue;
    }
    const corner = cornerAt(cut.easting, cut.northing, at(one, cut.shareOne));
    settle(corner, at(other, cut.shareOther));
    one.cuts.push({ share: cut.shareOne, corner });
    other.cuts.push({ share: cut.shareOther, corner });
  }
  const edges: number[] = [];
  const isSoft: number[] = [];
  const seen = new Set<number>();
  for (const { line, a, b, cuts } of segments) {
    const way = [a, ...cuts.sort((p, q) => p.share - q.share).map(({ corner }) => corner), b];
    for (let k = 1; k < way.length; k++) {
      const [p, q] = [way[k - 1]!, way[k]!];
      const key = Math.min(p, q) * 2 ** 26 + Math.max(p, q);
      if (p === q || seen.has(key)) continue;
      seen.add(key);
      edges.push(p, q);
      isSoft.push(SOFT_ROLES.has(lines[line]!.role) ? 1 : 0);
    }
  }
  return {
    easting: Float64Array.from(easting),
    northing: Float64Array.from(northing),
    elevation: Float64Array.from(elevation),
    edges: Uint32Array.from(edges),
    isSoft: Uint8Array.from(isSoft),
    crossings,
  };
}

function chosen(before: number, z: number, rule: CrossingRule): number {
  switch (rule) {
    case 'mean':
      return (before + z) / 2;
    case 'lowest':
      return Math.min(before, z);
    case 'highest':
      return Math.max(before, z);
    case 'first':
      return before;
  }
}

function mixed(values: readonly number[], { a, b }: Segment, share: number): number {
  return values[a]! + (values[b]! - values[a]!) * share;
}

function densified(line: TerrainLine, largestStep: number): [number, number, number][] {
  const out: [number, number, number][] = [];
  const count = line.easting.length;
  for (let k = 0; k < count; k++) {
    const corner = (i: number): [number, number, number] => [line.easting[i]!, line.northing[i]!, line.elevation[i]!];
    const here = corner(k);
    out.push(here);
    if (k === count - 1 && !line.isClosed) break;
    const next = corner((k + 1) % count);
    const pieces = largestStep > 0 ? Math.ceil(Math.hypot(next[0] - here[0], next[1] - here[1]) / largestStep) : 1;
    for (let p = 1; p < pieces; p++) {
      const t = p / pieces;
      out.push([
        here[0] + (next[0] - here[0]) * t,
        here[1] + (next[1] - here[1]) * t,
        here[2] + (next[2] - here[2]) * t,
      ]);
    }
  }
  return out;
}

/** Pairs of segments whose boxes touch, over a grid of cells about as wide as segments are long. */
function* nearPairs(
  segments: readonly Segment[],
  easting: readonly number[],
  northing: readonly number[],
): Generator<[number, number]> {
  if (segments.length < 2) return;
  let length = 0;
  for (const { a, b } of segments) length += Math.hypot(easting[a]! - easting[b]!, northing[a]! - northing[b]!);
  const cell = Math.max(SAME, (2 * length) / segments.length);
  const cells = new Map<number, number[]>();
  const seen = new Set<number>();
  for (let s = 0; s < segments.length; s++) {
    const { a, b } = segments[s]!;
    const own = cellsAlong(easting[a]!, northing[a]!, easting[b]!, northing[b]!, cell, SAME);
    for (const key of own) {
      const list = cells.get(key);
      if (!list) {
        cells.set(key, [s]);
        continue;
      }
      for (const t of list) {
        if (!doTouch(segments[t]!, segments[s]!, easting, northing)) continue;
        const pair = t * 2 ** 26 + s;
        if (seen.has(pair)) continue;
        seen.add(pair);
        yield [t, s];
      }
      list.push(s);
    }
  }
}

/** The cells, a number each, that the land within `reach` of an edge may touch. */
function cellsAlong(ax: number, ay: number, bx: number, by: number, cell: number, reach: number): Iterable<number> {
  // Piece by piece, so that a long edge askew does not take all cells of its box.
  const pieces = Math.max(1, Math.ceil(Math.max(Math.abs(bx - ax), Math.abs(by - ay)) / cell));
  const keys: number[] = [];
  for (let p = 0; p < pieces; p++) {
    const x0 = ax + ((bx - ax) * p) / pieces;
    const y0 = ay + ((by - ay) * p) / pieces;
    const x1 = ax + ((bx - ax) * (p + 1)) / pieces;
    const y1 = ay + ((by - ay) * (p + 1)) / pieces;
    const last = Math.floor((Math.max(x0, x1) + reach) / cell);
    const top = Math.floor((Math.max(y0, y1) + reach) / cell);
    for (let column = Math.floor((Math.min(x0, x1) - reach) / cell); column <= last; column++)
      for (let row = Math.floor((Math.min(y0, y1) - reach) / cell); row <= top; row++) keys.push(keyOf(column, row));
  }
  return pieces === 1 ? keys : new Set(keys);
}

/** Columns and rows of either sign as one number. */
function keyOf(column: number, row: number): number {
  return column * 2 ** 26 + row;
}

function doTouch(one: Segment, other: Segment, easting: readonly number[], northing: readonly number[]): boolean {
  const apart = (values: readonly number[]): boolean => {
    const [a, b, c, d] = [values[one.a]!, values[one.b]!, values[other.a]!, values[other.b]!];
    return Math.max(a, b) < Math.min(c, d) - SAME || Math.max(c, d) < Math.min(a, b) - SAME;
  };
  return !apart(easting) && !apart(northing);
}

/** Where two segments meet: at a place inside both, or at a corner of one inside the other. Ends in common are no crossing. */
function crossingOf(
  one: Segment,
  other: Segment,
  easting: readonly number[],
  northing: readonly number[],
): { easting: number; northing: number; shareOne: number; shareOther: number; corner?: number } | undefined {
  const [ax, ay, bx, by] = [easting[one.a]!, northing[one.a]!, easting[one.b]!, northing[one.b]!];
  const [cx, cy, dx, dy] = [easting[other.a]!, northing[other.a]!, easting[other.b]!, northing[other.b]!];
  for (const [segment, corner, isOne] of [
    [one, other.a, true],
    [one, other.b, true],
    [other, one.a, false],
    [other, one.b, false],
  ] as const) {
    if (corner === segment.a || corner === segment.b) continue;
    const [px, py] = [easting[corner]!, northing[corner]!];
    const [sx, sy] = [easting[segment.a]!, northing[segment.a]!];
    const [ux, uy] = [easting[segment.b]! - sx, northing[segment.b]! - sy];
    const share = ((px - sx) * ux + (py - sy) * uy) / (ux * ux + uy * uy);
    if (share <= 0 || share >= 1) continue;
    if (Math.hypot(px - sx - share * ux, py - sy - share * uy) > SAME) continue;
    return {
      easting: px,
      northing: py,
      shareOne: isOne ? share : corner === one.a ? 0 : 1,
      shareOther: isOne ? (corner === other.a ? 0 : 1) : share,
      corner,
    };
  }
  if (one.a === other.a || one.a === other.b || one.b === other.a || one.b === other.b) return undefined;
  const det = (bx - ax) * (dy - cy) - (by - ay) * (dx - cx);
  if (det === 0) return undefined;
  const s = ((cx - ax) * (dy - cy) - (cy - ay) * (dx - cx)) / det;
  const t = ((cx - ax) * (by - ay) - (cy - ay) * (bx - ax)) / det;
  if (s <= 0 || s >= 1 || t <= 0 || t >= 1) return undefined;
  return { easting: ax + s * (bx - ax), northing: ay + s * (by - ay), shareOne: s, shareOther: t };
}

/** Points nearer than a distance to any edge, 1 each. */
export function nearEdges(
  { easting, northing, edges }: NodedLines,
  e: Float64Array,
  n: Float64Array,
  distance: number,
): Uint8Array {
  const near = new Uint8Array(e.length);
  if (edges.length === 0) return near;
  const reach = Math.max(distance, SAME);
  // About as wide as edges are long: then an edge lies in a few cells, and a cell holds a few edges.
  let length = 0;
  for (let k = 0; k < edges.length; k += 2)
    length += Math.hypot(
      easting[edges[k]!]! - easting[edges[k + 1]!]!,
      northing[edges[k]!]! - northing[edges[k + 1]!]!,
    );
  const cell = Math.max(reach * 2, (2 * length) / edges.length);
  const cells = new Map<number, number[]>();
  for (let k = 0; k < edges.length; k += 2) {
    const [a, b] = [edges[k]!, edges[k + 1]!];
    const own = cellsAlong(easting[a]!, northing[a]!, easting[b]!, northing[b]!, cell, reach);
    for (const key of own) {
      const list = cells.get(key);
      if (list) list.push(k);
      else cells.set(key, [k]);
    }
  }
  // Nearly all points are far from every line: a bit of a hash says so without a look-up.
  const SLOTS = 2 ** 22;
  const isTaken = new Uint8Array(SLOTS);
  const slotOf = (column: number, row: number): number =>
    (Math.imul(column, 0x9e3779b1) ^ Math.imul(row, 0x85ebca77)) & (SLOTS - 1);
  for (const key of cells.keys()) {
    const column = Math.round(key / 2 ** 26);
    isTaken[slotOf(column, key - column * 2 ** 26)] = 1;
  }
  for (let i = 0; i < e.length; i++) {
    const [column, row] = [Math.floor(e[i]! / cell), Math.floor(n[i]! / cell)];
    if (isTaken[slotOf(column, row)] === 0) continue;
    const list = cells.get(keyOf(column, row));
    if (!list) continue;
    for (const k of list) {
      const [a, b] = [edges[k]!, edges[k + 1]!];
      const [ux, uy] = [easting[b]! - easting[a]!, northing[b]! - northing[a]!];
      const [px, py] = [e[i]! - easting[a]!, n[i]! - northing[a]!];
      const share = Math.max(0, Math.min(1, (px * ux + py * uy) / Math.max(1e-18, ux * ux + uy * uy)));
      if ((px - share * ux) ** 2 + (py - share * uy) ** 2 <= reach * reach) {
        near[i] = 1;
        break;
      }
    }
  }
  return near;
}

/** Areas that lines close off: where the surface is, where it is not, where it is level. */
export class Areas {
  private readonly boundaries: Outline[] = [];
  private readonly holes: Outline[] = [];
  private readonly waters: Outline[] = [];
  private readonly islands: Outline[] = [];

  constructor(lines: readonly TerrainLine[]) {
    for (const { role, easting, northing, isIsland } of lines) {
      if (!isAreaRole(role)) continue;
      const outline = new Outline(easting.map((e, k): Place => [e, northing[k]!]));
      if (isIsland) this.islands.push(outline);
      else (role === 'boundary' ? this.boundaries : role === 'hole' ? this.holes : this.waters).push(outline);
    }
  }

  get limitSurface(): boolean {
    return this.boundaries.length > 0 || this.holes.length > 0;
  }

  get hasWater(): boolean {
    return this.waters.length > 0;
  }

  /** Whether the surface reaches here. */
  isCovered(e: number, n: number): boolean {
    return (
      (this.boundaries.length === 0 || this.boundaries.some((outline) => outline.contains(e, n))) &&
      (!this.holes.some((outline) => outline.contains(e, n)) || this.isOnIsland(e, n))
    );
  }

  isWater(e: number, n: number): boolean {
    return this.waters.some((outline) => outline.contains(e, n)) && !this.isOnIsland(e, n);
  }

  private isOnIsland(e: number, n: number): boolean {
    return this.islands.some((outline) => outline.contains(e, n));
  }
}
