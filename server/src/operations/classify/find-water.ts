import { findWater, type FindWaterParameters } from '@pampero/contract';
import { classMask, GROUND } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { waterLevels, type GroundSums } from '@pampero/core/objects';
import { PamperoError } from '@pampero/core/task';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { replaceMarks } from '../../store/kept-marks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import { classAtLevels } from '../../passes/class-at-levels.js';
import { sumClasses } from '../../passes/class-sums.js';
import { formatCount } from '@pampero/core/wording';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { onEachCloud, type OnCloud } from '../../passes/each-cloud.js';
import { serverOperation } from '../server-operation.js';
import { nodeGroups } from '../../passes/node-groups.js';
import { frameOver } from '../../passes/raster-frames.js';

const WATER = 9;
/** What may turn out to be water; what a surveyor has said of roads, roofs and noise stays. */
const ASKED: readonly number[] = [0, 1, GROUND, 3];
/** Loss of beams shows in cells of about so many points. */
const POINTS_A_CELL = 5;

/** Water from where beams are lost, grown along its level to the banks. */
function findWaterIn(pool: TaskPool, parameters: OnCloud<FindWaterParameters>, unit: LengthUnit): RunWork {
  return async ({ job, signal, historyId, report }) => {
    const { cloudId, tolerance } = parameters;
    const facts = await readCloudFacts(job.read, cloudId);
    const quantisation = quantisationOf(facts);
    const spacing = averageSpacing(facts);
    const metre = 1 / metresPer(unit);
    const cell = Number(Math.max(metre, spacing * Math.sqrt(POINTS_A_CELL)).toPrecision(2));
    const frame = frameOver(facts, cell);
    const groups = await nodeGroups(job.read, cloudId);
    // Water found before is sought anew.
    const masks = [new Uint8Array(256).fill(1), classMask([GROUND, WATER])];
    const [all, ground] = (await sumClasses({ pool, job, signal }, facts, groups, frame, masks, (share) =>
      report(0.5 * share, 'Looking where beams are lost'),
    )) as [GroundSums, GroundSums];
    if (!ground.count.some((n) => n > 0))
      throw new PamperoError('no-ground', {
        what: `The cloud ${facts.name} has no ground points. Water is found from the banks around it.`,
        fix: 'Find its ground first.',
      });
    const water = waterLevels(
      all,
      ground,
      { scale: quantisation.scale[2], offset: quantisation.offset[2] },
      { metre, leastArea: parameters.smallest ** 2, tolerance },
    );
    // Half as much upwards: what rises from the water is its bank.
    const near = { takes: classMask(ASKED), above: tolerance / 2, below: tolerance, code: WATER };
    const { changes, gained } = await classAtLevels({ pool, job, signal }, facts, groups, water, near, (share) =>
      report(0.5 + 0.45 * share, 'Classing points'),
    );
    const count = gained[WATER] ?? 0;
    const cells = water.level.reduce((sum, v) => sum + (Number.isNaN(v) ? 0 : 1), 0);
    const area = Math.round(cells * cell * cell);
    return {
      outcome:
        cells === 0
          ? 'No water was found. Water that returns every beam has to be outlined by hand.'
          : `${formatCount(count)} points to water, ${formatCount(area)} square ${unit === 'metre' ? 'metres' : 'feet'} of it`,
      figures: [
        { label: 'To 9 Water', value: count, quantity: 'count' },
        { label: 'Area', value: area, quantity: 'area' },
      ],
      store: async (models) => ({
        effects: changes.length === 0 ? [] : [await replaceMarks(models, historyId, cloudId, changes)],
      }),
    };
  };
}

export const operation = serverOperation(findWater, (parameters, { pool, unit }) =>
  onEachCloud(parameters, (own) => findWaterIn(pool, own, unit)),
);
