import { importControl, type ImportControlParameters } from '@pampero/contract';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { insertControl } from '../../store/control-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Takes surveyed points into the job; a list that cannot be read is refused before the run begins. */
async function begin({ order, role }: ImportControlParameters, { pool, source }: FileSurroundings): Promise<RunWork> {
  const { path, fileName } = source;
  const points = await pool.read('pointsOfList', { path, fileName, order }, source);
  return ({ historyId }) =>
    Promise.resolve({
      outcome: `${formatCount(points.length)} ${role} points from ${fileName}`,
      figures: [{ label: 'Points', value: points.length, quantity: 'count' as const }],
      store: async (models) => {
        await insertControl(models, historyId, role, points);
        return { effects: [{ kind: 'control', id: historyId }] };
      },
    });
}

export const operation = fileOperation(importControl, begin);
