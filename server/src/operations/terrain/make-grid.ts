import { makeGrid, type MakeGridParameters } from '@pampero/contract';
import { classMask } from '@pampero/core/cloud';
import { lengthUnits } from '@pampero/core/geodesy';
import { CELL_METHODS, GRID_METHODS, type CellMethod } from '@pampero/core/grids';
import { PamperoError } from '@pampero/core/task';
import { landGrid } from '../../passes/land-grid.js';
import { readClouds } from '../../passes/read-clouds.js';
import type { RunContext, RunWork } from '../../runs/run-service.js';
import { readProduct, readProductBlob, storeProduct } from '../../store/product-repository.js';
import { readCloudFacts } from '../../store/cloud-repository.js';
import type { Models } from '../../store/models.js';
import { nothingChosen, type GridFacts } from '../../tasks/grid-tasks.js';
import { readTerrainLines } from '../../store/terrain-lines.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { gridFigures, gridSize } from './grid-figures.js';

interface Made {
  readonly grid: Uint8Array;
  readonly facts: GridFacts;
}

/** An elevation grid from surfaces, from grids or from points. */
function work(parameters: MakeGridParameters, surroundings: Surroundings): RunWork {
  return async (context) => {
    const { unit, replaces } = surroundings;
    const { method } = parameters;
    context.report(0.05, 'Reading');
    const { name: of, made } = await make(parameters, surroundings, context);
    const { grid, facts } = made;
    context.report(0.95, 'Storing grid');
    const how = method === 'tin' || method.endsWith('difference') ? 'grid' : method;
    const name = parameters.name ?? `${of}, ${how} ${Number(facts.cell.toPrecision(6))} ${lengthUnits[unit].short}`;
    return {
      outcome: gridSize(facts, unit),
      figures: gridFigures(facts),
      store: (models) =>
        storeProduct(models, {
          kind: 'grid',
          name,
          operation: makeGrid.id,
          parameters,
          facts: {
            ...facts,
            isCount: method === 'count',
            isDifference: method === 'difference' || method === 'grid-difference',
          },
          blobs: { grid },
          replaces,
        }),
    };
  };
}

async function make(
  parameters: MakeGridParameters,
  { pool, job: { square } }: Surroundings,
  { job, signal, report }: RunContext,
): Promise<{ name: string; made: Made }> {
  const { method, cell } = parameters;
  const surface = async (id: number | undefined): Promise<{ name: string; tin: Buffer }> => ({
    name: (await readProduct(job.read, id!, 'surface')).name,
    tin: await readProductBlob(job.read, id!, 'tin'),
  });
  const grid = async (id: number | undefined): Promise<{ name: string; grid: Buffer }> => ({
    name: (await readProduct(job.read, id!, 'grid')).name,
    grid: await readProductBlob(job.read, id!, 'grid'),
  });
  switch (method) {
    case 'tin': {
      const { name, tin } = await surface(parameters.surfaceId);
      return { name, made: await pool.run('gridOfSurface', { tin, cell }, signal) };
    }
    case 'difference': {
      const [one, other] = [await surface(parameters.surfaceId), await surface(parameters.otherId)];
      const made = await pool.run('gridOfDifference', { tin: one.tin, other: other.tin, cell }, signal);
      return { name: `${one.name} minus ${other.name}`, made };
    }
    case 'grid-difference': {
      const [one, other] = [await grid(parameters.gridId), await grid(parameters.otherGridId)];
      const made = await pool.run('gridOfGrids', { grid: one.grid, other: other.grid }, signal);
      return { name: `${one.name} minus ${other.name}`, made };
    }
    default: {
      const known = GRID_METHODS.find((each) => each === method);
      if (!known) throw new PamperoError('bad-request', { what: `There is no cell value ${method}.` });
      const { outlines, insideMethod, classes } = parameters;
      const methods = [known, ...(outlines === undefined ? [] : [insideMethod])];
      // Figures of a cell's own points are gathered tile by tile; the others need the points about it.
      const isTiled = methods.every(isCellMethod);
      const onShare = (share: number): void => report(0.05 + 0.7 * share, 'Computing cells');
      const wanted = { cloudIds: parameters.clouds!, classes, cell, methods: methods.filter(isCellMethod) };
      const cells = isTiled ? await landGrid({ pool, job, signal }, wanted, onShare) : undefined;
      if (isTiled && !cells) throw nothingChosen();
      const read = isTiled ? { clouds: [], transfer: [] } : await readClouds(job.read, parameters.clouds!);
      const names = await namesOf(job.read, parameters.clouds!);
      report(isTiled ? 0.75 : 0.3, 'Computing cells');
      const task = {
        clouds: read.clouds,
        cells,
        classMask: classMask(classes),
        method: known,
        cell,
        fillCells: parameters.fillDistance / cell,
        burnLines: await readTerrainLines(job.read, parameters.burnLines),
        square: square?.land,
        ...(outlines !== undefined && {
          inside: {
            outlines: await readTerrainLines(job.read, [outlines]),
            method: insideMethod,
            blendWidth: parameters.blendWidth,
          },
        }),
      };
      return { name: names.join(', '), made: await pool.run('gridOfPoints', task, signal, read.transfer) };
    }
  }
}

const isCellMethod = (method: string): method is CellMethod => CELL_METHODS.some((each) => each === method);

async function namesOf(models: Models, cloudIds: readonly number[]): Promise<string[]> {
  return Promise.all([...new Set(cloudIds)].map(async (id) => (await readCloudFacts(models, id)).name));
}

export const operation = serverOperation(makeGrid, work);
