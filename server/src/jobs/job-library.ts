import { randomBytes } from 'node:crypto';
import { mkdir, readdir, rename, rm, stat } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { isDeepStrictEqual } from 'node:util';
import type { Job, NewJob, UnreadableJob } from '@pampero/contract';
import { jobIdSchema, newJobSchema } from '@pampero/contract';
import { checkDefinition, lengthUnits } from '@pampero/core/geodesy';
import { PamperoError } from '@pampero/core/task';
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
import { checkJobFile, JobFile, openReader } from '../store/job-file.js';
import { readJobFacts, tellJob, writeJobFacts, type JobFacts } from './job-facts.js';

/** Of a job's file. */
export const JOB_ENDING = '.pampero';
const ENDING = JOB_ENDING;
const PARTS = ['', '-wal', '-shm'];
/** A job that nobody asked for is closed after so long, and sooner where many are open. */
const [IDLE_MS, SOON_MS, MANY_OPEN] = [120_000, 3_000, 24];
const SWEEP_MS = 5_000;
/** A file that does not answer in time is listed as one that cannot be read. */
const LOOK_MS = 4_000;
const LOOKS_AT_ONCE = 8;

/** What was found in a file, as long as the file stays as it is. */
interface Looked {
  readonly signature: readonly number[];
  readonly job?: Job;
  readonly error?: PamperoError;
}

/** The folder of job files: opens each once and hands it to whoever asks. */
const NOT_LISTED = 'It may have been removed. The list of jobs (GET /api/jobs) has those there are.';

export class JobLibrary {
  private readonly open = new Map<string, Promise<JobFile>>();
  private readonly scratch: string;

  private readonly looked = new Map<string, Looked>();
  private readonly sweeping: NodeJS.Timeout;

  private constructor(private readonly settings: Settings) {
    this.scratch = scratchFolder(settings);
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

  /** A fresh path for a file that is being received or put together. */
  scratchPath(ending: string): string {
    return join(this.scratch, `${randomBytes(8).toString('hex')}${ending}`);
  }

  /** Jobs that can be opened, the last changed first. */
  async list(): Promise<Job[]> {
    const { jobs } = await this.lookThrough();
    return jobs.sort((a, b) => b.changedAt.localeCompare(a.changedAt));
  }

  /** What lies among the jobs and cannot be opened as one. */
  async listUnreadable(): Promise<UnreadableJob[]> {
    return (await this.lookThrough()).unreadable;
  }

  /** Moves what cannot be opened out of the way, into a folder of its own beside the jobs. */
  async moveAside(fileName: string): Promise<void> {
    const found = (await this.listUnreadable()).find((each) => each.fileName === fileName);
    if (!found) throw notFound('unreadable job file', fileName);
    const aside = asideFolder(this.settings);
    await mkdir(aside, { recursive: true });
    const target = join(aside, `${fileName}.${randomBytes(3).toString('hex')}`);
    for (const part of PARTS)
      await rename(join(this.settings.data, fileName) + part, target + part).catch((error: unknown) => {
        if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
      });
  }

  private async lookThrough(): Promise<{ jobs: Job[]; unreadable: UnreadableJob[] }> {
    const entries = (await readdir(this.settings.data, { withFileTypes: true })).filter(({ name }) =>
      name.endsWith(ENDING),
    );
    const jobs: Job[] = [];
    const unreadable: UnreadableJob[] = [];
    for (let at = 0; at < entries.length; at += LOOKS_AT_ONCE)
      await Promise.all(
        entries.slice(at, at + LOOKS_AT_ONCE).map(async (entry) => {
          try {
            jobs.push(await this.lookAt(entry.name, entry.isFile() || entry.isSymbolicLink()));
          } catch (given) {
            const error = given instanceof PamperoError ? given : jobFileError(given, entry.name);
            if (!error) throw given;
            if (error.code === 'not-found') return; // removed meanwhile
            // Among the jobs it is not to be chosen anew, as where a file was sent.
            const fix = error.code === 'not-a-job-file' && entry.isFile() ? 'It belongs elsewhere.' : error.fix;
            unreadable.push({ fileName: entry.name, what: error.what, ...(fix && { fix }) });
          }
        }),
      );
    return { jobs, unreadable: unreadable.sort((a, b) => a.fileName.localeCompare(b.fileName)) };
  }

  /** A job as its file tells it, from what was seen before where the file has not changed since. */
  private async lookAt(name: string, isFile: boolean): Promise<Job> {
    if (!isFile)
      throw new JobError('not-a-job-file', { what: 'It is a folder and no job file.', fix: 'Move it elsewhere.' });
    const id = name.slice(0, -ENDING.length);
    if (!jobIdSchema.safeParse(id).success)
      throw new JobError('job-damaged', {
        what: 'A job file’s name is made of small letters, digits and dashes.',
        fix: 'Rename the file.',
      });
    if (this.open.has(id)) return this.describe(id);
    const signature = await this.signature(id);
    const before = this.looked.get(id);
    if (before && isDeepStrictEqual(before.signature, signature)) {
      if (before.error) throw before.error;
      return before.job!;
    }
    try {
      const job = await inTime(this.peek(id), name);
      this.looked.set(id, { signature, job });
      return job;
    } catch (error) {
      const told = error instanceof PamperoError ? error : jobFileError(error, name);
      if (!told) throw error;
      // What another program holds may be free the next time.
      if (told.code !== 'job-locked') this.looked.set(id, { signature, error: told });
      throw told;
    }
  }

  /** Reads what is said of a job without opening it for work. */
  private async peek(id: string): Promise<Job> {
    const reader = await openReader(this.path(id), 300);
    try {
      return await tellJob(this.path(id), id, reader.models);
    } finally {
      await reader.close();
    }
  }

  /** Whether a question to a job's file, as it lies there, has an answer; a file that cannot be asked has none. */
  async hasRows(id: string, question: string): Promise<boolean> {
    const reader = await openReader(this.path(id), 300).catch(() => undefined);
    if (!reader) return false;
    try {
      const [rows] = await reader.models.meta.sequelize!.query(question);
      return rows.length > 0;
    } catch {
      return false; // of an earlier version, without the table
    } finally {
      await reader.close();
    }
  }

  private async signature(id: string): Promise<number[]> {
    const parts = await Promise.all(['', '-wal'].map((part) => stat(this.path(id) + part).catch(() => undefined)));
    if (!parts[0]) throw notFound('job', id, NOT_LISTED);
    return parts.flatMap((part) => (part ? [part.size, part.mtimeMs] : [0, 0]));
  }

  async create(given: NewJob): Promise<Job> {
    const { name, epsg, definition, unit } = newJobSchema.parse(given);
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
    };
    // Made aside and moved into place whole: a kill in between leaves no half job.
    const path = this.scratchPath(ENDING);
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
      for (const part of PARTS) await rm(this.path(id) + part, { force: true });
    } finally {
      this.open.delete(id);
      this.looked.delete(id);
    }
  }

  /** Writes the job as one file and returns where; the caller removes it after sending. */
  async copyForDownload(id: string): Promise<{ path: string; fileName: string }> {
    const file = await this.file(id);
    const { fileBytes } = await this.describe(id);
    await checkRoom(this.settings.data, fileBytes, 'A copy of the job');
    const path = this.scratchPath(ENDING);
    try {
      await file.copyTo(path);
    } catch (error) {
      await rm(path, { force: true });
      throw error;
    }
    return { path, fileName: `${id}${ENDING}` };
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
      for (const part of PARTS) await rm(received + part, { force: true });
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
      if (!(await this.has(id))) return id;
    }
  }
}

/** A file may be made so that reading it takes for ever. */
async function inTime<T>(work: Promise<T>, fileName: string): Promise<T> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(
      () =>
        reject(
          new JobError('job-locked', {
            what: 'The job file does not answer.',
            where: fileName,
            fix: 'Another program may have it locked, or it lies on a slow disk. Try again.',
          }),
        ),
      LOOK_MS,
    );
  });
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}
