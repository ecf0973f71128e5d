import { basename } from 'node:path';
import { Sequelize } from 'sequelize';
import sqlite from 'sqlite3';
import { JobError, jobDamaged } from '../errors/job-error.js';
import { closedMeanwhile, jobFileError } from '../errors/sqlite-error.js';
import { APPLICATION_ID, checkColumns, checkIntegrity, checkIsOurs } from './job-schema.js';
import { migrate } from './migrations/index.js';
import { defineModels, type Models } from './models.js';

const PAGE_SIZE = 65_536;
/** The journal goes back into the file when nothing was written for so long. */
const REST_MS = 2_000;

/**
 * One job: one SQLite file. Two connections: reads go on while a write is under way and see the last finished one. Writes
 * take turns, each in one transaction, so that two edits at once cannot lose each other.
 */
export class JobFile {
  private turn: Promise<unknown> = Promise.resolve();
  private writesUnderWay = 0;
  private holds = 0;
  private rest: NodeJS.Timeout | undefined;
  private isClosed = false;
  private isSynced = true;
  /** When it was last asked for anything, by the process's clock. */
  usedAt = performance.now();

  private constructor(
    readonly path: string,
    readonly read: Models,
    private readonly writeModels: Models,
    private readonly readConnection: Sequelize,
    private readonly writeConnection: Sequelize,
  ) {
    const used = (): void => void (this.usedAt = performance.now());
    for (const connection of [readConnection, writeConnection]) {
      connection.addHook('beforeQuery', used);
      connection.addHook('afterQuery', used);
    }
  }

  /**
   * Opens a job file, making it when asked to, and brings its schema up to date.
   * @throws JobError where it is none, damaged, locked, or of a newer Pampero
   */
  static async open(path: string, { create = false }: { create?: boolean } = {}): Promise<JobFile> {
    const writer = connect(path, create ? sqlite.OPEN_READWRITE | sqlite.OPEN_CREATE : sqlite.OPEN_READWRITE);
    let reader: Sequelize | undefined;
    try {
      await writer.query('PRAGMA busy_timeout = 10000');
      if (create) {
        // Page size and vacuum mode are settled by the first write.
        await writer.query(`PRAGMA page_size = ${PAGE_SIZE}`);
        await writer.query('PRAGMA auto_vacuum = INCREMENTAL');
        await writer.query(`PRAGMA application_id = ${APPLICATION_ID}`);
      } else await checkIsOurs(writer, basename(path));
      await writer.query('PRAGMA journal_mode = WAL');
      await writer.query('PRAGMA synchronous = FULL');
      // 256 MB of journal between checkpoints: measured twice as fast for an import as the default 64 MB.
      await writer.query('PRAGMA wal_autocheckpoint = 4000');
      await migrate(writer);
      reader = connect(path, sqlite.OPEN_READWRITE);
      await reader.query('PRAGMA busy_timeout = 10000');
      const models = defineModels(reader);
      if (!create) await checkColumns(models, basename(path));
      return new JobFile(path, models, defineModels(writer), reader, writer);
    } catch (error) {
      await reader?.close();
      await writer.close();
      const known = told(error, path);
      if (known instanceof JobError || create) throw known;
      // Whatever else stops an old file from being opened lies in what it holds.
      throw jobDamaged(
        `The job file cannot be brought up to date (${error instanceof Error ? error.message : String(error)}).`,
        basename(path),
      );
    }
  }

  /**
   * Runs `work` in one transaction, after all writes asked for earlier. It is stored when the promise resolves: on the disk
   * itself, so that a power failure does not take it back, unless it is part of something that is not yet promised to anyone.
   */
  write<T>(work: (models: Models) => Promise<T>, { isPromised = true }: { isPromised?: boolean } = {}): Promise<T> {
    this.writesUnderWay++;
    clearTimeout(this.rest);
    const result = this.turn.then(async () => {
      if (this.isClosed) throw closedMeanwhile();
      // The journal is synced as a whole, so that a write that is promised carries the earlier ones along.
      if (this.isSynced !== isPromised)
        await this.writeConnection.query(`PRAGMA synchronous = ${isPromised ? 'FULL' : 'NORMAL'}`);
      this.isSynced = isPromised;
      await this.writeConnection.query('BEGIN IMMEDIATE');
      try {
        const value = await work(this.writeModels);
        await this.writeConnection.query('COMMIT');
        return value;
      } catch (error) {
        // A full disk has taken the transaction back already; that there is none must not hide why.
        await this.writeConnection.query('ROLLBACK').catch(() => undefined);
        throw error;
      }
    });
    this.turn = result
      .catch(() => undefined)
      .then(() => {
        if (--this.writesUnderWay > 0 || this.isClosed) return;
        this.rest = setTimeout(() => void this.putJournalBack().catch(() => undefined), REST_MS);
        this.rest.unref();
      });
    return result;
  }

  /** Keeps it from being closed for idleness, until the answer is called. */
  hold(): () => void {
    this.holds++;
    let isHeld = true;
    return () => {
      if (!isHeld) return;
      isHeld = false;
      this.holds--;
      this.usedAt = performance.now();
    };
  }

  /** Nothing was asked of it for so long, and nobody holds it. */
  isIdle(milliseconds: number): boolean {
    return this.holds === 0 && this.writesUnderWay === 0 && performance.now() - this.usedAt > milliseconds;
  }

  /** Gives freed pages back to the disk, after a large removal: the journal with them, or the file would stay as it is. */
  async giveBackSpace(): Promise<void> {
    await this.inTurn(async () => {
      await this.writeConnection.query('PRAGMA incremental_vacuum');
      await this.writeConnection.query('PRAGMA wal_checkpoint(TRUNCATE)');
    });
  }

  /** Brings the journal into the file, so that who copies the one file has the whole job. */
  putJournalBack(): Promise<void> {
    return this.inTurn(async () => {
      if (this.writesUnderWay === 0) await this.writeConnection.query('PRAGMA wal_checkpoint(TRUNCATE)');
    });
  }

  /** Writes a consistent copy of the whole job, without its journal, to `target`. */
  async copyTo(target: string): Promise<void> {
    await this.readConnection.query('VACUUM INTO $target', { bind: { target } });
  }

  async close(): Promise<void> {
    clearTimeout(this.rest);
    this.isClosed = true;
    await this.turn;
    await this.readConnection.close();
    await this.writeConnection.close();
  }

  private async inTurn(work: () => Promise<void>): Promise<void> {
    const done = this.turn.then(() => (this.isClosed ? undefined : work()));
    this.turn = done.catch(() => undefined);
    await done;
  }
}

/** A job file opened to be read alone, for a thread of its own or a short look. */
export async function openReader(
  path: string,
  busyMs = 10_000,
): Promise<{ readonly models: Models; readonly connection: Sequelize; close(): Promise<void> }> {
  // A job in write-ahead mode is read with an index beside it, which a connection that may not write cannot make.
  const connection = connect(path, sqlite.OPEN_READWRITE);
  try {
    await connection.query(`PRAGMA busy_timeout = ${busyMs}`);
    await checkIsOurs(connection, basename(path));
    await connection.query('PRAGMA query_only = ON');
    return { models: defineModels(connection), connection, close: () => connection.close() };
  } catch (error) {
    await connection.close();
    throw told(error, path);
  }
}

/**
 * Looks through a file that is to become a job here.
 * @throws JobError where it is not ours, newer, or damaged
 */
export async function checkJobFile(path: string): Promise<void> {
  const { connection, close } = await openReader(path);
  try {
    await checkIntegrity(connection, basename(path));
  } catch (error) {
    throw told(error, path);
  } finally {
    await close();
  }
}

function connect(path: string, mode: number): Sequelize {
  return new Sequelize({
    dialect: 'sqlite',
    storage: path,
    logging: false,
    dialectOptions: { mode },
    retry: { max: 1 },
  });
}

function told(error: unknown, path: string): unknown {
  return error instanceof JobError ? error : (jobFileError(error, basename(path)) ?? error);
}
