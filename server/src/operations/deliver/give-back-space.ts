import { giveBackSpace } from '@pampero/contract';
import { formatBytes } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { deleteUnshown } from '../../store/give-back.js';
import { readHoldings } from '../../store/holdings.js';
import { serverOperation } from '../server-operation.js';

function work(): RunWork {
  return async ({ job, report }) => {
    report(0, 'Finding what only Undo needs');
    const { undo } = await readHoldings(job.read);
    report(0.1, 'Deleting');
    return {
      outcome: `${formatBytes(undo.bytes)} given back. Steps before this one can no longer be undone`,
      figures: [
        { label: 'Clouds deleted', value: undo.clouds, quantity: 'count' },
        { label: 'Products deleted', value: undo.products, quantity: 'count' },
        { label: 'Given back', value: formatBytes(undo.bytes), quantity: 'text' },
      ],
      givesBackSpace: true,
      store: async (models) => {
        await deleteUnshown(models);
        return { effects: [] };
      },
    };
  };
}

export const operation = serverOperation(giveBackSpace, work);
