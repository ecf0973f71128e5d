import type { SelectionCount } from '@pampero/contract';
import { PreparedSelection, type Box, type Front, type Selection } from '@pampero/core/selection';
import { checkCancelled } from '@pampero/core/task';
import type { JobFile } from '../store/job-file.js';
import { knownOf, type CloudFacts } from '../store/cloud-facts.js';
import { listReadyCloudFacts, quantisationOf } from '../store/cloud-repository.js';
import { listStoredNodes, readNodes, type StoredNode } from '../store/node-repository.js';
import { addCounts, type SelectedCounts } from '../tasks/selected-counts.js';
import type { ChangedMarks } from '../store/mark-difference.js';
import type { MarkChange, SelectableNode } from '../tasks/selection-tasks.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { never } from './cloud-pass.js';
import { groupNodes, handOver, mapWide } from './node-groups.js';

interface ReachedNode extends StoredNode {
  readonly facts: CloudFacts;
  readonly box: Box;
  readonly needsPlaces: boolean;
}

/** The nodes of a job that a selection reaches, and what of them must be read. */
export interface SelectionPlan {
  readonly selection: Selection;
  readonly needsAttributes: boolean;
  readonly nodes: readonly ReachedNode[];
  /** Nodes that may stand in front of selected points. */
  readonly front: readonly ReachedNode[];
}

/** @throws PamperoError where a shape of the selection is none */
export async function planSelection(job: JobFile, selection: Selection): Promise<SelectionPlan> {
  const prepared = new PreparedSelection(selection);
  const nodes: ReachedNode[] = [];
  const front: ReachedNode[] = [];
  for (const { id: cloudId, facts } of await listReadyCloudFacts(job.read)) {
    for (const node of await listStoredNodes(job.read, cloudId)) {
      const box = boxOf(node, facts);
      const relation = prepared.relationOf(box, node.id, cloudId);
      if (relation !== 'outside') nodes.push({ ...node, facts, box, needsPlaces: relation === 'crossing' });
      if (prepared.needsFronts && prepared.reachesFronts(box, node.id, cloudId))
        front.push({ ...node, facts, box, needsPlaces: true });
    }
  }
  return { selection, needsAttributes: prepared.columns.size > 0, nodes, front };
}

export function boxOf(node: StoredNode, { quantisation: { scale, offset } }: Pick<CloudFacts, 'quantisation'>): Box {
  return {
    min: [node.minX * scale[0] + offset[0], node.minY * scale[1] + offset[1], node.minZ * scale[2] + offset[2]],
    max: [node.maxX * scale[0] + offset[0], node.maxY * scale[1] + offset[1], node.maxZ * scale[2] + offset[2]],
  };
}

/** Runs `work` over the nodes in groups, with what lies in front gathered first. */
async function overNodes<R>(
  pool: TaskPool,
  job: JobFile,
  plan: SelectionPlan,
  signal: AbortSignal,
  work: (nodes: SelectableNode[], fronts: readonly Front[]) => Promise<R>,
  report: (share: number) => void = () => undefined,
): Promise<R[]> {
  const { selection, needsAttributes } = plan;
  let fronts: readonly Front[] = [];
  if (plan.front.length > 0) {
    const merged = new PreparedSelection(selection);
    await mapWide(groupNodes(plan.front) as ReachedNode[][], pool.threads, async (group) => {
      checkCancelled(signal);
      const nodes = await readSelectable(job, group, needsAttributes);
      merged.mergeFronts(await pool.run('selectionFronts', { nodes, selection }, signal, handOver(nodes)));
    });
    fronts = merged.fronts();
  }
  let done = 0;
  const groups = groupNodes(plan.nodes) as ReachedNode[][];
  return mapWide(groups, pool.threads + 1, async (group) => {
    checkCancelled(signal);
    const result = await work(await readSelectable(job, group, needsAttributes), fronts);
    report(++done / groups.length);
    return result;
  });
}

async function readSelectable(
  { read }: JobFile,
  nodes: readonly ReachedNode[],
  attributes: boolean,
): Promise<SelectableNode[]> {
  const idsOf = (withPlaces: boolean): number[] =>
    nodes.filter(({ needsPlaces }) => needsPlaces === withPlaces).map(({ id }) => id);
  const more = attributes ? (['attributes'] as const) : [];
  const rows = [
    ...(await readNodes(read, idsOf(true), 'geometry', ...more)),
    ...(await readNodes(read, idsOf(false), ...more)),
  ];
  const rowOf = new Map(rows.map((row) => [row.nodeId, row]));
  return nodes.map(({ id, cloudId, count, facts, box }) => ({
    ...rowOf.get(id)!,
    cloudId,
    count,
    quantisation: quantisationOf(facts),
    box,
    columns: facts.columns,
    attributeNames: facts.attributeNames,
    known: knownOf(facts),
  }));
}

/** All that a plan's nodes hold, places too; for work that needs them at once. */
export function readPlanned(job: JobFile, plan: SelectionPlan, attributes: boolean): Promise<SelectableNode[]> {
  const nodes = plan.nodes.map((node) => ({ ...node, needsPlaces: true }));
  return readSelectable(job, nodes, attributes || plan.needsAttributes);
}

function sumCounts(parts: readonly SelectedCounts[]): SelectedCounts {
  const sum: SelectedCounts = { classes: new Float64Array(256), withheld: 0 };
  for (const part of parts) addCounts(sum, part);
  return sum;
}

/** Points selected, all and by class. */
export function asCount({ classes, withheld }: SelectedCounts, clouds: number): SelectionCount {
  const classCounts: Record<string, number> = {};
  classes.forEach((count, code) => {
    if (count > 0) classCounts[code] = count;
  });
  return { points: classes.reduce((sum, count) => sum + count, 0), withheld, classCounts, clouds };
}

export async function countSelection(pool: TaskPool, job: JobFile, selection: Selection): Promise<SelectionCount> {
  const plan = await planSelection(job, selection);
  const parts = await overNodes(pool, job, plan, never, (nodes, fronts) =>
    pool.run('countSelected', { nodes, selection, fronts }, never, handOver(nodes)),
  );
  return asCount(sumCounts(parts), new Set(plan.nodes.map(({ cloudId }) => cloudId)).size);
}

export interface ChangedPoints {
  /** By cloud. */
  readonly changes: ReadonlyMap<number, readonly ChangedMarks[]>;
  /** The points that change, by the class they had. */
  readonly before: SelectionCount;
}

/** Finds what a change of the selected points' marks would write; nothing is stored here. */
export async function changeSelection(
  pool: TaskPool,
  job: JobFile,
  selection: Selection,
  change: MarkChange,
  signal: AbortSignal,
  report?: (share: number) => void,
): Promise<ChangedPoints> {
  const plan = await planSelection(job, selection);
  const parts = await overNodes(
    pool,
    job,
    plan,
    signal,
    (nodes, fronts) => pool.run('changeSelected', { nodes, selection, fronts, change }, signal, handOver(nodes)),
    report,
  );
  const cloudOf = new Map(plan.nodes.map(({ id, cloudId }) => [id, cloudId]));
  const changes = new Map<number, ChangedMarks[]>();
  for (const { changes: changed } of parts)
    for (const mark of changed) {
      const cloudId = cloudOf.get(mark.nodeId)!;
      const list = changes.get(cloudId);
      if (list) list.push(mark);
      else changes.set(cloudId, [mark]);
    }
  return { changes, before: asCount(sumCounts(parts.map(({ counts }) => counts)), changes.size) };
}

/** The selected points of each node, as bits. */
export async function selectionBits(
  pool: TaskPool,
  job: JobFile,
  selection: Selection,
  signal: AbortSignal,
): Promise<{ nodeId: number; cloudId: number; bits: Uint8Array; count: number }[]> {
  const plan = await planSelection(job, selection);
  const cloudOf = new Map(plan.nodes.map(({ id, cloudId }) => [id, cloudId]));
  const parts = await overNodes(pool, job, plan, signal, (nodes, fronts) =>
    pool.run('selectedBits', { nodes, selection, fronts }, signal, handOver(nodes)),
  );
  return parts.flat().map((node) => ({ ...node, cloudId: cloudOf.get(node.nodeId)! }));
}
