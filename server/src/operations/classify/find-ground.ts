import { findGround, type FindGroundParameters } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import {
  bandOf,
  CROWD_METRES,
  greennessLimit,
  mergeLowestRaster,
  mergeNearSums,
  newGreennessHistogram,
  newLowestRaster,
  newNearSums,
  proposeGround,
  type GroundPlanes,
  type NearSums,
} from '@pampero/core/ground';
import type { RasterFrame } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { memoryOf, shared } from '../../shared-memory.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import { WAITING } from '../../tasks/memory-of-tasks.js';
import type { DoubtRule } from '../../tasks/ground-nodes.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { formatCount } from '@pampero/core/wording';
import { overGroups, type CloudPass } from '../../passes/cloud-pass.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { proposedFor } from '../proposed-for.js';
import { serverOperation, type ServerOperation } from '../server-operation.js';
import { nodeGroups } from '../../passes/node-groups.js';
import { frameOver, partFrame } from '../../passes/raster-frames.js';

/** Noise, low and high, is never ground; nor are water and decks that were found, nor what was marked as left out of ground. */
const NEVER_GROUND: readonly number[] = [7, 9, 17, 18, 20];

/** Ground of a whole cloud: rasters of tiles in parallel, one surface, a second look tile by tile, then classes. */
function findGroundOf(pool: TaskPool, parameters: OnCloud<FindGroundParameters>, unit: LengthUnit): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const facts = await readCloudFacts(job.read, parameters.cloudId);
    const quantisation = quantisationOf(facts);
    const takes = groundTakes();
    const frame = frameOver(facts, parameters.cell);
    const groups = await nodeGroups(job.read, parameters.cloudId);
    const pass: CloudPass = { pool, job, signal };
    const over = <R>(
      attributes: boolean,
      [from, to]: readonly [number, number],
      step: string,
      work: Parameters<typeof overGroups<R>>[3],
    ): Promise<R[]> =>
      overGroups(pass, groups, { attributes, onShare: (share) => report(from + (to - from) * share, step) }, work);

    let doubt: DoubtRule | undefined;
    let greenLimit: number | undefined;
    if (parameters.trustGreenLess) {
      if (!facts.columns.rgb)
        throw new PamperoError('no-colours', {
          what: `The cloud ${facts.name} has no colours, so no point in it is green.`,
          fix: 'Turn off "Trust green points less".',
        });
      const { columns, attributeNames } = facts;
      const parts = await over(true, [0, 0.1], 'Looking at colours', (nodes, _, transfer) =>
        pool.run('greenness', { nodes, columns, attributeNames }, signal, transfer),
      );
      const histogram = newGreennessHistogram();
      for (const part of parts) part.forEach((n, bin) => (histogram[bin]! += n));
      greenLimit = greennessLimit(histogram)?.limit;
    }
    const least = parameters.minimumConfidence;
    if (least > 0 && !facts.confidence)
      throw new PamperoError('no-confidence', {
        what: `The cloud ${facts.name} has no confidence values.`,
        fix: 'Leave "Minimum confidence" at 0.',
      });
    const confidence = least > 0 && facts.confidence ? { dimension: facts.confidence, least } : undefined;
    if (greenLimit !== undefined || confidence)
      doubt = { columns: facts.columns, attributeNames: facts.attributeNames, greenLimit, confidence };

    const raster = newLowestRaster(frame);
    await over(doubt !== undefined, [0.1, 0.25], 'Gathering lowest points', async (nodes, group, transfer) =>
      mergeLowestRaster(
        raster,
        await pool.run(
          'lowestRaster',
          { nodes, quantisation, frame: partFrame(frame, group, facts), takes, doubt },
          signal,
          transfer,
        ),
      ),
    );

    const step = parameters.method === 'tin' ? 'Densifying the TIN' : 'Laying the cloth';
    const settling = { settings: parameters, metresPerUnit: metresPer(unit) };
    const task = { raster, ...settling };
    if (pool.mustWait('settle', task)) report(0.25, WAITING);
    const first = await pool.runWatched(
      'settle',
      task,
      signal,
      (share) => report(0.25 + 0.15 * (share as number), step),
      memoryOf(raster),
    );
    const shape = { quantisation, takes, doubt, columns: facts.columns, attributeNames: facts.attributeNames };
    /** What is seen near a surface. */
    const near = async (
      surface: RasterFrame & { readonly heights: Float64Array },
      shares: readonly [number, number],
      told: string,
    ): Promise<NearSums> => {
      const sums = newNearSums(frame);
      const [band, crowd] = [bandOf(parameters), CROWD_METRES / metresPer(unit)];
      await over(true, shares, told, async (nodes, group, transfer) => {
        const task = { ...shape, surface, nodes, frame: partFrame(frame, group, facts), band, crowd };
        mergeNearSums(sums, await pool.run('nearSums', task, signal, transfer));
      });
      return sums;
    };

    let heights = first.heights;
    let cellsRefused = 0;
    let planes: GroundPlanes | undefined;
    if (parameters.refine) {
      const seen = await near({ ...frame, heights: shared(heights) }, [0.4, 0.5], 'Looking again');
      const onceMore = { raster: first.raster, heights, near: seen, quantisation, ...settling };
      if (pool.mustWait('settleAgain', onceMore)) report(0.5, WAITING);
      const again = await pool.runWatched(
        'settleAgain',
        onceMore,
        signal,
        (share) => report(0.5 + 0.15 * (share as number), step),
        [...memoryOf(first.raster), ...memoryOf({ heights }), ...memoryOf(seen)],
      );
      ({ heights, cellsRefused } = again);
    }
    const surface = { ...frame, heights: shared(heights) };
    if (parameters.refine) {
      const sums = await near(surface, [0.65, 0.75], 'Fitting local planes');
      const fitted = await pool.run('fitPlanes', { sums, quantisation }, signal, memoryOf(sums));
      planes = {
        ...fitted,
        height: shared(fitted.height),
        eastSlope: shared(fitted.eastSlope),
        northSlope: shared(fitted.northSlope),
        crowd: shared(fitted.crowd),
        ownCrowd: shared(fitted.ownCrowd),
      };
    }

    const { tolerance, tallestStep } = parameters;
    const results = await over(true, [0.75, 0.95], 'Classing points', (nodes, _, transfer) =>
      pool.run('classify', { ...shape, surface, nodes, planes, tolerance, tallestStep }, signal, transfer),
    );
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
        { label: 'Cells with false low points', value: first.cellsEmptied, quantity: 'count' },
        { label: 'Cells refused as overgrown or standing out', value: cellsRefused, quantity: 'count' },
        ...(parameters.trustGreenLess
          ? [
              {
                label: 'Green from',
                value: greenLimit === undefined ? 'colours do not part' : `excess green ${greenLimit.toFixed(2)}`,
                quantity: 'text' as const,
              },
            ]
          : []),
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, parameters.cloudId, changes)],
      }),
    };
  };
}

/** Classes that may become ground or lose it. */
export function groundTakes(): Uint8Array {
  const takes = new Uint8Array(256).fill(1);
  for (const code of NEVER_GROUND) takes[code] = 0;
  return takes;
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

export const operation: ServerOperation = {
  ...serverOperation(findGround, (parameters, { pool, unit }) =>
    onEachCloud(parameters, (own) => findGroundOf(pool, own, unit)),
  ),
  propose: proposedFor(proposeGround),
};
