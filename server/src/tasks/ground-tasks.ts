import { ascending, columnFrom } from '@pampero/core/columns';
import type { RasterFrame } from '@pampero/core/raster';
import { packDifference, type ChangedMarks } from '../store/mark-difference.js';
import type { MessagePort } from 'node:worker_threads';
import {
  GROUND,
  unpackColumns,
  type ColumnName,
  type PointBatch,
  type PointColumns,
  type Quantisation,
} from '@pampero/core/cloud';
import { extraValues, type ExtraDimension } from '@pampero/core/formats/las';
import {
  addGreenness,
  addLowestPoints,
  addNearPoints,
  classifyAgainstPlanes,
  classifyAgainstSurface,
  doubtOfConfidence,
  doubtOfGreen,
  findGround,
  firstSurface,
  lookAgain,
  surfaceOver,
  pointEvidence,
  groundPlanes,
  newGreennessHistogram,
  newLowestRaster,
  newNearSums,
  strongerDoubt,
  tooDoubtful,
  type GreennessHistogram,
  type GroundPlanes,
  type GroundSettings,
  type LowestRaster,
  type NearSums,
  type PointEvidence,
  type StripPoints,
} from '@pampero/core/ground';
import { positionsOf, type NodeColumns } from './node-columns.js';
import { throttled } from './throttled.js';

/** How to tell which points are doubtful as ground, from the nodes' attributes. */
export interface DoubtRule {
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly greenLimit?: number | undefined;
  /** Points that the source is less sure of than this are doubtful. */
  readonly confidence?: { readonly dimension: ExtraDimension; readonly least: number } | undefined;
}

export interface GroundTask {
  readonly nodes: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  /** 1 for classes that may become ground or lose it. */
  readonly takes: Uint8Array;
  readonly doubt?: DoubtRule | undefined;
}

const COLOURS = ['red', 'green', 'blue'] as const;

function doubtOf(node: NodeColumns, rule: DoubtRule | undefined): Float32Array | undefined {
  if (!rule) return undefined;
  const { columns, attributeNames, greenLimit, confidence } = rule;
  let green: Float32Array | undefined;
  if (greenLimit !== undefined)
    green = doubtOfGreen({ count: node.count, ...coloursOf(node, columns, attributeNames) }, greenLimit);
  let unsure: Float32Array | undefined;
  if (confidence) {
    const { extraBytes } = unpackColumns(node.attributes!, node.count, attributeNames, columns, ['extraBytes']);
    const values = extraValues(confidence.dimension, extraBytes as Uint8Array, columns.extraBytesLength, node.count);
    unsure = doubtOfConfidence(values, confidence.least);
  }
  return strongerDoubt(green, unsure);
}

function coloursOf(
  node: NodeColumns,
  columns: PointColumns,
  names: readonly ColumnName[],
): Required<Pick<PointBatch, 'red' | 'green' | 'blue'>> {
  return unpackColumns(node.attributes!, node.count, names, columns, COLOURS) as never;
}

/** Greenness of the nodes' points, for a limit over the whole cloud. */
export function greenness({
  nodes,
  columns,
  attributeNames,
}: {
  readonly nodes: readonly NodeColumns[];
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
}): GreennessHistogram {
  const histogram = newGreennessHistogram();
  for (const node of nodes) addGreenness(histogram, { count: node.count, ...coloursOf(node, columns, attributeNames) });
  return histogram;
}

export function lowestRaster({
  nodes,
  quantisation,
  frame,
  takes,
  doubt,
}: GroundTask & { readonly frame: RasterFrame }): LowestRaster {
  const raster = newLowestRaster(frame);
  for (const node of nodes) {
    const doubts = doubtOf(node, doubt);
    addLowestPoints(
      raster,
      { ...positionsOf(node), classification: node.classification, flags: node.flags },
      quantisation,
      takes,
      doubts && tooDoubtful(doubts),
    );
  }
  return raster;
}

export interface SettleTask {
  readonly raster: LowestRaster;
  readonly settings: GroundSettings;
  readonly metresPerUnit: number;
  readonly port: MessagePort;
}

/** A first surface, and the raster it stands on, with false low points taken out. */
export function settle({
  raster,
  settings,
  metresPerUnit,
  port,
}: SettleTask): ReturnType<typeof firstSurface> & { readonly raster: LowestRaster } {
  return { ...firstSurface(raster, settings, metresPerUnit, throttled(port)), raster };
}

export interface SettleAgainTask extends SettleTask {
  readonly heights: Float64Array;
  /** What was seen near those. */
  readonly near: NearSums;
  readonly quantisation: Quantisation;
}

/** The surface anew, without the cells that the first should not have held to. */
export function settleAgain({ raster, heights, near, quantisation, settings, metresPerUnit, port }: SettleAgainTask): {
  readonly heights: Float64Array;
  readonly cellsRefused: number;
} {
  const cellsRefused = lookAgain(raster, heights, near, quantisation, settings, metresPerUnit);
  return { heights: surfaceOver(raster, settings, metresPerUnit, throttled(port)), cellsRefused };
}

export interface SurfaceTask extends GroundTask {
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly surface: RasterFrame & { readonly heights: Float64Array };
}

function batchOf(node: NodeColumns, columns: PointColumns, names: readonly ColumnName[]) {
  const { returns } = unpackColumns(node.attributes!, node.count, names, columns, ['returns']);
  return {
    ...positionsOf(node),
    classification: node.classification,
    flags: node.flags,
    returns: returns as Uint8Array,
  };
}

export function nearSums({
  nodes,
  quantisation,
  takes,
  doubt,
  columns,
  attributeNames,
  surface,
  frame,
  band,
  crowd,
}: SurfaceTask & {
  readonly frame: RasterFrame;
  readonly band: readonly [number, number];
  readonly crowd: number;
}): NearSums {
  const sums = newNearSums(frame);
  for (const node of nodes) {
    const doubts = doubtOf(node, doubt);
    const batch = batchOf(node, columns, attributeNames);
    addNearPoints(sums, batch, quantisation, surface, band, crowd, takes, doubts && tooDoubtful(doubts));
  }
  return sums;
}

export function fitPlanes({ sums, quantisation }: { sums: NearSums; quantisation: Quantisation }): GroundPlanes {
  return groundPlanes(sums, quantisation);
}

export interface ClassifyTask extends SurfaceTask {
  readonly tolerance: number;
  readonly tallestStep: number;
  /** Undefined where points are classed against the first surface. */
  readonly planes: GroundPlanes | undefined;
}

export interface ClassifyResult {
  readonly changes: ChangedMarks[];
  readonly toGround: number;
  readonly fromGround: number;
  readonly ground: number;
}

/** New class columns of those nodes in which something changes. */
export function classify(task: ClassifyTask): ClassifyResult {
  const { quantisation, surface, planes, tolerance, tallestStep, takes } = task;
  const changes: ChangedMarks[] = [];
  let toGround = 0;
  let fromGround = 0;
  let ground = 0;
  for (const node of task.nodes) {
    const batch = batchOf(node, task.columns, task.attributeNames);
    const doubt = doubtOf(node, task.doubt);
    const next = planes
      ? classifyAgainstPlanes(batch, quantisation, planes, surface.heights, { tolerance, tallestStep }, takes, doubt)
      : classifyAgainstSurface(
          batch,
          quantisation,
          surface,
          surface.heights,
          { classDistance: tolerance, takes },
          doubt,
        );
    let changed = false;
    for (let i = 0; i < node.count; i++) {
      if (next[i] === GROUND) ground++;
      if (next[i] === node.classification[i]) continue;
      changed = true;
      if (next[i] === GROUND) toGround++;
      else fromGround++;
    }
    if (!changed) continue;
    const after = { classification: next, flags: Uint8Array.from(node.flags) };
    changes.push({ nodeId: node.nodeId, ...after, packed: packDifference(node, after) });
  }
  return { changes, toGround, fromGround, ground };
}

/** What some nodes tell of land and points: even ones from the whole cloud, dense ones from here and there. */
export function groundEvidence({
  even,
  dense,
  quantisation,
  columns,
  attributeNames,
  metresPerUnit,
  spacing,
}: {
  readonly even: readonly NodeColumns[];
  readonly dense: readonly NodeColumns[];
  readonly quantisation: Quantisation;
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly metresPerUnit: number;
  /** Of last returns, job units. */
  readonly spacing: number;
}): PointEvidence {
  const lastReturns = (node: NodeColumns): StripPoints => {
    const { x, y, z } = positionsOf(node);
    const wanted = unpackColumns(node.attributes!, node.count, attributeNames, columns, ['returns', 'pointSourceId']);
    const [returns, strips] = [wanted.returns as Uint8Array, wanted.pointSourceId as Uint16Array];
    const last = ascending(returns.length).filter((i) => (returns[i]! & 0x0f) >= returns[i]! >> 4);
    const at = (values: Int32Array, axis: 0 | 1 | 2): Float64Array =>
      columnFrom(Float64Array, last, (i) => values[i]! * quantisation.scale[axis] + quantisation.offset[axis]);
    const strip = columnFrom(Uint16Array, last, (i) => strips[i]!);
    return { count: last.length, x: at(x, 0), y: at(y, 1), z: at(z, 2), strip };
  };
  const wide = even.map(lastReturns);
  const joined = (axis: 'x' | 'y' | 'z'): Float64Array => {
    const out = new Float64Array(wide.reduce((sum, { count }) => sum + count, 0));
    let at = 0;
    for (const part of wide) {
      out.set(part[axis] as Float64Array, at);
      at += part.count;
    }
    return out;
  };
  const x = joined('x');
  const all = { count: x.length, x, y: joined('y'), z: joined('z') };
  return pointEvidence(all, dense.map(lastReturns), spacing, metresPerUnit);
}

export interface PreviewTask extends GroundTask {
  readonly columns: PointColumns;
  readonly attributeNames: readonly ColumnName[];
  readonly settings: GroundSettings;
  /** Other settings to hold these against; the present classes where there are none. */
  readonly against: GroundSettings | undefined;
  readonly metresPerUnit: number;
  /** Land that is asked about; what the nodes hold beyond it is margin. */
  readonly window: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
}

/** Points in a window that settings would make ground or take out of it, against the present classes or other settings. */
export function previewGround(task: PreviewTask): {
  gained: number;
  lost: number;
  nodes: { nodeId: number; bits: Uint8Array; kept?: Uint8Array }[];
} {
  const { nodes, quantisation, columns, attributeNames, takes, settings, against, metresPerUnit, window } = task;
  const parts = nodes.map((node) => ({
    ...batchOf(node, columns, attributeNames),
    ...(columns.rgb && coloursOf(node, columns, attributeNames)),
  }));
  const count = parts.reduce((sum, part) => sum + part.count, 0);
  const join = <K extends 'x' | 'y' | 'z' | 'classification' | 'flags' | 'returns' | 'red' | 'green' | 'blue'>(
    name: K,
    Type: new (length: number) => Int32Array | Uint8Array | Uint16Array,
  ) => {
    const out = new Type(count);
    let at = 0;
    for (const part of parts) {
      out.set((part as never as Record<K, ArrayLike<number>>)[name], at);
      at += part.count;
    }
    return out;
  };
  const batch = {
    count,
    x: join('x', Int32Array) as Int32Array,
    y: join('y', Int32Array) as Int32Array,
    z: join('z', Int32Array) as Int32Array,
    classification: join('classification', Uint8Array) as Uint8Array,
    flags: join('flags', Uint8Array) as Uint8Array,
    returns: join('returns', Uint8Array) as Uint8Array,
    ...(columns.rgb && {
      red: join('red', Uint16Array) as Uint16Array,
      green: join('green', Uint16Array) as Uint16Array,
      blue: join('blue', Uint16Array) as Uint16Array,
    }),
  };
  const { scale, offset } = quantisation;
  const find = (of: GroundSettings): Uint8Array => {
    const reach = (values: Int32Array, axis: 0 | 1): [number, number] => {
      let [low, high] = [Infinity, -Infinity];
      for (const value of values) {
        if (value < low) low = value;
        if (value > high) high = value;
      }
      return [low * scale[axis] + offset[axis], high * scale[axis] + offset[axis]];
    };
    const [[west, east], [south, north]] = [reach(batch.x, 0), reach(batch.y, 1)];
    // Cells where the whole cloud's would be.
    const [firstColumn, firstRow] = [Math.floor(west / of.cell), Math.floor(south / of.cell)];
    const frame = {
      east: firstColumn * of.cell,
      north: firstRow * of.cell,
      cell: of.cell,
      columns: Math.floor(east / of.cell) - firstColumn + 1,
      rows: Math.floor(north / of.cell) - firstRow + 1,
    };
    return findGround(batch, quantisation, frame, of, takes, metresPerUnit);
  };
  const next = find(settings);
  const present = batch.classification;
  const other = against && find(against);
  let [gained, lost, first] = [0, 0, 0];
  const out = nodes.flatMap(({ nodeId, count: own }) => {
    const bits = new Uint8Array(Math.ceil(own / 8));
    const kept = other && new Uint8Array(bits.length);
    let any = false;
    for (let k = 0; k < own; k++) {
      const i = first + k;
      const isGround = next[i] === GROUND;
      const isNow = present[i] === GROUND;
      const was = other ? other[i] === GROUND : isNow;
      if (isGround === isNow && was === isNow) continue;
      const e = batch.x[i]! * scale[0] + offset[0];
      const n = batch.y[i]! * scale[1] + offset[1];
      if (e < window.west || e > window.east || n < window.south || n > window.north) continue;
      any = true;
      if (isGround !== isNow) bits[k >> 3]! |= 1 << (k & 7);
      if (kept && was !== isNow) kept[k >> 3]! |= 1 << (k & 7);
      if (isGround && !was) gained++;
      else if (was && !isGround) lost++;
    }
    first += own;
    return any ? [{ nodeId, bits, ...(kept && { kept }) }] : [];
  });
  return { gained, lost, nodes: out };
}
