import { type EditSurfaceParameters, type SurfaceFaultResource } from '@pampero/contract';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { changedPart, cutPart, type GridPart } from '@pampero/core/grids';
import type { GridFrame, SurfaceEdit } from '@pampero/core/terrain';
import type { JobFile } from '../jobs/job-file.js';
import type { Models } from '../jobs/models.js';
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
    const shown = unpackArrays(await readProductBlob(job.read, surfaceId, 'grid'));
    const frame = shown.facts as GridFrame;
    const { tin, grid, facts } = await pool.run('editSurface', { tin: before, edits, frame }, signal);
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

/** A part larger than this is sent as the whole: it saves nothing. */
const LARGEST_PART = 0.5;

/**
 * The grid that stands in for a surface on the screen; where the page has one of an earlier surface on the same cells, only what
 * differs: an edit by hand changes a few triangles.
 */
export async function surfaceForDisplay(models: Models, surfaceId: number, since?: number): Promise<Uint8Array> {
  const bytes = await readShownPart(models, 'surface', surfaceId, 'grid');
  if (since === undefined) return bytes;
  const before = await readShownPart(models, 'surface', since, 'grid').catch(() => undefined);
  if (!before) return bytes;
  const [old, now] = [unpackArrays(before), unpackArrays(bytes)];
  const frame = now.facts as GridFrame;
  if (JSON.stringify(old.facts) !== JSON.stringify(frame)) return bytes;
  const values = now.arrays['elevation'] as Float32Array;
  const part = changedPart(old.arrays['elevation'] as Float32Array, values, frame.columns, frame.rows) ?? NO_PART;
  if (part.columns * part.rows > LARGEST_PART * values.length) return bytes;
  return packArrays({ elevation: cutPart(values, frame.columns, part) }, { ...frame, since, part });
}

const NO_PART: GridPart = { column: 0, row: 0, columns: 0, rows: 0 };
