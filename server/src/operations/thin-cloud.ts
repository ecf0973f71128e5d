import type { ThinCloudParameters } from '@pampero/contract';
import { PointFlag } from '@pampero/core/cloud';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { thinningMargin, type ThinningOptions } from '@pampero/core/thinning';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, quantisationOf, readCloudFacts, readNodeClass } from '../store/cloud-repository.js';
import { replaceMarks } from '../store/history-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';
import { byNode, handOver, mapWide, readNodeColumns } from './node-groups.js';
import { boxOf } from './select-points.js';
import { spatialTiles } from './spatial-tiles.js';

const TILE_POINTS = 1_200_000;

/** Says which points of the chosen classes stay, by a flag; nothing is removed. */
export function thinCloudWork(pool: TaskPool, parameters: ThinCloudParameters, unit: LengthUnit): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { cloudId, classes, method, distance, sharePercent, outcome } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const quantisation = quantisationOf(facts);
    const options: ThinningOptions = { method, distance, share: sharePercent / 100 };
    const takes = new Uint8Array(256);
    for (const code of classes) takes[code] = 1;
    const margin = thinningMargin(options);
    const nodes = await listStoredNodes(job.read, cloudId);
    const tiles = spatialTiles(nodes, (node) => boxOf(node, facts), margin, TILE_POINTS);
    let done = 0;
    const parts = await mapWide(tiles, pool.threads + 1, async ({ nodes: own, ...tile }) => {
      checkCancelled(signal);
      const columns = await readNodeColumns(job.read, own, { attributes: false });
      const task = { nodes: columns, quantisation, tile, margin, takes, options };
      const result = await pool.run('thinTile', task, signal, handOver(columns));
      report((0.9 * ++done) / tiles.length, 'Choosing points');
      return result;
    });
    const before = parts.reduce((sum, { judged }) => sum + judged, 0);
    const after = parts.reduce((sum, { kept }) => sum + kept.reduce((n, { indices }) => n + indices.length, 0), 0);
    if (before === 0)
      throw new PamperoError('nothing-selected', {
        what: 'The cloud has no points of the chosen classes that are not withheld.',
        mend: 'Choose other classes, or restore what is withheld.',
      });
    const keptOf = byNode(parts.flatMap(({ kept }) => kept));
    report(0.93, 'Storing flags');
    const changes: { nodeId: number; flags: Uint8Array }[] = [];
    for (const { id } of nodes) {
      const marks = await readNodeClass(job.read, id);
      const stays = new Uint8Array(marks.flags.length);
      for (const { indices } of keptOf.get(id) ?? []) for (const i of indices) stays[i] = 1;
      const flags = Uint8Array.from(marks.flags);
      for (let i = 0; i < flags.length; i++) {
        if (takes[marks.classification[i]!] === 0 || (flags[i]! & PointFlag.withheld) !== 0) continue;
        if (outcome === 'withhold') {
          if (stays[i] === 0) flags[i]! |= PointFlag.withheld;
        } else if (stays[i] === 1) flags[i]! |= PointFlag.keyPoint;
        else flags[i]! &= ~PointFlag.keyPoint;
      }
      if (flags.some((value, i) => value !== marks.flags[i])) changes.push({ nodeId: id, flags });
    }
    const area = facts.bounds.max[0] - facts.bounds.min[0];
    const extent = area * (facts.bounds.max[1] - facts.bounds.min[1]);
    const { short } = lengthUnits[unit];
    return {
      outcome: `${formatCount(after)} of ${formatCount(before)} points stay${outcome === 'withhold' ? '; the others are withheld' : ', flagged as key points'}`,
      figures: [
        { label: 'Before', value: before, quantity: 'count' },
        { label: 'Stay', value: after, quantity: 'count' },
        { label: 'Share', value: after / before, quantity: 'share' },
        { label: 'Spacing before', value: Math.sqrt(extent / before), quantity: 'length' },
        { label: 'Spacing now', value: Math.sqrt(extent / Math.max(1, after)), quantity: 'length' },
        { label: `Points per ${short}² now`, value: (after / extent).toFixed(3), quantity: 'text' },
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}
