import type { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import { linesOfCodes } from './lines-of-codes.js';
import { productsByInputs } from './products-by-inputs.js';

interface Step {
  readonly name: string;
  readonly statements?: readonly string[];
  /** What statements alone cannot do. */
  readonly change?: (database: Sequelize) => Promise<void>;
}

/**
 * The schema of a job file, step by step; a step once released is never changed. What changes often (classes) has a table
 * of its own, since SQLite rewrites a whole row.
 */
const steps: readonly Step[] = [
  {
    name: '001-first',
    statements: [
      `CREATE TABLE meta (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID`,
      `CREATE TABLE clouds (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT NOT NULL, state TEXT NOT NULL, isActive INTEGER NOT NULL, pointCount INTEGER NOT NULL, facts TEXT NOT NULL, revision INTEGER NOT NULL)`,
      `CREATE TABLE nodes (id INTEGER PRIMARY KEY AUTOINCREMENT, cloudId INTEGER NOT NULL REFERENCES clouds(id), level INTEGER NOT NULL, cellX INTEGER NOT NULL, cellY INTEGER NOT NULL, cellZ INTEGER NOT NULL, count INTEGER NOT NULL, spacing REAL NOT NULL, minX INTEGER NOT NULL, minY INTEGER NOT NULL, minZ INTEGER NOT NULL, maxX INTEGER NOT NULL, maxY INTEGER NOT NULL, maxZ INTEGER NOT NULL)`,
      `CREATE INDEX nodes_of_cloud ON nodes (cloudId, level)`,
      `CREATE TABLE node_geometry (nodeId INTEGER PRIMARY KEY, bytes BLOB NOT NULL)`,
      `CREATE TABLE node_class (nodeId INTEGER PRIMARY KEY, classification BLOB NOT NULL, flags BLOB NOT NULL, counts TEXT NOT NULL, revision INTEGER NOT NULL)`,
      `CREATE TABLE node_attributes (nodeId INTEGER PRIMARY KEY, bytes BLOB NOT NULL)`,
      `CREATE TABLE products (id INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, name TEXT NOT NULL, isActive INTEGER NOT NULL, inputId INTEGER NOT NULL, inputRevision INTEGER NOT NULL, madeAt TEXT NOT NULL, operation TEXT NOT NULL, parameters TEXT NOT NULL, facts TEXT NOT NULL)`,
      `CREATE TABLE product_blobs (productId INTEGER NOT NULL REFERENCES products(id), part TEXT NOT NULL, bytes BLOB NOT NULL, PRIMARY KEY (productId, part))`,
      `CREATE TABLE history (id INTEGER PRIMARY KEY AUTOINCREMENT, operation TEXT NOT NULL, stage TEXT NOT NULL, title TEXT NOT NULL, parameters TEXT NOT NULL, state TEXT NOT NULL, outcome TEXT NOT NULL, figures TEXT NOT NULL, effects TEXT NOT NULL, startedAt TEXT NOT NULL, durationMs REAL NOT NULL)`,
      `CREATE TABLE history_class (historyId INTEGER NOT NULL, nodeId INTEGER NOT NULL, classification BLOB NOT NULL, counts TEXT NOT NULL, revision INTEGER NOT NULL, PRIMARY KEY (historyId, nodeId))`,
    ],
  },
  {
    name: '002-control',
    statements: [
      `CREATE TABLE control_points (id INTEGER PRIMARY KEY AUTOINCREMENT, historyId INTEGER NOT NULL, isActive INTEGER NOT NULL, role TEXT NOT NULL, number TEXT NOT NULL, northing REAL NOT NULL, easting REAL NOT NULL, elevation REAL NOT NULL, code TEXT NOT NULL)`,
    ],
  },
  {
    name: '003-node-facts',
    statements: [
      // Counts and revisions stand behind two blobs in their rows: read from there they cost as much as the blobs.
      `CREATE INDEX node_class_facts ON node_class (nodeId, counts, revision)`,
    ],
  },
  {
    name: '004-marks',
    statements: [
      // A step keeps what it changed of classes and flags as one difference that works both ways, next to nothing for a
      // hand edit. What earlier versions kept says nothing of flags; their class steps stay in the book but cannot be undone.
      `CREATE TABLE history_marks (historyId INTEGER NOT NULL, nodeId INTEGER NOT NULL, difference BLOB NOT NULL, otherRevision INTEGER NOT NULL, PRIMARY KEY (historyId, nodeId))`,
      `UPDATE history SET effects = '[]' WHERE effects LIKE '%"kind":"classes"%'`,
      `DROP TABLE history_class`,
      `CREATE TABLE pins (id INTEGER PRIMARY KEY AUTOINCREMENT, kind TEXT NOT NULL, name TEXT NOT NULL, body TEXT NOT NULL)`,
      // The report is long and seldom read; lists of clouds were slowed by it.
      `ALTER TABLE clouds ADD COLUMN report TEXT NOT NULL DEFAULT '{}'`,
      `UPDATE clouds SET report = COALESCE(json_extract(facts, '$.report'), '{}'), facts = json_remove(facts, '$.report')`,
    ],
  },
  { name: '005-products-by-inputs', change: productsByInputs },
  {
    name: '006-positions',
    statements: [
      // Points that are moved keep the places they had: a set of new ones stands beside them, and the cloud says which it shows.
      `CREATE TABLE position_sets (id INTEGER PRIMARY KEY AUTOINCREMENT, cloudId INTEGER NOT NULL, historyId INTEGER NOT NULL, state TEXT NOT NULL, name TEXT NOT NULL, facts TEXT NOT NULL)`,
      `CREATE TABLE moved_nodes (setId INTEGER NOT NULL, nodeId INTEGER NOT NULL, minX INTEGER NOT NULL, minY INTEGER NOT NULL, minZ INTEGER NOT NULL, maxX INTEGER NOT NULL, maxY INTEGER NOT NULL, maxZ INTEGER NOT NULL, bytes BLOB NOT NULL, PRIMARY KEY (setId, nodeId))`,
      `ALTER TABLE clouds ADD COLUMN positionsId INTEGER NOT NULL DEFAULT 0`,
    ],
  },
  { name: '007-lines-of-codes', change: linesOfCodes },
  {
    name: '008-colours',
    statements: [
      // Colours that a cloud is given stand beside those it came with; the cloud says which it shows.
      `CREATE TABLE colour_sets (id INTEGER PRIMARY KEY AUTOINCREMENT, cloudId INTEGER NOT NULL, historyId INTEGER NOT NULL, state TEXT NOT NULL)`,
      `CREATE TABLE coloured_nodes (setId INTEGER NOT NULL, nodeId INTEGER NOT NULL, bytes BLOB NOT NULL, PRIMARY KEY (setId, nodeId))`,
      `ALTER TABLE clouds ADD COLUMN coloursId INTEGER NOT NULL DEFAULT 0`,
    ],
  },
  {
    name: '009-sheet-runs',
    statements: [
      // Which steps of a run are done is not kept a second time: entries of the field book say which step of which run they were.
      `CREATE TABLE sheet_runs (id INTEGER PRIMARY KEY AUTOINCREMENT, sheet TEXT NOT NULL, places TEXT NOT NULL, state TEXT NOT NULL, because TEXT, gates TEXT NOT NULL DEFAULT '{}', startedAt TEXT NOT NULL, endedAt TEXT)`,
      `ALTER TABLE history ADD COLUMN sheetRunId INTEGER`,
      `ALTER TABLE history ADD COLUMN sheetStep TEXT`,
      `CREATE INDEX history_of_sheet_run ON history (sheetRunId) WHERE sheetRunId IS NOT NULL`,
    ],
  },
  {
    name: '010-surfaces-as-they-were',
    statements: [
      // A surface that is built again comes out as it did, not by a default that came later.
      `UPDATE products SET parameters = json_set(parameters, '$.keepBreaks', json('false')) WHERE operation = 'build-surface' AND json_extract(parameters, '$.keepBreaks') IS NULL`,
    ],
  },
];

/** Kept in `PRAGMA user_version`; a file with a higher one was written by a newer Pampero. */
export const SCHEMA_VERSION = steps.length;

export async function migrate(sequelize: Sequelize): Promise<void> {
  const umzug = new Umzug({
    migrations: steps.map(({ name, statements = [], change }) => ({
      name,
      up: async () => {
        await sequelize.query('BEGIN IMMEDIATE');
        try {
          for (const statement of statements) await sequelize.query(statement);
          await change?.(sequelize);
          await sequelize.query('COMMIT');
        } catch (error) {
          await sequelize.query('ROLLBACK');
          throw error;
        }
      },
    })),
    storage: new SequelizeStorage({ sequelize, tableName: 'migrations' }),
    logger: undefined,
  });
  await umzug.up();
  await sequelize.query(`PRAGMA user_version = ${SCHEMA_VERSION}`);
}
