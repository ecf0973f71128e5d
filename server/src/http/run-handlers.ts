import type { History, runEndpoints } from '@pampero/contract';
import { JobError } from '../errors/job-error.js';
import { readHistory, redo, undo } from '../store/history-repository.js';
import { readerOf, type Handlers, type Services } from './handler.js';
import { receiveFile } from './receive-file.js';

/** Operations, their runs and the field book. */
export function runHandlers(services: Services): Handlers<keyof typeof runEndpoints> {
  const { library, runs, operations } = services;
  const step = async (jobId: string, go: typeof undo): Promise<History> => {
    // A hand edit is over in a moment and is waited for, so that undo straight after it takes back just that.
    await runs.quickOnesDone(jobId);
    if (runs.isBusy(jobId))
      throw new JobError('busy', { what: 'Something is running in this job.', fix: 'Wait for it or cancel it.' });
    const file = await library.file(jobId);
    await file.write(go);
    runs.tell(jobId, { kind: 'changed', parts: ['clouds', 'products', 'control', 'history'] });
    return readHistory(file.read);
  };
  return {
    startOperation: async ({ params, body }) => (await operations.start(params.jobId, params.operation, body)).run,
    async startWithFile({ params, query: { fileName, parameters }, request }) {
      await library.file(params.jobId);
      const path = library.scratchPath('.received');
      await receiveFile(request, path);
      return (await operations.startWithFile(params.jobId, params.operation, { path, fileName }, parameters)).run;
    },
    rebuildStale: ({ params }) => operations.rebuildStale(params.jobId),
    readRun: ({ params }) => runs.read(params.jobId, params.runId),
    cancelRun: ({ params }) => runs.cancel(params.jobId, params.runId),
    readHistory: async ({ params }) => readHistory(await readerOf(services, params.jobId)),
    undo: ({ params }) => step(params.jobId, undo),
    redo: ({ params }) => step(params.jobId, redo),
  };
}
