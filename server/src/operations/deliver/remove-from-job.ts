import { kindById, removeFromJob, type RemoveFromJobParameters } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { notFound } from '../../errors/job-error.js';
import { readyCloud } from '../../store/cloud-repository.js';
import { listControlLists } from '../../store/control-repository.js';
import { removeThings } from '../../store/history-repository.js';
import { readProduct } from '../../store/product-repository.js';
import { serverOperation } from '../server-operation.js';

/** Names in the outcome; of more of them the number says enough. */
const MOST_NAMED = 3;

/** @throws PamperoError `nothing-to-do` where nothing was chosen */
function work({ clouds, control, products }: RemoveFromJobParameters): RunWork {
  if (clouds.length + control.length + products.length === 0)
    throw new PamperoError('nothing-to-do', {
      what: 'Nothing was chosen.',
      fix: 'Choose a cloud, a list of survey points or a product.',
    });
  return async ({ job }) => {
    const names: string[] = [];
    for (const id of new Set(clouds)) names.push((await readyCloud(job.read, id)).name);
    const lists = control.length > 0 ? await listControlLists(job.read) : [];
    for (const id of new Set(control)) {
      const list = lists.find((one) => one.id === id);
      if (!list) throw notFound('list of survey points', id);
      names.push(list.name);
    }
    for (const id of new Set(products)) {
      const { kind, name } = await readProduct(job.read, id);
      names.push(kind === 'lines' ? `${kindById(kind)!.name.many} ${name}` : name);
    }
    return {
      outcome:
        names.length <= MOST_NAMED
          ? `Removed: ${names.join(', ')}`
          : `Removed: ${names.slice(0, MOST_NAMED).join(', ')} and ${names.length - MOST_NAMED} more`,
      figures: [
        { label: 'Clouds', value: new Set(clouds).size, quantity: 'count' },
        { label: 'Products', value: new Set(products).size, quantity: 'count' },
      ],
      store: async (models) => ({
        effects: [
          ...(await removeThings(models, 'cloud', [...new Set(clouds)])),
          ...(await removeThings(models, 'control', [...new Set(control)])),
          ...(await removeThings(models, 'product', [...new Set(products)])),
        ],
      }),
    };
  };
}

export const operation = serverOperation(removeFromJob, work);
