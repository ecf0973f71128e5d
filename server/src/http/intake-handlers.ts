import type { intakeEndpoints } from '@pampero/contract';
import { boundsAround } from '@pampero/core/cloud';
import { listClouds } from '../store/cloud-repository.js';
import { readerOf, type Handlers, type Services } from './handler.js';

/** Files that are to come in. */
export function intakeHandlers(services: Services): Handlers<keyof typeof intakeEndpoints> {
  const { incoming, library, pool } = services;
  return {
    listFolder: ({ query }) => incoming.folder.list(query.path),
    listGeoids: () => incoming.geoids.list(),
    async lookAtFile({ params: { jobId }, body: { file, layout, crs, leaveOutScans } }) {
      const job = await library.describe(jobId);
      const clouds = await listClouds(await readerOf(services, jobId));
      const { path, fileName } = await incoming.find(file);
      const jobBounds = clouds.length === 0 ? undefined : boundsAround(clouds.map((cloud) => cloud.bounds));
      return pool.read(
        'lookAtFile',
        { path, fileName, job, jobBounds, layout, crs, leaveOut: leaveOutScans },
        { path, fileName },
      );
    },
  };
}
