import { className } from '@pampero/core/cloud';
import { buildSurface, type BuildSurfaceParameters, type Figure } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { storeProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';
import { readTerrainLines } from './import-lines.js';
import { readNodeColumns } from './node-groups.js';

/** A TIN from the points of some classes, stored with the grid that shows it. */
export function buildSurfaceWork(
  pool: TaskPool,
  parameters: BuildSurfaceParameters,
  unit: LengthUnit,
  { replaces }: { replaces?: number } = {},
): RunWork {
  return async ({ job, signal, report }) => {
    const facts = await readCloudFacts(job.read, parameters.cloudId);
    report(0.02, 'Reading points');
    const nodes = await readNodeColumns(job.read, await listStoredNodes(job.read, parameters.cloudId), {
      attributes: false,
    });
    const lines = await readTerrainLines(job.read, parameters.lines);
    const { tin, grid, crossings, ...built } = await pool.runWatched(
      'buildTin',
      {
        nodes,
        quantisation: quantisationOf(facts),
        classes: parameters.classes,
        thinCell: parameters.thinCell,
        options: {
          longestSide: parameters.longestSide,
          smallestAngle: parameters.smallestAngle,
          lines: {
            largestStep: parameters.lineStep,
            offset: parameters.lineOffset,
            crossing: parameters.crossing,
            crossingTolerance: 0.05 / metresPer(unit),
          },
        },
        lines,
        edits: parameters.edits,
      },
      signal,
      (share) => report(0.1 + 0.85 * (share as number), 'Triangulating'),
    );
    report(0.96, 'Storing surface');
    const name = parameters.name ?? parameters.classes.map(className).join(', ');
    return {
      outcome: `${name}: ${formatCount(built.facts.facets)} triangles on ${formatCount(built.facts.points)} points`,
      figures: [
        { label: 'Points', value: built.facts.points, quantity: 'count' },
        { label: 'Triangles', value: built.facts.facets, quantity: 'count' },
        { label: 'Area in plan', value: built.facts.areaInPlan, quantity: 'area' },
        { label: 'Area on the slope', value: built.facts.areaOnSlope, quantity: 'area' },
        { label: 'Lowest', value: built.facts.lowest, quantity: 'length' },
        { label: 'Highest', value: built.facts.highest, quantity: 'length' },
        { label: 'Longest side', value: built.facts.longestSide, quantity: 'length' },
        { label: 'Points left aside, one per cell', value: built.pointsThinned, quantity: 'count' },
        { label: 'Points in one place dropped', value: built.duplicatesDropped, quantity: 'count' },
        { label: 'Triangles left out', value: built.facetsLeftOut, quantity: 'count' },
        ...(parameters.edits.length > 0
          ? ([
              { label: 'Edits done again', value: parameters.edits.length - built.editsRefused, quantity: 'count' },
              { label: 'Edits that no longer fit', value: built.editsRefused, quantity: 'count' },
            ] satisfies Figure[])
          : []),
        ...(lines.length > 0
          ? ([
              { label: 'Sides held along lines', value: built.edgesHeld, quantity: 'count' },
              { label: 'Sides that could not be held', value: built.edgesNotHeld, quantity: 'count' },
              { label: 'Points beside lines left out', value: built.pointsBesideLines, quantity: 'count' },
              { label: 'Crossings that disagree', value: crossings.length, quantity: 'count' },
              ...crossings.slice(0, 20).map((crossing) => ({
                label: `Crossing at ${crossing.easting.toFixed(2)} E ${crossing.northing.toFixed(2)} N`,
                value: crossing.elevations.map((z) => z.toFixed(3)).join(' and '),
                quantity: 'text' as const,
              })),
            ] satisfies Figure[])
          : []),
      ],
      store: (models) =>
        storeProduct(models, {
          kind: 'surface',
          name,
          inputId: parameters.cloudId,
          inputRevision: facts.revision,
          operation: buildSurface.id,
          parameters,
          facts: built,
          blobs: { tin, grid },
          ...(replaces !== undefined && { replaces }),
        }),
    };
  };
}
