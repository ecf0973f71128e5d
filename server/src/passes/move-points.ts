import type { Figure } from '@pampero/contract';
import { boundsAround, type Quantisation } from '@pampero/core/cloud';
import { Cancelled } from '@pampero/core/task';
import type { RunContext } from '../runs/run-service.js';
import { type StoredNode } from '../store/node-repository.js';
import type { Models } from '../store/models.js';
import {
  beginPositionSet,
  finishPositionSet,
  insertMovedNodes,
  removePositionSet,
  type PositionsEffect,
} from '../store/position-repository.js';
import type { NodeColumns } from '../tasks/node-columns.js';
import type { MovedPart } from '../tasks/moving-tasks.js';
import { overGroups, type CloudPass } from './cloud-pass.js';
import { groupNodes } from './node-groups.js';

export interface MovedCloud {
  readonly figures: readonly Figure[];
  readonly stayed: number;
  /** Takes away what was written aside, where it is not to be stored after all. */
  readonly discard: () => Promise<void>;
  readonly store: (models: Models) => Promise<{ effects: readonly PositionsEffect[] }>;
}

/**
 * Moves the points of a cloud to a new set of positions, group of nodes by group of nodes. The set is written aside as it comes and taken up with the field
 * book's entry; what fails, is cancelled or killed leaves the cloud where it was.
 */
export async function movePoints(
  pass: CloudPass & Pick<RunContext, 'historyId'>,
  cloud: { readonly cloudId: number; readonly quantisation: Quantisation; readonly nodes: readonly StoredNode[] },
  told: { readonly name: string; readonly because: string },
  attributes: boolean,
  move: (nodes: NodeColumns[], transfer: ArrayBuffer[], index: number) => Promise<MovedPart>,
  onShare: (share: number) => void,
): Promise<MovedCloud> {
  const { job, historyId, signal } = pass;
  const { scale, offset } = cloud.quantisation;
  const setId = await job.write((models) => beginPositionSet(models, cloud.cloudId, historyId), { isPromised: false });
  try {
    const groups = groupNodes(cloud.nodes);
    const indexOf = new Map(groups.map((group, k) => [group[0]!.id, k]));
    const parts = await overGroups(pass, groups, { attributes, onShare }, async (nodes, group, transfer) => {
      const { nodes: moved, ...sums } = await move(nodes, transfer, indexOf.get(group[0]!.id)!);
      await job.write((models) => insertMovedNodes(models, setId, moved), { isPromised: false });
      const of = (end: 'min' | 'max', pick: (...values: number[]) => number): [number, number, number] =>
        [0, 1, 2].map(
          (axis) => moved.reduce((best, node) => pick(best, node[end][axis]!), pick()) * scale[axis]! + offset[axis]!,
        ) as [number, number, number];
      return { ...sums, bounds: { min: of('min', Math.min), max: of('max', Math.max) } };
    });
    if (signal.aborted) throw new Cancelled();
    const points = parts.reduce((sum, part) => sum + part.points, 0);
    const stayed = parts.reduce((sum, part) => sum + part.stayed, 0);
    const way = parts.reduce((sum, part) => sum + part.sum, 0);
    return {
      stayed,
      discard: () => job.write((models) => removePositionSet(models, setId)),
      figures: [
        { label: 'Points moved', value: points - stayed, quantity: 'count' },
        ...(stayed > 0 ? [{ label: 'Points that stayed', value: stayed, quantity: 'count' as const }] : []),
        { label: 'Moved by, mean', value: way / Math.max(1, points - stayed), quantity: 'length' },
        { label: 'Moved by, most', value: Math.max(...parts.map((part) => part.furthest)), quantity: 'length' },
      ],
      store: async (models) => ({
        effects: [
          await finishPositionSet(models, historyId, {
            id: setId,
            cloudId: cloud.cloudId,
            name: told.name,
            facts: { bounds: boundsAround(parts.map(({ bounds }) => bounds)), because: told.because },
          }),
        ],
      }),
    };
  } catch (error) {
    await job.write((models) => removePositionSet(models, setId));
    throw error;
  }
}
