import type { Sequelize } from 'sequelize';
import { JobError, jobDamaged, notAJobFile } from '../errors/job-error.js';
import { SCHEMA_VERSION } from './migrations/index.js';
import type { Models } from './models.js';

/** "PAMP": says in the file's header whose SQLite file this is. */
export const APPLICATION_ID = 0x50414d50;

/** Tables of every version so far; SQLite's own and those of indexes begin with its name. */
const KNOWN_TABLES: ReadonlySet<string> = new Set([
  'meta',
  'clouds',
  'nodes',
  'node_geometry',
  'position_sets',
  'moved_nodes',
  'colour_sets',
  'coloured_nodes',
  'lines',
  'node_class',
  'node_attributes',
  'products',
  'product_blobs',
  'history',
  'history_class',
  'history_marks',
  'control_points',
  'pins',
  'sheet_runs',
  'migrations',
]);

export async function pragma(connection: Sequelize, name: string): Promise<unknown> {
  const [rows] = await connection.query(`PRAGMA ${name}`);
  return Object.values((rows as Record<string, unknown>[])[0] ?? {})[0];
}

/**
 * Looks at a file before anything in it is believed: whose it is, which version, and that it holds tables and indexes of ours
 * alone. Views and triggers would run what they like.
 * @throws JobError
 */
export async function checkIsOurs(connection: Sequelize, fileName: string): Promise<void> {
  if (Number(await pragma(connection, 'application_id')) !== APPLICATION_ID) {
    throw notAJobFile(fileName);
  }
  const version = Number(await pragma(connection, 'user_version'));
  if (version > SCHEMA_VERSION) {
    throw new JobError('newer-job-file', {
      what: `The job file was made by a newer Pampero (schema ${version}, known up to ${SCHEMA_VERSION}).`,
      where: fileName,
      fix: 'Open it with a newer Pampero.',
    });
  }
  await connection.query('PRAGMA trusted_schema = OFF');
  const [rows] = await connection.query('SELECT type, name, tbl_name, sql FROM sqlite_master LIMIT 200');
  for (const { type, name, tbl_name: table, sql } of rows as Record<string, string | null>[]) {
    const isOurs =
      (type === 'table' || type === 'index') &&
      (KNOWN_TABLES.has(table ?? '') || table === 'sqlite_sequence') &&
      !/^\s*CREATE\s+VIRTUAL/i.test(sql ?? '');
    if (!isOurs)
      throw new JobError('not-a-job-file', {
        what: `The file holds a ${type} “${String(name).slice(0, 40)}” that is not of a Pampero job.`,
        where: fileName,
        fix: 'Choose a file that was downloaded as a job and not changed since.',
      });
  }
  const names = new Set((rows as { name: string }[]).map(({ name }) => name));
  for (const needed of ['meta', 'clouds', 'nodes', 'history'])
    if (!names.has(needed)) throw lacks(`table “${needed}”`, fileName);
}

/** Holds the tables of an opened job against the models, after its schema was brought up to date. */
export async function checkColumns(models: Models, fileName: string): Promise<void> {
  for (const each of Object.values(models) as unknown[]) {
    const model = each as Models['meta'];
    const table = String(model.getTableName());
    const [rows] = await model.sequelize!.query(`PRAGMA table_info(${table})`);
    const there = new Set((rows as { name: string }[]).map(({ name }) => name));
    for (const column of Object.keys(model.getAttributes()))
      if (!there.has(column)) throw lacks(`column “${column}” of “${table}”`, fileName);
  }
}

/** @throws JobError `job-damaged` when SQLite finds the file damaged */
export async function checkIntegrity(connection: Sequelize, fileName: string): Promise<void> {
  const verdict = String(await pragma(connection, 'quick_check(1)'));
  if (verdict !== 'ok')
    throw new JobError('job-damaged', {
      what: 'The job file is damaged.',
      where: fileName,
      fix: 'Use another copy of the file.',
    });
  // Sizes that could not be read, or would be read past.
  const [[counts]] = (await connection.query(
    `SELECT (SELECT COUNT(*) FROM nodes WHERE count < 0 OR count > 65535 OR typeof(count) <> 'integer') AS odd,
      (SELECT COUNT(*) FROM nodes n JOIN node_class c ON c.nodeId = n.id WHERE length(c.classification) <> n.count OR length(c.flags) <> n.count) AS short`,
  )) as unknown as [[{ odd: number; short: number }]];
  if (counts.odd + counts.short > 0)
    throw new JobError('job-damaged', {
      what: `${counts.odd + counts.short} of its pieces of cloud do not have the size they state.`,
      where: fileName,
      fix: 'Use another copy of the file.',
    });
}

function lacks(what: string, where: string): JobError {
  return jobDamaged(`The job file lacks its ${what}.`, where);
}
