import { editClasses, type JobClass } from '@pampero/contract';
import { className } from '@pampero/core/cloud';
import type { RunWork } from '../../runs/run-service.js';
import { CLASSES_KEY, replaceSetting } from '../../store/history-repository.js';
import { readJobClasses } from '../../store/pin-repository.js';
import { serverOperation } from '../server-operation.js';

function work(classes: readonly JobClass[]): RunWork {
  return async ({ job }) => {
    const before = await readJobClasses(job.read);
    const changed = classes.filter(({ code, name, colour, key }) => {
      const old = before.find((c) => c.code === code);
      return old?.name !== name || old.colour !== colour || old.key !== key;
    });
    const removed = before.filter(({ code }) => !classes.some((c) => c.code === code));
    return {
      outcome:
        [
          ...changed.map(({ code, name }) => `${code} ${name}`),
          ...removed.map(({ code }) => `${code} ${className(code)} again`),
        ].join(', ') || 'Nothing changed.',
      figures: [],
      store: async (models) => ({ effects: [await replaceSetting(models, CLASSES_KEY, JSON.stringify(classes))] }),
    };
  };
}

export const operation = serverOperation(editClasses, ({ classes }) => work(classes));
