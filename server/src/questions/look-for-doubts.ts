import type { GroundDoubtResource } from '@pampero/contract';
import { classMask, GROUND } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { doubtLimits, groundDoubts } from '@pampero/core/ground';
import type { GroundSums } from '@pampero/core/objects';
import { PamperoError } from '@pampero/core/task';
import { never } from '../passes/cloud-pass.js';
import { averageSpacing } from '../passes/cloud-spacing.js';
import type { JobFile } from '../store/job-file.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { sumClasses } from '../passes/class-sums.js';
import { nodeGroups } from '../passes/node-groups.js';
import { frameOver } from '../passes/raster-frames.js';

const CELL_METRES = 1;
/** Above so many cells a larger cell is taken: the search is over the whole land at once. */
const MOST_CELLS = 8_000_000;
const SETTLED: readonly number[] = [6, 9];
const NOISE: readonly number[] = [7, 18];

/** Places where the ground of a cloud is most likely wrong, the most doubtful first. */
export async function lookForDoubts(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
): Promise<GroundDoubtResource[]> {
  const facts = await readCloudFacts(job.read, cloudId);
  const quantisation = quantisationOf(facts);
  const metre = 1 / metresPer(unit);
  const spacing = averageSpacing(facts);
  const area = spacing ** 2 * facts.pointCount;
  const cell = Math.max(CELL_METRES * metre, 2 * spacing, Math.sqrt(area / MOST_CELLS));
  const frame = frameOver(facts, Number(cell.toPrecision(2)));
  const masks = [classMask([GROUND]), classMask(SETTLED), classMask(NOISE).map((isNoise) => 1 - isNoise)];
  const groups = await nodeGroups(job.read, cloudId);
  const [ground, settled, all] = (await sumClasses({ pool, job, signal: never }, facts, groups, frame, masks)) as [
    GroundSums,
    GroundSums,
    GroundSums,
  ];
  const elevation = Float64Array.from(ground.count, (n, i) =>
    n === 0 ? NaN : (ground.sum[i]! / n) * quantisation.scale[2] + quantisation.offset[2],
  );
  if (ground.count.every((n) => n === 0))
    throw new PamperoError('no-ground', {
      what: `The cloud ${facts.name} has no ground points yet.`,
      mend: 'Find its ground first.',
    });
  const limits = {
    spike: doubtLimits.spike * metre,
    hole: Math.max(doubtLimits.hole * metre, 4 * frame.cell),
    roof: doubtLimits.roof * metre,
    step: doubtLimits.step * metre,
    share: doubtLimits.share,
  };
  const grid = { ...frame, ground: ground.count, elevation, settled: settled.count, all: all.count };
  return groundDoubts(grid, limits).map((doubt) => ({
    ...doubt,
    outline: doubt.outline.map(([e, n]) => [e, n] as [number, number]),
    key: `${doubt.kind} ${doubt.easting.toFixed(1)} ${doubt.northing.toFixed(1)}`,
  }));
}
