import { editSurface, type EditSurfaceParameters } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import type { RasterFrame } from '@pampero/core/raster';
import type { SurfaceEdit } from '@pampero/core/terrain';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

const SAYS: Readonly<Record<SurfaceEdit['kind'], readonly [one: string, many: string]>> = {
  'take-out': ['point removed', 'points removed'],
  swap: ['edge swapped', 'edges swapped'],
  drop: ['triangle dropped', 'triangles dropped'],
  'drop-within': ['outline emptied', 'outlines emptied'],
  add: ['point added', 'points added'],
};

/** A surface edited by hand: it takes the place of the one before, and keeps what was done for when it is built anew. */
function work({ surfaceId, edits }: EditSurfaceParameters, { pool }: Surroundings): RunWork {
  return async ({ job, signal }) => {
    const surface = await readProduct(job.read, surfaceId, 'surface');
    const before = await readProductBlob(job.read, surfaceId, 'tin');
    const shown = unpackArrays(await readProductBlob(job.read, surfaceId, 'grid'));
    const frame = shown.facts as RasterFrame;
    const { tin, grid, facts } = await pool.run('editSurface', { tin: before, edits, frame }, signal);
    const kinds = [...new Set(edits.map(({ kind }) => kind))];
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
          operation: surface.operation,
          parameters: { ...surface.parameters, edits: [...earlier, ...edits] },
          inputs: surface.inputs,
          facts: { ...surface.facts, ...facts },
          blobs: { tin, grid },
          replaces: surfaceId,
        }),
    };
  };
}

export const operation = serverOperation(editSurface, work);
