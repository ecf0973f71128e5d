import { importSurface, type ImportSurfaceParameters } from '@pampero/contract';
import { formatCount } from '@pampero/core/wording';
import type { RunWork } from '../../runs/run-service.js';
import type { Effect } from '../../store/effects.js';
import { storeProduct } from '../../store/product-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Surfaces of a file, a design for instance, kept as they are; read before the run begins, in a thread, since it may be large. */
async function begin(parameters: ImportSurfaceParameters, { pool, unit, source }: FileSurroundings): Promise<RunWork> {
  const { path, fileName } = source;
  const read = await pool.read('surfacesOfFile', { path, fileName, unit }, source);
  const surfaces = read.map((surface) => ({ ...surface, name: parameters.name ?? surface.name }));
  return () => {
    const left = surfaces.reduce((sum, { report }) => sum + report.facetsLeftOut, 0);
    return Promise.resolve({
      outcome: surfaces
        .map(
          ({ name, facts }) => `${name}: ${formatCount(facts.facets)} triangles on ${formatCount(facts.points)} points`,
        )
        .join(', '),
      figures: [
        ...surfaces.flatMap(({ name, facts }) => [
          { label: `${name}, triangles`, value: facts.facets, quantity: 'count' as const },
          { label: `${name}, area in plan`, value: facts.areaInPlan, quantity: 'area' as const },
        ]),
        ...(left > 0 ? [{ label: 'Triangles without area left out', value: left, quantity: 'count' as const }] : []),
      ],
      store: async (models) => {
        const effects: Effect[] = [];
        let productId: number | undefined;
        for (const { name, origin, report, facts, tin, grid } of surfaces) {
          const stored = await storeProduct(models, {
            kind: 'surface',
            name,
            operation: importSurface.id,
            parameters,
            facts: { ...facts, origin: [...origin], pointsThinned: 0, ...report },
            blobs: { tin, grid },
          });
          effects.push(...stored.effects);
          productId = stored.productId;
        }
        return { effects, ...(productId !== undefined && { productId }) };
      },
    });
  };
}

export const operation = fileOperation(importSurface, begin);
