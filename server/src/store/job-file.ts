import { Sequelize } from 'sequelize';
import { JobError } from '../errors/job-error.js';
import { migrate, SCHEMA_VERSION } from './migrations/index.js';
import { defineModels, type Models } from './models.js';

/** "PAMP": says in the file's header whose SQLite file this is. */
const APPLICATION_ID = 0x50414d50;
const PAGE_SIZE = 65_536;

/**
 * One job: one SQLite file. Two connections: reads go on while a write is under way and see the last finished one. Writes
 * take turns, each in one transaction, so that two edits at once cannot lose each other.
 */
export class JobFile {
  private turn: Promise<unknown> = Promise.resolve();

  private constructor(
    readonly path: string,
    readonly read: Models,
    private readonly writeModels: Models,
    private readonly readConnection: Sequelize,
    private readonly writeConnection: Sequelize,
  ) {}

  /** Opens a job file, making it when asked to, and brings its schema up to date. */
  static async open(path: string, { create = false }: { create?: boolean } = {}): Promise<JobFile> {
    const writer = connect(path);
    try {
      if (create) {
        // Page size and vacuum mode are settled by the first write.
        await writer.query(`PRAGMA page_size = ${PAGE_SIZE}`);
        await writer.query('PRAGMA auto_vacuum = INCREMENTAL');
        await writer.query(`PRAGMA application_id = ${APPLICATION_ID}`);
      } else await checkIsOurs(writer, path);
      await writer.query('PRAGMA journal_mode = WAL');
      await writer.query('PRAGMA synchronous = NORMAL');
      // 256 MB of journal between checkpoints: measured twice as fast for an import as the default 64 MB.
      await writer.query('PRAGMA wal_autocheckpoint = 4000');
      await writer.query('PRAGMA busy_timeout = 10000');
      await migrate(writer);
    } catch (error) {
      await writer.close();
      throw error;
    }
    const reader = connect(path);
    await reader.query('PRAGMA busy_timeout = 10000');
    return new JobFile(path, defineModels(reader), defineModels(writer), reader, writer);
  }

  /** Runs `work` in one transaction, after all writes asked for earlier. It is stored when the promise resolves. */
  write<T>(work: (models: Models) => Promise<T>): Promise<T> {
    const result = this.turn.then(async () => {
      await this.writeConnection.query('BEGIN IMMEDIATE');
      try {
        const value = await work(this.writeModels);
        await this.writeConnection.query('COMMIT');
        return value;
      } catch (error) {
        await this.writeConnection.query('ROLLBACK');
        throw error;
      }
    });
    this.turn = result.catch(() => undefined);
    return result;
  }

  /** Gives freed pages back to the disk, after a large removal: the journal with them, or the file would stay as it is. */
  async giveBackSpace(): Promise<void> {
    const done = this.turn.then(async () => {
      await this.writeConnection.query('PRAGMA incremental_vacuum');
      await this.writeConnection.query('PRAGMA wal_checkpoint(TRUNCATE)');
    });
    this.turn = done.catch(() => undefined);
    await done;
  }

  /** Writes a consistent copy of the whole job, without its journal, to `target`. */
  async copyTo(target: string): Promise<void> {
    await this.readConnection.query('VACUUM INTO $target', { bind: { target } });
  }

  async close(): Promise<void> {
    await this.turn;
    await this.readConnection.close();
    await this.writeConnection.close();
  }
}

function connect(path: string): Sequelize {
  return new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
}

async function pragma(connection: Sequelize, name: string): Promise<number> {
  const [rows] = await connection.query(`PRAGMA ${name}`);
  return Number(Object.values((rows as Record<string, unknown>[])[0] ?? {})[0]);
}

async function checkIsOurs(connection: Sequelize, path: string): Promise<void> {
  const id = await pragma(connection, 'application_id').catch(() => NaN);
  if (id !== APPLICATION_ID) {
    throw new JobError('not-a-job-file', {
      what: 'The file is not a Pampero job.',
      where: path,
      fix: 'Choose a file that was downloaded as a job.',
    });
  }
  const version = await pragma(connection, 'user_version');
  if (version > SCHEMA_VERSION) {
    throw new JobError('newer-job-file', {
      what: `The job file was made by a newer Pampero (schema ${version}, known up to ${SCHEMA_VERSION}).`,
      where: path,
      fix: 'Open it with a newer Pampero.',
    });
  }
}

/** @throws JobError `not-a-job-file` when SQLite finds the file damaged */
export async function checkJobFile(path: string): Promise<void> {
  const connection = connect(path);
  try {
    await checkIsOurs(connection, path);
    const [rows] = await connection.query('PRAGMA quick_check(1)');
    const verdict = Object.values((rows as Record<string, string>[])[0] ?? {})[0];
    if (verdict !== 'ok') {
      throw new JobError('not-a-job-file', {
        what: `The job file is damaged: ${verdict}.`,
        where: path,
        fix: 'Use another copy of the file.',
      });
    }
  } finally {
    await connection.close();
  }
}
