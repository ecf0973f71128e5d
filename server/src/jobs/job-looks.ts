import { readdir, stat } from 'node:fs/promises';
import { isDeepStrictEqual } from 'node:util';
import type { Job, UnreadableJob } from '@pampero/contract';
import { jobIdSchema } from '@pampero/contract';
import { PamperoError } from '@pampero/core/task';
import { JobError, notFound } from '../errors/job-error.js';
import { jobFileError } from '../errors/sqlite-error.js';
import { openReader } from '../store/job-file.js';
import { tellJob } from './job-facts.js';
import { JOB_ENDING, jobPath } from './job-paths.js';

/** A file that does not answer in time is listed as one that cannot be read. */
const LOOK_MS = 4_000;
const LOOKS_AT_ONCE = 8;
/** How long a look waits for what another program holds. */
const BUSY_MS = 300;

export const NOT_LISTED = 'It may have been removed. The list of jobs (GET /api/jobs) has those there are.';

/** What was found in a file, as long as the file stays as it is. */
interface Looked {
  readonly signature: readonly number[];
  readonly job?: Job;
  readonly error?: PamperoError;
}

/** Looks at the files of a folder of jobs without opening them for work. */
export class JobLooks {
  private readonly looked = new Map<string, Looked>();

  /** @param openJob - a job that is open, which is asked and not its file; undefined for others */
  constructor(
    private readonly folder: string,
    private readonly openJob: (id: string) => Promise<Job> | undefined,
  ) {}

  /** All jobs, and what lies among them and cannot be opened as one. */
  async through(): Promise<{ jobs: Job[]; unreadable: UnreadableJob[] }> {
    const entries = (await readdir(this.folder, { withFileTypes: true })).filter(({ name }) =>
      name.endsWith(JOB_ENDING),
    );
    const jobs: Job[] = [];
    const unreadable: UnreadableJob[] = [];
    for (let at = 0; at < entries.length; at += LOOKS_AT_ONCE)
      await Promise.all(
        entries.slice(at, at + LOOKS_AT_ONCE).map(async (entry) => {
          try {
            jobs.push(await this.at(entry.name, entry.isFile() || entry.isSymbolicLink()));
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

  /** Whether a question to a job's file, as it lies there, has an answer; a file that cannot be asked has none. */
  async hasRows(id: string, question: string): Promise<boolean> {
    const reader = await openReader(jobPath(this.folder, id), BUSY_MS).catch(() => undefined);
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

  forget(id: string): void {
    this.looked.delete(id);
  }

  /** A job as its file tells it, from what was seen before where the file has not changed since. */
  private async at(name: string, isFile: boolean): Promise<Job> {
    if (!isFile)
      throw new JobError('not-a-job-file', { what: 'It is a folder and no job file.', fix: 'Move it elsewhere.' });
    const id = name.slice(0, -JOB_ENDING.length);
    if (!jobIdSchema.safeParse(id).success)
      throw new JobError('job-damaged', {
        what: 'A job file’s name is made of small letters, digits and dashes.',
        fix: 'Rename the file.',
      });
    const open = this.openJob(id);
    if (open) return open;
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
    const path = jobPath(this.folder, id);
    const reader = await openReader(path, BUSY_MS);
    try {
      return await tellJob(path, id, reader.models);
    } finally {
      await reader.close();
    }
  }

  private async signature(id: string): Promise<number[]> {
    const path = jobPath(this.folder, id);
    const parts = await Promise.all(['', '-wal'].map((part) => stat(path + part).catch(() => undefined)));
    if (!parts[0]) throw notFound('job', id, NOT_LISTED);
    return parts.flatMap((part) => (part ? [part.size, part.mtimeMs] : [0, 0]));
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
