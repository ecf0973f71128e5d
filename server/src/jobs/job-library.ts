import { randomBytes } from 'node:crypto';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { Job, NewJob } from '@pampero/contract';
import { newJobSchema } from '@pampero/contract';
import { checkDefinition, lengthUnits } from '@pampero/core/geodesy';
import { crsByCode } from '../crs/crs-catalogue.js';
import type { Settings } from '../settings.js';
import { scratchFolder } from '../settings.js';
import { listUnfinishedClouds, removeCloud } from '../store/cloud-repository.js';
import { markInterrupted } from '../store/history-repository.js';
import { JobError, notFound } from '../errors/job-error.js';
import { checkJobFile, JobFile } from '../store/job-file.js';
import type { Models } from '../store/models.js';

const ENDING = '.pampero';

/** The facts a job keeps of itself, under "job" in its `meta` table. */
type JobFacts = Pick<Job, 'id' | 'name' | 'crs' | 'unit' | 'createdAt'>;

/** The folder of job files: opens each once and hands it to whoever asks. */
export class JobLibrary {
  private readonly open = new Map<string, Promise<JobFile>>();
  private readonly scratch: string;

  private constructor(private readonly settings: Settings) {
    this.scratch = scratchFolder(settings);
  }

  static async at(settings: Settings): Promise<JobLibrary> {
    const library = new JobLibrary(settings);
    // What is in the scratch folder belongs to requests of a server that is gone.
    await rm(library.scratch, { recursive: true, force: true });
    await mkdir(library.scratch, { recursive: true });
    return library;
  }

  /** A fresh path for a file that is being received or put together. */
  scratchPath(ending: string): string {
    return join(this.scratch, `${randomBytes(8).toString('hex')}${ending}`);
  }

  async list(): Promise<Job[]> {
    const names = (await readdir(this.settings.data)).filter((name) => name.endsWith(ENDING));
    const jobs = await Promise.all(
      names.map((name) =>
        this.describe(name.slice(0, -ENDING.length)).catch((error: unknown) => {
          if (error instanceof JobError) return undefined; // a stray or newer file must not hide the others
          throw error;
        }),
      ),
    );
    return jobs.filter((job) => job !== undefined).sort((a, b) => b.changedAt.localeCompare(a.changedAt));
  }

  async create(given: NewJob): Promise<Job> {
    const { name, epsg, definition, unit } = newJobSchema.parse(given);
    const own = definition === undefined || epsg !== undefined ? undefined : checkDefinition(definition);
    const entry = epsg === undefined ? undefined : crsByCode(epsg);
    const id = await this.freeId(name);
    const facts: JobFacts = {
      id,
      name,
      unit: entry?.unit ?? own?.unit ?? unit,
      crs: own
        ? { definition: own.definition, name: 'Own system', horizontalUnit: own.unit, verticalUnit: own.unit }
        : entry
          ? { epsg: entry.epsg, name: entry.name, horizontalUnit: entry.unit, verticalUnit: entry.unit }
          : { name: `Local, ${lengthUnits[unit].name}`, horizontalUnit: unit, verticalUnit: unit },
      createdAt: new Date().toISOString(),
    };
    // Made aside and moved into place whole: a kill in between leaves no half job.
    const path = this.scratchPath(ENDING);
    const file = await JobFile.open(path, { create: true });
    await file.write((models) => writeFacts(models, facts));
    await file.close();
    await rename(path, this.path(id));
    return this.describe(id);
  }

  /** The job's file, opened; what a stopped server left half-done is cleared away first. */
  file(id: string): Promise<JobFile> {
    let opening = this.open.get(id);
    if (!opening) {
      opening = this.openAndRecover(id);
      this.open.set(id, opening);
      opening.catch(() => this.open.delete(id));
    }
    return opening;
  }

  private async openAndRecover(id: string): Promise<JobFile> {
    if (!(await stat(this.path(id)).catch(() => undefined))) throw notFound('job', id);
    const file = await JobFile.open(this.path(id));
    const unfinished = await listUnfinishedClouds(file.read);
    await file.write(async (models) => {
      for (const cloud of unfinished) await removeCloud(models, cloud.id);
      await markInterrupted(models);
    });
    if (unfinished.length > 0) await file.giveBackSpace();
    return file;
  }

  async describe(id: string): Promise<Job> {
    const file = await this.file(id);
    const facts = await readFacts(file.read, id);
    const { size, mtime } = await stat(file.path);
    const wal = await stat(`${file.path}-wal`).catch(() => undefined);
    const [totals] = await file.read.clouds.sequelize!.query(
      "SELECT COUNT(*) AS clouds, COALESCE(SUM(pointCount), 0) AS points FROM clouds WHERE state = 'ready' AND isActive = 1",
    );
    const { clouds, points } = (totals as { clouds: number; points: number }[])[0]!;
    const changed = wal && wal.size > 0 && wal.mtime > mtime ? wal.mtime : mtime;
    return {
      ...facts,
      changedAt: changed.toISOString(),
      fileBytes: size + (wal?.size ?? 0),
      cloudCount: clouds,
      pointCount: points,
    };
  }

  async remove(id: string): Promise<void> {
    const file = await this.file(id);
    await file.close();
    this.open.delete(id);
    for (const ending of ['', '-wal', '-shm']) await rm(this.path(id) + ending, { force: true });
  }

  /** Writes the job as one file and returns where; the caller removes it after sending. */
  async copyForDownload(id: string): Promise<{ path: string; fileName: string }> {
    const file = await this.file(id);
    const path = this.scratchPath(ENDING);
    await file.copyTo(path);
    return { path, fileName: `${id}${ENDING}` };
  }

  /** Makes a received file a job of this library. */
  async restore(received: string): Promise<Job> {
    try {
      await checkJobFile(received);
    } catch (error) {
      for (const ending of ['', '-wal', '-shm']) await rm(received + ending, { force: true });
      throw error;
    }
    const file = await JobFile.open(received);
    const facts = await readFacts(file.read, 'in the file');
    const isTaken = (await stat(this.path(facts.id)).catch(() => undefined)) !== undefined;
    const id = isTaken ? await this.freeId(facts.name) : facts.id;
    if (isTaken) await file.write((models) => writeFacts(models, { ...facts, id, name: `${facts.name} (restored)` }));
    await file.close();
    await rename(received, this.path(id));
    return this.describe(id);
  }

  async close(): Promise<void> {
    for (const opening of this.open.values()) await (await opening.catch(() => undefined))?.close();
    this.open.clear();
  }

  private path(id: string): string {
    return join(this.settings.data, id + ENDING);
  }

  private async freeId(name: string): Promise<string> {
    const words =
      name
        .normalize('NFD')
        .replace(/\p{M}/gu, '')
        .toLowerCase()
        .replace(/[^a-z0-9]+/g, '-')
        .replace(/^-+|-+$/g, '')
        .slice(0, 60) || 'job';
    for (;;) {
      const id = `${words}-${randomBytes(2).toString('hex')}`;
      if (!(await stat(this.path(id)).catch(() => undefined))) return id;
    }
  }
}

async function writeFacts(models: Models, facts: JobFacts): Promise<void> {
  await models.meta.upsert({ key: 'job', value: JSON.stringify(facts) });
}

async function readFacts(models: Models, id: string): Promise<JobFacts> {
  const row = (await models.meta.findByPk('job', { raw: true })) as unknown as { value: string } | null;
  if (!row) throw notFound('job', id);
  return JSON.parse(row.value) as JobFacts;
}
