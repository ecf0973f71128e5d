import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import type { GroundEvidence } from '@pampero/core/ground';
import { never } from '../passes/cloud-pass.js';
import { readNodeColumns } from '../passes/node-groups.js';
import { listStoredNodes, quantisationOf, readCloudFacts, readCloudReport } from '../store/cloud-repository.js';
import type { JobFile } from '../store/job-file.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Points looked at: an even sample for slopes, pieces in full for the noise. */
const EVEN_POINTS = 300_000;
const DENSE_NODES = 24;

/** What a cloud tells of itself, from its report and a quick look at some of its points; metric. */
export async function cloudEvidence(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
): Promise<GroundEvidence & { /** All returns to a square metre. */ readonly density: number }> {
  const facts = await readCloudFacts(job.read, cloudId);
  const { returns, density } = await readCloudReport(job.read, cloudId);
  const nodes = await listStoredNodes(job.read, cloudId);
  const last = returns.single + returns.last;
  const spacing = Math.sqrt(density.area / Math.max(1, last));
  let points = 0;
  const byLevel = [...nodes].sort((a, b) => a.level - b.level);
  const even = byLevel.filter(({ count }) => points < EVEN_POINTS && (points += count) > 0);
  const deepest = byLevel.filter(({ count }) => count > 200).slice(-Math.ceil(byLevel.length * 0.7));
  // From here and there along the order in which the nodes lie.
  const dense = Array.from(
    { length: Math.min(DENSE_NODES, deepest.length) },
    (_, k) => deepest[Math.floor(((k + 0.5) * deepest.length) / Math.min(DENSE_NODES, deepest.length))]!,
  );
  const metresPerUnit = metresPer(unit);
  const { steepSlope, noise, stripDisagreement } = await pool.run(
    'groundEvidence',
    {
      even: await readNodeColumns(job.read, even, { attributes: true }),
      dense: await readNodeColumns(job.read, dense, { attributes: true }),
      quantisation: quantisationOf(facts),
      columns: facts.columns,
      attributeNames: facts.attributeNames,
      metresPerUnit,
      spacing,
    },
    never,
  );
  return {
    spacing: spacing * metresPerUnit,
    density: facts.pointCount / (density.area * metresPerUnit ** 2),
    steepSlope,
    manyReturns: returns.last / Math.max(1, last),
    hasColour: facts.columns.rgb,
    noise: noise === undefined ? undefined : noise * metresPerUnit,
    stripDisagreement: stripDisagreement === undefined ? undefined : stripDisagreement * metresPerUnit,
  };
}
