import { columnFrom } from '@pampero/core/columns';
import type { SuspectAreaResource } from '@pampero/contract';
import { classMask, GROUND, NOISE_CLASSES } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { suspectLimits } from '@pampero/core/ground';
import type { GroundSums } from '@pampero/core/objects';
import { PamperoError } from '@pampero/core/task';
import { never } from '../passes/cloud-pass.js';
import { averageSpacing } from '../passes/cloud-spacing.js';
import type { JobFile } from '../store/job-file.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';
import { sumClasses } from '../passes/class-sums.js';
import { nodeGroups } from '../passes/node-groups.js';
import { memoryOf } from '../shared-memory.js';
import { frameOver } from '../passes/raster-frames.js';

const CELL_METRES = 1;
/** Above so many cells a larger cell is taken: the search is over the whole land at once. */
const MOST_CELLS = 8_000_000;
const SETTLED: readonly number[] = [6, 9];

/** Areas where the ground of a cloud is most likely wrong, the worst first. */
export async function listSuspectAreas(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
): Promise<SuspectAreaResource[]> {
  const facts = await readCloudFacts(job.read, cloudId);
  const quantisation = quantisationOf(facts);
  const metre = 1 / metresPer(unit);
  const spacing = averageSpacing(facts);
  const area = spacing ** 2 * facts.pointCount;
  const cell = Math.max(CELL_METRES * metre, 2 * spacing, Math.sqrt(area / MOST_CELLS));
  const frame = frameOver(facts, Number(cell.toPrecision(2)));
  const masks = [classMask([GROUND]), classMask(SETTLED), classMask(NOISE_CLASSES).map((isNoise) => 1 - isNoise)];
  const groups = await nodeGroups(job.read, cloudId);
  const [ground, settled, all] = (await sumClasses({ pool, job, signal: never }, facts, groups, frame, masks)) as [
    GroundSums,
    GroundSums,
    GroundSums,
  ];
  const elevation = columnFrom(Float64Array, ground.count, (n, i) =>
    n === 0 ? NaN : (ground.sum[i]! / n) * quantisation.scale[2] + quantisation.offset[2],
  );
  if (ground.count.every((n) => n === 0))
    throw new PamperoError('no-ground', {
      what: `The cloud ${facts.name} has no ground points yet.`,
      fix: 'Find its ground first.',
    });
  const limits = {
    spike: suspectLimits.spike * metre,
    hole: Math.max(suspectLimits.hole * metre, 4 * frame.cell),
    roof: suspectLimits.roof * metre,
    step: suspectLimits.step * metre,
    share: suspectLimits.share,
  };
  const grid = { ...frame, ground: ground.count, elevation, settled: settled.count, all: all.count };
  const areas = await pool.run('suspectAreas', { grid, limits }, never, memoryOf(grid));
  return areas.map((area) => ({
    ...area,
    outline: area.outline.map(([e, n]) => [e, n] as [number, number]),
    key: `${area.kind} ${area.easting.toFixed(1)} ${area.northing.toFixed(1)}`,
  }));
}
