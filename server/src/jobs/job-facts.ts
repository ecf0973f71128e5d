import { stat } from 'node:fs/promises';
import { jobSchema, type Job } from '@pampero/contract';
import { jobDamaged, notFound } from '../errors/job-error.js';
import type { Models } from '../store/models.js';

/** The facts a job keeps of itself, under "job" in its `meta` table. */
const jobFactsSchema = jobSchema.pick({ id: true, name: true, crs: true, unit: true, createdAt: true, square: true });
export type JobFacts = Pick<Job, 'id' | 'name' | 'crs' | 'unit' | 'createdAt' | 'square'>;

/** What the facts of a job are kept under in `meta`. */
export const JOB_KEY = 'job';

/** As they are kept. */
export function writtenFacts({ id, name, crs, unit, createdAt, square }: JobFacts): string {
  return JSON.stringify({ id, name, crs, unit, createdAt, square });
}

export async function writeJobFacts(models: Models, facts: JobFacts): Promise<void> {
  await models.meta.upsert({ key: JOB_KEY, value: writtenFacts(facts) });
}

export async function readJobFacts(models: Models, id: string): Promise<JobFacts> {
  const row = (await models.meta.findByPk(JOB_KEY, { raw: true })) as unknown as { value: string } | null;
  if (!row) throw notFound('job', id);
  try {
    const { id: own, ...rest } = JSON.parse(row.value) as Record<string, unknown>;
    // A job goes by its file's name, whatever id it says it has.
    return { ...jobFactsSchema.omit({ id: true }).parse(rest), id: typeof own === 'string' ? own : '' };
  } catch {
    throw jobDamaged('What the job file says of its job cannot be read.');
  }
}

/** A job as its file tells it. */
export async function tellJob(path: string, id: string, models: Models): Promise<Job> {
  const facts = await readJobFacts(models, id);
  const { size, mtime } = await stat(path);
  const wal = await stat(`${path}-wal`).catch(() => undefined);
  const [totals] = await models.clouds.sequelize!.query(
    "SELECT COUNT(*) AS clouds, COALESCE(SUM(pointCount), 0) AS points FROM clouds WHERE state = 'ready' AND isActive = 1",
  );
  const { clouds, points } = (totals as { clouds: number; points: number }[])[0]!;
  const changed = wal && wal.size > 0 && wal.mtime > mtime ? wal.mtime : mtime;
  return {
    ...facts,
    id,
    changedAt: changed.toISOString(),
    fileBytes: size + (wal?.size ?? 0),
    cloudCount: clouds,
    pointCount: points,
  };
}
