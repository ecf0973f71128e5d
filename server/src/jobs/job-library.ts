import { randomBytes } from 'node:crypto';
import { mkdir, rename, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { Job, NewJob, UnreadableJob } from '@pampero/contract';
import { jobIdSchema, newJobSchema } from '@pampero/contract';
import { checkDefinition, lengthUnits } from '@pampero/core/geodesy';
import { crsByCode, crsOfEntry } from '../crs/crs-catalogue.js';
import type { Settings } from '../settings.js';
import { asideFolder, scratchFolder } from '../settings.js';
import { listUnfinishedClouds, removeCloud } from '../store/cloud-repository.js';
import { listUnfinishedColours, removeColourSet } from '../store/colour-repository.js';
import { listUnfinishedSets, removePositionSet } from '../store/position-repository.js';
import { markInterrupted } from '../store/history-repository.js';
import { JobError, notFound } from '../errors/job-error.js';
import { checkRoom } from '../errors/disk-room.js';
import { jobFileError } from '../errors/sqlite-error.js';
import { checkJobFile, JobFile } from '../store/job-file.js';
import { JOB_ENDING, JOB_PARTS, jobPath, wordsOfId } from './job-paths.js';
import { JobLooks, NOT_LISTED } from './job-looks.js';
import { readJobFacts, tellJob, writeJobFacts, type JobFacts } from './job-facts.js';

/** A job that nobody asked for is closed after so long, and sooner where many are open. */
const [IDLE_MS, SOON_MS, MANY_OPEN] = [120_000, 3_000, 24];
const SWEEP_MS = 5_000;

/** The folder of job files: opens each once and hands it to whoever asks. */
export class JobLibrary {
  private readonly open = new Map<string, Promise<JobFile>>();
  private readonly scratch: string;
  private readonly looks: JobLooks;
  private readonly sweeping: NodeJS.Timeout;

  private constructor(private readonly settings: Settings) {
    this.scratch = scratchFolder(settings);
    this.looks = new JobLooks(settings.data, (id) => (this.open.has(id) ? this.describe(id) : undefined));
    this.sweeping = setInterval(() => void this.closeIdle(), SWEEP_MS);
    this.sweeping.unref();
  }

  static async at(settings: Settings): Promise<JobLibrary> {
    const library = new JobLibrary(settings);
    // What is in the scratch folder belongs to requests of a server that is gone.
    await rm(library.scratch, { recursive: true, force: true });
    await mkdir(library.scratch, { recursive: true });
    return library;
  }

  /** Where the jobs and everything on its way in or out are kept. */
  get folder(): string {
    return this.settings.data;
  }

  /** Where the edges of those squares of a large site are that have no job here. */
  get edges(): string {
    return this.settings.edges ?? join(this.settings.data, 'edges');
  }

  /** A fresh path for a file that is being received or put together. */
  scratchPath(ending: string): string {
    return join(this.scratch, `${randomBytes(8).toString('hex')}${ending}`);
  }

  /** Jobs that can be opened, the last changed first. */
  async list(): Promise<Job[]> {
    const { jobs } = await this.looks.through();
    return jobs.sort((a, b) => b.changedAt.localeCompare(a.changedAt));
  }

  /** What lies among the jobs and cannot be opened as one. */
  async listUnreadable(): Promise<UnreadableJob[]> {
    return (await this.looks.through()).unreadable;
  }

  /** Moves what cannot be opened out of the way, into a folder of its own beside the jobs. */
  async moveAside(fileName: string): Promise<void> {
    const found = (await this.listUnreadable()).find((each) => each.fileName === fileName);
    if (!found) throw notFound('unreadable job file', fileName);
    const aside = asideFolder(this.settings);
    await mkdir(aside, { recursive: true });
    const target = join(aside, `${fileName}.${randomBytes(3).toString('hex')}`);
    for (const part of JOB_PARTS)
      await rename(join(this.settings.data, fileName) + part, target + part).catch((error: unknown) => {
        if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
      });
  }

  /** Whether a question to a job's file, as it lies there, has an answer. */
  hasRows(id: string, question: string): Promise<boolean> {
    return this.looks.hasRows(id, question);
  }

  async create(given: NewJob): Promise<Job> {
    const { name, epsg, definition, unit, square } = newJobSchema.parse(given);
    const own = definition === undefined || epsg !== undefined ? undefined : checkDefinition(definition);
    const entry = epsg === undefined ? undefined : crsByCode(epsg);
    const stated = entry?.unit ?? own?.unit;
    if (stated !== undefined && unit !== undefined && unit !== stated)
      throw new JobError('bad-request', {
        what: `${entry ? `EPSG:${entry.epsg}, ${entry.name},` : 'This system'} is in ${lengthUnits[stated].name}, not in ${lengthUnits[unit].name}.`,
        fix: 'Leave the unit out, or choose a system in that unit.',
      });
    const local = unit ?? 'metre';
    const id = await this.freeId(name);
    const facts: JobFacts = {
      id,
      name,
      unit: stated ?? local,
      crs: own
        ? { definition: own.definition, name: 'Own system', horizontalUnit: own.unit, verticalUnit: own.unit }
        : entry
          ? crsOfEntry(entry)
          : { name: `Local, ${lengthUnits[local].name}`, horizontalUnit: local, verticalUnit: local },
      createdAt: new Date().toISOString(),
      ...(square && { square }),
    };
    // Made aside and moved into place whole: a kill in between leaves no half job.
    const path = this.scratchPath(JOB_ENDING);
    const file = await JobFile.open(path, { create: true });
    await file.write((models) => writeJobFacts(models, facts));
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
    if (!(await stat(this.path(id)).catch(() => undefined))) throw notFound('job', id, NOT_LISTED);
    const file = await JobFile.open(this.path(id));
    try {
      const unfinished = await listUnfinishedClouds(file.read);
      const unfinishedSets = await listUnfinishedSets(file.read);
      const unfinishedColours = await listUnfinishedColours(file.read);
      await file.write(async (models) => {
        for (const cloud of unfinished) await removeCloud(models, cloud.id);
        for (const id of unfinishedSets) await removePositionSet(models, id);
        for (const id of unfinishedColours) await removeColourSet(models, id);
        await markInterrupted(models);
      });
      if (unfinished.length + unfinishedSets.length + unfinishedColours.length > 0) await file.giveBackSpace();
    } catch (error) {
      await file.close();
      throw error;
    }
    return file;
  }

  async describe(id: string): Promise<Job> {
    return tellJob(this.path(id), id, (await this.file(id)).read);
  }

  /** Closes jobs that nobody works on, so that descriptors and memory do not grow with the number of jobs. */
  private async closeIdle(): Promise<void> {
    const idleMs = this.open.size > MANY_OPEN ? SOON_MS : IDLE_MS;
    for (const [id, opening] of [...this.open]) {
      const file = await opening.catch(() => undefined);
      if (!file?.isIdle(idleMs) || this.open.get(id) !== opening) continue;
      this.open.delete(id);
      await file.close().catch(() => undefined);
    }
  }

  async remove(id: string): Promise<void> {
    const file = await this.file(id);
    // From here on it is gone for everybody else, who may be removing it as well.
    this.open.set(id, Promise.reject(notFound('job', id, NOT_LISTED)));
    this.open.get(id)!.catch(() => undefined);
    try {
      await file.close();
      for (const part of JOB_PARTS) await rm(this.path(id) + part, { force: true });
    } finally {
      this.open.delete(id);
      this.looks.forget(id);
    }
  }

  /** Writes the job as one file and returns where; the caller removes it after sending. */
  async copyForDownload(id: string): Promise<{ path: string; fileName: string }> {
    const file = await this.file(id);
    const { fileBytes } = await this.describe(id);
    await checkRoom(this.settings.data, fileBytes, 'A copy of the job');
    const path = this.scratchPath(JOB_ENDING);
    try {
      await file.copyTo(path);
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
    return { path, fileName: `${id}${JOB_ENDING}` };
  }

  /**
   * Makes a received file a job of this library, under an id of its own: what the file says of itself is read as any other
   * stranger's word. A file that is refused leaves nothing.
   */
  async restore(received: string): Promise<Job> {
    try {
      await checkJobFile(received);
      const file = await JobFile.open(received);
      let id: string;
      try {
        const facts = await readJobFacts(file.read, 'in the file');
        const isTaken = jobIdSchema.safeParse(facts.id).success && (await this.has(facts.id));
        const name = isTaken ? `${facts.name} (restored)` : facts.name;
        id = await this.freeId(name);
        await file.write((models) => writeJobFacts(models, { ...facts, id, name }));
      } finally {
        await file.close();
      }
      await rename(received, this.path(id));
      return await this.describe(id);
    } catch (error) {
      throw jobFileError(error, basename(received)) ?? error;
    } finally {
      for (const part of JOB_PARTS) await rm(received + part, { force: true });
    }
  }

  private async has(id: string): Promise<boolean> {
    return (await stat(this.path(id)).catch(() => undefined)) !== undefined;
  }

  async close(): Promise<void> {
    clearInterval(this.sweeping);
    for (const opening of this.open.values()) await (await opening.catch(() => undefined))?.close();
    this.open.clear();
  }

  private path(id: string): string {
    return jobPath(this.settings.data, id);
  }

  private async freeId(name: string): Promise<string> {
    const words = wordsOfId(name);
    for (;;) {
      const id = `${words}-${randomBytes(2).toString('hex')}`;
      if (!(await this.has(id))) return id;
    }
  }
}
