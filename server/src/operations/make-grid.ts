import { makeGrid, type MakeGridParameters } from '@pampero/contract';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { GRID_METHODS } from '@pampero/core/grids';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { readProductBlob, readSurface, storeProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';
import { handOver, readNodeColumns } from './node-groups.js';

/** An elevation grid from a surface or from points. */
export function makeGridWork(pool: TaskPool, parameters: MakeGridParameters, unit: LengthUnit): RunWork {
  return async ({ job, signal, report }) => {
    const { method, cell, reach, surfaceId, cloudId, classes } = parameters;
    const ofPoints = GRID_METHODS.find((known) => known === method);
    const { short } = lengthUnits[unit];
    report(0.05, 'Reading');
    let made;
    let inputName: string;
    if (ofPoints === undefined) {
      const surface = await readSurface(job.read, surfaceId!);
      inputName = surface.name;
      made = await pool.run('gridOfSurface', { tin: await readProductBlob(job.read, surface.id, 'tin'), cell }, signal);
    } else {
      const facts = await readCloudFacts(job.read, cloudId!);
      inputName = facts.name;
      const takes = new Uint8Array(256);
      for (const code of classes) takes[code] = 1;
      const nodes = await readNodeColumns(job.read, await listStoredNodes(job.read, cloudId!), { attributes: false });
      report(0.3, 'Summing up cells');
      const task = { nodes, quantisation: quantisationOf(facts), takes, method: ofPoints, cell, reach: reach / cell };
      made = await pool.run('gridOfPoints', task, signal, handOver(nodes));
    }
    const { grid, frame, lowest, highest, filled } = made;
    report(0.95, 'Storing grid');
    const name = parameters.name ?? `${inputName}, ${ofPoints ?? 'grid'} ${cell} ${short}`;
    const cells = frame.columns * frame.rows;
    return {
      outcome: `${formatCount(frame.columns)} by ${formatCount(frame.rows)} cells of ${cell} ${short}`,
      figures: [
        { label: 'Cells', value: cells, quantity: 'count' },
        { label: 'With a value', value: filled / cells, quantity: 'share' },
        { label: 'Lowest', value: lowest, quantity: 'length' },
        { label: 'Highest', value: highest, quantity: 'length' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'grid',
          name,
          inputId: ofPoints === undefined ? surfaceId! : 0,
          inputRevision: 0,
          operation: makeGrid.id,
          parameters,
          facts: { ...frame, lowest, highest, filled, isCount: ofPoints === 'count' },
          blobs: { grid },
        }),
    };
  };
}
