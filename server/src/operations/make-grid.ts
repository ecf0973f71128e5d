import { makeGrid, type MakeGridParameters } from '@pampero/contract';
import { classMask } from '@pampero/core/cloud';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { GRID_METHODS } from '@pampero/core/grids';
import type { GridFrame } from '@pampero/core/terrain';
import type { Models } from '../jobs/models.js';
import type { RunWork } from '../runs/run-service.js';
import { listStoredNodes, quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { readProduct, readProductBlob, readShownPart, readSurface, storeProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { gridFigures, gridSize } from './grid-figures.js';
import { readTerrainLines } from './import-lines.js';
import { handOver, readNodeColumns } from './node-groups.js';

/** An elevation grid from a surface or from points. */
export function makeGridWork(pool: TaskPool, parameters: MakeGridParameters, unit: LengthUnit): RunWork {
  return async ({ job, signal, report }) => {
    const { method, cell, reach, surfaceId, otherId, gridId, otherGridId, cloudId } = parameters;
    const { classes, outlines, within, seam, laid } = parameters;
    const otherInput = method === 'grid-difference' ? otherGridId : otherId;
    const ofPoints = GRID_METHODS.find((known) => known === method);
    const { short } = lengthUnits[unit];
    report(0.05, 'Reading');
    let made;
    let inputName: string;
    if (method === 'difference') {
      const [surface, other] = [await readSurface(job.read, surfaceId!), await readSurface(job.read, otherId!)];
      inputName = `${surface.name} less ${other.name}`;
      const tin = await readProductBlob(job.read, surface.id, 'tin');
      const task = { tin, other: await readProductBlob(job.read, other.id, 'tin'), cell };
      made = await pool.run('gridOfDifference', task, signal);
    } else if (method === 'grid-difference') {
      const [grid, other] = [
        await readProduct(job.read, gridId!, 'grid'),
        await readProduct(job.read, otherGridId!, 'grid'),
      ];
      inputName = `${grid.name} less ${other.name}`;
      const task = {
        grid: await readProductBlob(job.read, grid.id, 'grid'),
        other: await readProductBlob(job.read, other.id, 'grid'),
      };
      made = await pool.run('gridOfGrids', task, signal);
    } else if (ofPoints === undefined) {
      const surface = await readSurface(job.read, surfaceId!);
      inputName = surface.name;
      made = await pool.run('gridOfSurface', { tin: await readProductBlob(job.read, surface.id, 'tin'), cell }, signal);
    } else {
      const facts = await readCloudFacts(job.read, cloudId!);
      inputName = facts.name;
      const nodes = await readNodeColumns(job.read, await listStoredNodes(job.read, cloudId!), { attributes: false });
      report(0.3, 'Summing up cells');
      const task = {
        nodes,
        quantisation: quantisationOf(facts),
        takes: classMask(classes),
        method: ofPoints,
        cell,
        reach: reach / cell,
        laid: await readTerrainLines(job.read, laid),
        ...(outlines !== undefined && {
          within: { outlines: await readTerrainLines(job.read, [outlines]), method: within, seam },
        }),
      };
      made = await pool.run('gridOfPoints', task, signal, handOver(nodes));
    }
    const { grid, facts } = made;
    report(0.95, 'Storing grid');
    const name = parameters.name ?? `${inputName}, ${ofPoints ?? 'grid'} ${Number(facts.cell.toPrecision(6))} ${short}`;
    return {
      outcome: gridSize(facts, unit),
      figures: gridFigures(facts),
      store: (models) =>
        storeProduct(models, {
          kind: 'grid',
          name,
          inputId: ofPoints !== undefined ? 0 : method === 'grid-difference' ? gridId! : surfaceId!,
          inputRevision: 0,
          operation: makeGrid.id,
          parameters,
          facts: {
            ...facts,
            isCount: ofPoints === 'count',
            isDifference: method === 'difference' || method === 'grid-difference',
            ...(otherInput !== undefined && { otherInputs: [otherInput] }),
          },
          blobs: { grid },
        }),
    };
  };
}

/** Cells along the longer side of a grid on the screen. */
const DISPLAY_CELLS = 1200;

/** A grid's bytes for the page; of a large one every n-th cell. */
export async function gridForDisplay(models: Models, gridId: number): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = await readShownPart(models, 'grid', gridId, 'grid');
  const { arrays, facts } = unpackArrays(bytes);
  const values = arrays['elevation'] as Float32Array;
  const { columns, rows, cell, ...place } = facts as unknown as GridFrame;
  const stride = Math.ceil(Math.max(columns, rows) / DISPLAY_CELLS);
  const [across, up] = [Math.ceil(columns / stride), Math.ceil(rows / stride)];
  const elevation = new Float32Array(across * up);
  for (let row = 0, at = 0; row < up; row++)
    for (let column = 0; column < across; column++, at++) {
      const [c, r] = [Math.floor((column + 0.5) * stride), Math.floor((row + 0.5) * stride)];
      elevation[at] = values[Math.min(rows - 1, r) * columns + Math.min(columns - 1, c)]!;
    }
  return packArrays({ elevation }, { ...place, cell: cell * stride, columns: across, rows: up });
}
