import { buildInDesigns, type BuildInDesignsParameters } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** The ground and designs as one surface. */
function work(parameters: BuildInDesignsParameters, { pool, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { surfaceId, designIds } = parameters;
    const ground = await readProduct(job.read, surfaceId, 'surface');
    const designs = await Promise.all(designIds.map((id) => readProduct(job.read, id, 'surface')));
    const stranger = designs.find(({ facts }) => !facts.design);
    if (stranger)
      throw new PamperoError('no-design', {
        what: `${stranger.name} is a surface of the land and no design.`,
        fix: 'Choose banks and pads that were designed in this job.',
      });
    report(0.1, 'Reading the surfaces');
    const blobs = await Promise.all(designIds.map((id) => readProductBlob(job.read, id, 'tin')));
    report(0.2, 'Building in');
    const { facts, origin, tin, grid } = await pool.run(
      'groundWithDesigns',
      { ground: await readProductBlob(job.read, surfaceId, 'tin'), designs: blobs },
      signal,
    );
    const names = designs.map(({ name }) => name).join(', ');
    return {
      outcome: `${formatCounted(designs.length, 'design')} built into ${ground.name}: ${formatCount(facts.facets)} triangles`,
      figures: [
        { label: 'Designs', value: names, quantity: 'text' },
        { label: 'Triangles', value: facts.facets, quantity: 'count' },
        { label: 'Area in plan', value: facts.areaInPlan, quantity: 'area' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'surface',
          name: parameters.name ?? `${ground.name} with ${names}`.slice(0, 120),
          operation: buildInDesigns.id,
          parameters,
          facts: {
            ...facts,
            origin: [...origin],
            pointsThinned: 0,
            duplicatesDropped: 0,
            facetsLeftOut: 0,
            withDesigns: designs.length,
          },
          blobs: { tin, grid },
          replaces,
        }),
    };
  };
}

export const operation = serverOperation(buildInDesigns, work);
