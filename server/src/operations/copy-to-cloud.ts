import { open, rm } from 'node:fs/promises';
import type { Job } from '@pampero/contract';
import { gatherPoints, type PointBatch } from '@pampero/core/cloud';
import { writeLas } from '@pampero/core/formats/las';
import type { Selection } from '@pampero/core/selection';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { lasOptions } from '../http/las-options.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { MemoryPlan } from '../memory-plan.js';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, readCloudFacts, readNodePoints } from '../store/cloud-repository.js';
import { fileSink } from '../store/file-bytes.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';
import { importCloudWork } from './import-cloud.js';
import { selectionBits } from './select-points.js';

/** Writes the selected points aside as LAS, with every attribute, and takes them in as a cloud. */
export function copyToCloudWork(
  pool: TaskPool,
  selection: Selection,
  name: string,
  { job, memory, library }: { job: Job; memory: MemoryPlan; library: JobLibrary },
): RunWork {
  return async (context) => {
    const { job: file, signal, report } = context;
    report(0.02, 'Finding the points');
    const chosen = await selectionBits(pool, file, selection, signal);
    const total = chosen.reduce((sum, { count }) => sum + count, 0);
    if (total === 0)
      throw new PamperoError('nothing-selected', {
        what: 'The selection holds no points.',
        mend: 'Select the points to copy first.',
      });
    const cloudIds = [...new Set(chosen.map(({ cloudId }) => cloudId))];
    if (cloudIds.length > 1)
      throw new PamperoError('several-clouds', {
        what: `The selection reaches over ${cloudIds.length} clouds, whose attributes may differ.`,
        mend: 'Turn all but one of them off in the layers, and select again.',
      });
    const facts = await readCloudFacts(file.read, cloudIds[0]!);
    const bitsOf = new Map(chosen.map(({ nodeId, bits }) => [nodeId, bits]));
    const nodes = (await listStoredNodes(file.read, cloudIds[0]!)).filter(({ id }) => bitsOf.has(id));
    const path = library.scratchPath('.las');
    const target = await open(path, 'w');
    async function* batches(): AsyncGenerator<PointBatch> {
      for (const [k, node] of nodes.entries()) {
        checkCancelled(signal);
        const points = await readNodePoints(file.read, node, facts);
        const bits = bitsOf.get(node.id)!;
        const order = new Uint32Array(points.count);
        let count = 0;
        for (let i = 0; i < points.count; i++) if ((bits[i >> 3]! >> (i & 7)) & 1) order[count++] = i;
        report(0.05 + (0.2 * k) / nodes.length, 'Copying');
        yield gatherPoints(points, order.subarray(0, count));
      }
    }
    try {
      await writeLas(fileSink(target), batches(), lasOptions(job, facts, { version: '1.4', format: 'las' }), {
        get aborted() {
          return signal.aborted;
        },
      });
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    } finally {
      await target.close();
    }
    const imported = await importCloudWork(pool, {
      path,
      fileName: `${name}.las`,
      discard: () => rm(path, { force: true }),
      layout: undefined,
      keepsCoordinates: true,
      system: undefined,
      heights: { unit: undefined, shift: 0, geoid: undefined },
      name,
      jobCrs: job.crs,
      jobUnit: job.unit,
      spillPath: library.scratchPath('.spill'),
      memory,
    })({ ...context, report: (share, step) => report(0.25 + 0.75 * share, step) });
    return { ...imported, outcome: `${formatCount(total)} points of ${facts.name} copied to ${name}` };
  };
}
