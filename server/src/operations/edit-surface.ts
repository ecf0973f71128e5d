import { type EditSurfaceParameters, type SurfaceFaultResource } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import type { SurfaceEdit } from '@pampero/core/terrain';
import type { JobFile } from '../jobs/job-file.js';
import type { RunWork } from '../runs/run-service.js';
import { readProductBlob, readShownPart, readSurface, storeProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';

const SAYS: Readonly<Record<SurfaceEdit['kind'], readonly [one: string, many: string]>> = {
  'take-out': ['point taken out', 'points taken out'],
  swap: ['side swapped', 'sides swapped'],
  drop: ['triangle dropped', 'triangles dropped'],
  'drop-within': ['outline emptied', 'outlines emptied'],
  add: ['point added', 'points added'],
};

/** A surface edited by hand: it takes the place of the one before, and keeps what was done for when it is built anew. */
export function editSurfaceWork(pool: TaskPool, { surfaceId, edits }: EditSurfaceParameters): RunWork {
  return async ({ job, signal }) => {
    const surface = await readSurface(job.read, surfaceId);
    const before = await readProductBlob(job.read, surfaceId, 'tin');
    const { tin, grid, facts } = await pool.run('editSurface', { tin: before, edits }, signal);
    const kinds = [...new Set(edits.map(({ kind }) => kind))];
    const { origin, pointsThinned, duplicatesDropped, facetsLeftOut } = surface;
    const earlier = (surface.parameters['edits'] as SurfaceEdit[] | undefined) ?? [];
    return {
      outcome: kinds
        .map((kind) => {
          const count = edits.filter((edit) => edit.kind === kind).length;
          return `${formatCount(count)} ${SAYS[kind][count === 1 ? 0 : 1]}`;
        })
        .join(', '),
      figures: [
        { label: 'Points', value: facts.points, quantity: 'count' },
        { label: 'Triangles', value: facts.facets, quantity: 'count' },
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'surface',
          name: surface.name,
          inputId: surface.cloudId,
          inputRevision: surface.cloudRevision,
          operation: surface.operation,
          parameters: { ...surface.parameters, edits: [...earlier, ...edits] },
          facts: {
            origin,
            pointsThinned,
            duplicatesDropped,
            facetsLeftOut,
            facts,
            replaced: [...(surface.replaced ?? []), surfaceId],
          },
          blobs: { tin, grid },
          replaces: surfaceId,
        }),
    };
  };
}

/** Metres: what shows in contours at a quarter of a metre, and a gap that a house would leave. */
const LIMITS = { spike: 0.15, hole: 25 } as const;

export async function findSurfaceFaults(
  pool: TaskPool,
  job: JobFile,
  surfaceId: number,
  unit: LengthUnit,
): Promise<SurfaceFaultResource[]> {
  const metre = 1 / metresPer(unit);
  const limits = { spike: LIMITS.spike * metre, hole: LIMITS.hole * metre * metre };
  const tin = await readShownPart(job.read, 'surface', surfaceId, 'tin');
  return pool.run('faultsOfSurface', { tin, limits }, new AbortController().signal);
}
