import { fetchBoundaries, type FetchBoundariesParameters } from '@pampero/contract';
import { sourceNumber, type LineShape } from '@pampero/core/lines';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted } from '@pampero/core/wording';
import { planeSystemOf } from '../../crs/plane-system.js';
import { chosenCollection, readCollections, readFeatures } from '../../feature-service/read-features.js';
import type { RunWork } from '../../runs/run-service.js';
import { boundsAround } from '@pampero/core/cloud';
import { listClouds } from '../../store/cloud-repository.js';
import { readLines } from '../../store/line-repository.js';
import { listProducts } from '../../store/product-repository.js';
import { serverOperation, type Surroundings } from '../server-operation.js';
import { lineFigures } from './line-figures.js';
import { sortMadeLines, storeMadeLines } from './made-lines.js';

function work(parameters: FetchBoundariesParameters, { job: { crs }, outside }: Surroundings): RunWork {
  return async ({ job, historyId, signal, report }) => {
    const { address, margin, code } = parameters;
    const system = planeSystemOf(crs);
    if (!system)
      throw new PamperoError('crs-unknown', {
        what: 'The job has no coordinate system, so the service cannot be told where it lies.',
        fix: 'Set the coordinate system of the job.',
      });
    const clouds = await listClouds(job.read);
    if (clouds.length === 0)
      throw new PamperoError('no-points', {
        what: 'There is no cloud, so nothing says which land is meant.',
        fix: 'Import a cloud first.',
      });
    const { min, max } = boundsAround(clouds.map(({ bounds }) => bounds));
    const bounds = { west: min[0] - margin, south: min[1] - margin, east: max[0] + margin, north: max[1] + margin };
    report(0.02, 'Asking the service');
    const collection = chosenCollection(
      address,
      await readCollections(outside, address, signal),
      parameters.collection,
    );
    const read = await readFeatures(outside, address, collection, { bounds, system }, signal, (features, ofThem) =>
      report(ofThem ? 0.1 + 0.8 * Math.min(1, features / ofThem) : 0.5, `Fetching, ${formatCount(features)} so far`),
    );
    if (read.length === 0)
      throw new PamperoError('no-lines', {
        what: `${collection.title} has no boundaries there.`,
        fix: 'Check the coordinate system of the job, or choose another collection.',
      });
    const made = await sortMadeLines(job.read, {
      lines: read.map((line) => ({ code, shape: shapeOf(line) })),
      remove: await fetchedBefore(),
      roleOfNew: 'plain',
    });
    return {
      outcome: `${formatCounted(read.length, 'boundary', 'boundaries')} of ${collection.title} as ${code}`,
      figures: lineFigures(made.shapes),
      store: (models) => storeMadeLines(models, historyId, fetchBoundaries.id, made),
    };

    /** Lines of the code that came from a service and were not changed since: what was drawn by hand stays. */
    async function fetchedBefore(): Promise<number[]> {
      const own = (await listProducts(job.read)).find(
        (product) => product.kind === 'lines' && product.facts.code === code,
      );
      if (!own) return [];
      const fetched = sourceNumber('service');
      return (await readLines(job.read, own.id)).flatMap(({ key, source }) =>
        source.every((from) => from === fetched) ? [key] : [],
      );
    }
  };
}

function shapeOf({
  easting,
  northing,
  elevation,
  isClosed,
}: {
  readonly easting: readonly number[];
  readonly northing: readonly number[];
  readonly elevation: readonly number[];
  readonly isClosed: boolean;
}): LineShape {
  return {
    easting: Float64Array.from(easting),
    northing: Float64Array.from(northing),
    elevation: Float64Array.from(elevation),
    source: new Uint8Array(easting.length).fill(sourceNumber('service')),
    isClosed,
  };
}

export const operation = serverOperation(fetchBoundaries, work);
