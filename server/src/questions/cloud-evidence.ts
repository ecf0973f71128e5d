import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import type { CloudReport } from '@pampero/contract';
import type { GroundEvidence, PointEvidence } from '@pampero/core/ground';
import { never } from '../passes/cloud-pass.js';
import { evenSample, readNodeColumns } from '../passes/node-groups.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { quantisationOf, readCloudFacts, readCloudReport } from '../store/cloud-repository.js';
import { listStoredNodes } from '../store/node-repository.js';
import type { JobFile } from '../store/job-file.js';
import type { Models } from '../store/models.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Points looked at: an even sample for slopes, pieces in full for the noise. */
const EVEN_POINTS = 300_000;
const DENSE_NODES = 24;

/** Distance between last returns if they lay evenly, job units. */
function lastReturnSpacing({ returns, density }: CloudReport): number {
  return Math.sqrt(density.area / Math.max(1, returns.single + returns.last));
}

/** Slopes, noise and how strips agree, from a quick look at some points of a cloud; metric. */
export async function pointEvidenceOf(
  pool: TaskPool,
  models: Models,
  cloudId: number,
  facts: CloudFacts,
  told: CloudReport,
  unit: LengthUnit,
): Promise<PointEvidence> {
  const nodes = await listStoredNodes(models, cloudId);
  const even = evenSample(nodes, EVEN_POINTS);
  const deepest = nodes.filter(({ count }) => count > 200).slice(-Math.ceil(nodes.length * 0.7));
  // From here and there along the order in which the nodes lie.
  const dense = Array.from(
    { length: Math.min(DENSE_NODES, deepest.length) },
    (_, k) => deepest[Math.floor(((k + 0.5) * deepest.length) / Math.min(DENSE_NODES, deepest.length))]!,
  );
  const metresPerUnit = metresPer(unit);
  const { steepSlope, noise, stripDisagreement } = await pool.run(
    'groundEvidence',
    {
      even: await readNodeColumns(models, even, { attributes: true }),
      dense: await readNodeColumns(models, dense, { attributes: true }),
      quantisation: quantisationOf(facts),
      columns: facts.columns,
      attributeNames: facts.attributeNames,
      metresPerUnit,
      spacing: lastReturnSpacing(told),
    },
    never,
  );
  const metric = (value: number | undefined): number | undefined =>
    value === undefined ? undefined : value * metresPerUnit;
  return { steepSlope, noise: metric(noise), stripDisagreement: metric(stripDisagreement) };
}

type CloudEvidence = GroundEvidence & { /** All returns to a square metre. */ readonly density: number };

/** What was looked at already, a job; several operations ask of the same cloud at once, and classes have no say in it. */
const known = new WeakMap<JobFile, Map<string, Promise<CloudEvidence>>>();

/** What a cloud tells of itself where its points lie now, from its report and a quick look at some of its points; metric. */
export async function cloudEvidence(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  unit: LengthUnit,
): Promise<CloudEvidence> {
  const facts = await readCloudFacts(job.read, cloudId);
  const ofJob = known.get(job) ?? new Map<string, Promise<CloudEvidence>>();
  known.set(job, ofJob);
  const key = `${cloudId}/${facts.positionsId}`;
  const asked = ofJob.get(key) ?? lookAt(pool, job, cloudId, facts, unit);
  ofJob.set(key, asked);
  asked.catch(() => ofJob.delete(key));
  return asked;
}

async function lookAt(
  pool: TaskPool,
  job: JobFile,
  cloudId: number,
  facts: Awaited<ReturnType<typeof readCloudFacts>>,
  unit: LengthUnit,
): Promise<CloudEvidence> {
  const told = await readCloudReport(job.read, cloudId);
  const { returns, density } = told;
  const metresPerUnit = metresPer(unit);
  return {
    ...(await pointEvidenceOf(pool, job.read, cloudId, facts, told, unit)),
    spacing: lastReturnSpacing(told) * metresPerUnit,
    density: facts.pointCount / (density.area * metresPerUnit ** 2),
    manyReturns: returns.last / Math.max(1, returns.single + returns.last),
    hasColour: facts.columns.rgb,
  };
}
