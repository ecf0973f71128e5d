import { choosePositions, type ChoosePositionsParameters } from '@pampero/contract';
import { JobError } from '../../errors/job-error.js';
import type { RunWork } from '../../runs/run-service.js';
import { readCloud } from '../../store/cloud-repository.js';
import { takePositions } from '../../store/position-repository.js';
import { serverOperation } from '../server-operation.js';

/** Shows a cloud at other positions it has. */
function work({ cloud: cloudId, positions }: ChoosePositionsParameters): RunWork {
  return async ({ job, historyId }) => {
    const cloud = await readCloud(job.read, cloudId);
    const set = cloud.positions.sets.find(({ id }) => id === positions);
    if (positions !== 0 && !set)
      throw new JobError('not-found', {
        what: `${cloud.name} has no positions ${positions}.`,
        fix: 'The cloud lists those it has; 0 are those it came with.',
      });
    return {
      outcome: `${cloud.name} shown ${set ? `as ${set.name}` : 'as it came'}`,
      figures: [],
      store: async (models) => ({
        effects:
          cloud.positions.shown === positions ? [] : [await takePositions(models, historyId, cloudId, positions)],
      }),
    };
  };
}

export const operation = serverOperation(choosePositions, work);
