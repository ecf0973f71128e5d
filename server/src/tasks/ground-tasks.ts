import type { RasterFrame } from '@pampero/core/raster';
import { packDifference, type ChangedMarks } from '../store/mark-difference.js';
import type { MessagePort } from 'node:worker_threads';
import { GROUND, type ColumnName, type PointColumns, type Quantisation } from '@pampero/core/cloud';
import {
  addGreenness,
  addLowestPoints,
  addNearPoints,
  classifyAgainstPlanes,
  classifyAgainstSurface,
  findSuspectAreas,
  firstSurface,
  lookAgain,
  surfaceOver,
  groundPlanes,
  newGreennessHistogram,
  newLowestRaster,
  newNearSums,
  tooDoubtful,
  type GreennessHistogram,
  type GroundPlanes,
  type GroundSettings,
  type LowestRaster,
  type NearSums,
  type SuspectArea,
  type SuspectGrid,
  type SuspectLimits,
} from '@pampero/core/ground';
import { positionsOf, type NodeColumns } from './node-columns.js';
import { throttled } from './throttled.js';

import { batchOf, coloursOf, doubtOf, type GroundTask } from './ground-nodes.js';

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

/** Where ground found is most likely wrong; see `findSuspectAreas`. */
export function suspectAreas({ grid, limits }: { grid: SuspectGrid; limits: SuspectLimits }): SuspectArea[] {
  return findSuspectAreas(grid, limits);
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
