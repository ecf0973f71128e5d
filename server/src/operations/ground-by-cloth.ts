import type { GroundByClothParameters } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { mergeLowestRaster, newLowestRaster } from '@pampero/core/ground';
import { checkCancelled } from '@pampero/core/task';
import type { RunWork } from '../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { replaceMarks } from '../store/history-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { formatCount } from './format-figures.js';
import { mapWide, nodeGroups, readNodeColumns } from './node-groups.js';
import { frameOver, partFrame } from './raster-frames.js';

/** Noise, low and high, is never ground; neither is what a surveyor has marked as left out of ground. */
const NEVER_GROUND: readonly number[] = [7, 18, 20];
const LANES = 3;

/** Ground by cloth over the whole cloud: rasters of tiles in parallel, one cloth, then classes tile by tile. */
export function groundByClothWork(pool: TaskPool, parameters: GroundByClothParameters, unit: LengthUnit): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const facts = await readCloudFacts(job.read, parameters.cloudId);
    const quantisation = quantisationOf(facts);
    const takes = new Uint8Array(256).fill(1);
    for (const code of NEVER_GROUND) takes[code] = 0;
    const frame = frameOver(facts, parameters.clothCell);
    const groups = await nodeGroups(job.read, parameters.cloudId);

    const raster = newLowestRaster(frame);
    let done = 0;
    await mapWide(groups, LANES, async (nodes) => {
      checkCancelled(signal);
      const columns = await readNodeColumns(job.read, nodes, { attributes: false });
      const part = await pool.run(
        'lowestRaster',
        { nodes: columns, quantisation, frame: partFrame(frame, nodes, facts), takes },
        signal,
      );
      mergeLowestRaster(raster, part);
      report((0.25 * ++done) / groups.length, 'Gathering lowest points');
    });

    const { cloth, cellsEmptied } = await pool.runWatched(
      'settle',
      {
        raster,
        lowPointDrop: parameters.lowPointDrop,
        options: {
          landShape: parameters.landShape,
          iterations: parameters.iterations,
          followSteepSlopes: parameters.followSteepSlopes,
          steepestDegrees: parameters.steepestDegrees,
          metresPerUnit: metresPer(unit),
        },
      },
      signal,
      (share) => report(0.25 + 0.4 * (share as number), 'Laying the cloth'),
    );

    done = 0;
    const shared = new Float64Array(new SharedArrayBuffer(cloth.byteLength));
    shared.set(cloth);
    const results = await mapWide(groups, LANES, async (nodes) => {
      checkCancelled(signal);
      const result = await pool.run(
        'classify',
        {
          nodes: await readNodeColumns(job.read, nodes, { attributes: true }),
          quantisation,
          columns: facts.columns,
          attributeNames: facts.attributeNames,
          frame,
          cloth: shared,
          classDistance: parameters.classDistance,
          takes,
        },
        signal,
      );
      report(0.65 + (0.3 * ++done) / groups.length, 'Classing points');
      return result;
    });
    const sum = (of: 'toGround' | 'fromGround' | 'ground'): number =>
      results.reduce((total, result) => total + result[of], 0);
    const changes = results.flatMap((result) => result.changes);
    report(0.96, 'Storing classes');
    return {
      outcome: outcomeOf(sum('toGround'), sum('fromGround')),
      figures: [
        { label: 'Ground', value: sum('ground'), quantity: 'count' },
        { label: 'Share of all points', value: sum('ground') / facts.pointCount, quantity: 'share' },
        { label: 'To ground', value: sum('toGround'), quantity: 'count' },
        { label: 'Out of ground', value: sum('fromGround'), quantity: 'count' },
        { label: 'Cells with false low points', value: cellsEmptied, quantity: 'count' },
      ],
      store: async (models) => ({ effects: [await replaceMarks(models, historyId, parameters.cloudId, changes)] }),
    };
  };
}

function outcomeOf(toGround: number, fromGround: number): string {
  if (toGround === 0 && fromGround === 0) return 'Nothing changed: the ground was as it is now.';
  return [
    toGround > 0 && `${formatCount(toGround)} points to ground`,
    fromGround > 0 && `${formatCount(fromGround)} out of ground`,
  ]
    .filter(Boolean)
    .join(', ');
}
