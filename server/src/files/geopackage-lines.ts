import { FormatError } from '@pampero/core/formats';
import type { ReadLine } from '@pampero/core/formats/lines';
import { readWkbLines } from '@pampero/core/formats/wkb';
import { QueryTypes, Sequelize } from 'sequelize';
import sqlite3 from 'sqlite3';

/** Bytes of the envelope that may stand before a geometry, by its code (OGC 12-128r17, 2.1.3). */
const ENVELOPES = [0, 32, 48, 48, 64] as const;
const CODE_COLUMNS = ['code', 'layer', 'name', 'feature'];
const MOST_ROWS = 2_000_000;

/**
 * Lines and outlines of every feature table of a GeoPackage, read only.
 * @throws FormatError
 */
export async function readGeoPackageLines(path: string, fileName: string): Promise<ReadLine[]> {
  const wrong = (what: string, fix = 'Save it again as a GeoPackage of lines.'): FormatError =>
    new FormatError('not-this-format', { what: `${fileName}: ${what}.`, fix });
  const database = new Sequelize({
    dialect: 'sqlite',
    storage: path,
    logging: false,
    dialectOptions: { mode: sqlite3.OPEN_READONLY },
  });
  const rowsOf = <Row extends object>(sql: string, bind: unknown[] = []): Promise<Row[]> =>
    database.query<Row>(sql, { bind, type: QueryTypes.SELECT });
  try {
    await database.query('PRAGMA trusted_schema = OFF').catch(() => {
      throw wrong('this is no GeoPackage');
    });
    const tables = await rowsOf<{ table: string; column: string }>(
      'SELECT table_name AS "table", column_name AS "column" FROM gpkg_geometry_columns LIMIT 200',
    ).catch(() => {
      throw wrong('this is no GeoPackage with features');
    });
    const lines: ReadLine[] = [];
    for (const { table, column } of tables) {
      const columns = await rowsOf<{ name: string }>('SELECT name FROM pragma_table_info($1)', [table]);
      const names = new Map(columns.map(({ name }) => [name.toLowerCase(), name]));
      const code = CODE_COLUMNS.map((name) => names.get(name)).find((name) => name !== undefined);
      const pick = code === undefined ? "''" : quoted(code);
      const rows = await rowsOf<{ geometry: unknown; code: unknown }>(
        `SELECT ${quoted(column)} AS geometry, ${pick} AS code FROM ${quoted(table)} LIMIT ${MOST_ROWS}`,
      );
      rows.forEach(({ geometry, code: of }, k) => {
        if (!Buffer.isBuffer(geometry)) return;
        const text = typeof of === 'string' && of !== '' ? of : code === undefined ? table : '';
        lines.push(...readWkbLines(wkbOf(geometry, wrong), text, `${fileName}, ${table} row ${k + 1}`));
      });
    }
    if (lines.length === 0)
      throw new FormatError('no-lines', {
        what: `${fileName} holds no lines or polygons.`,
        fix: 'Choose a GeoPackage with lines or polygons.',
      });
    return lines;
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw wrong(`SQLite cannot read it (${error instanceof Error ? error.message : String(error)})`);
  } finally {
    await database.close();
  }
}

const quoted = (name: string): string => `"${name.replaceAll('"', '""')}"`;

/** The well-known binary behind a GeoPackage's own header. */
function wkbOf(bytes: Buffer, wrong: (what: string) => FormatError): Uint8Array {
  if (bytes.length < 8 || bytes[0] !== 0x47 || bytes[1] !== 0x50) throw wrong('a geometry does not begin as it should');
  const envelope = ENVELOPES[(bytes[3]! >> 1) & 7];
  if (envelope === undefined || 8 + envelope > bytes.length) throw wrong('the head of a geometry is damaged');
  return new Uint8Array(bytes.buffer, bytes.byteOffset + 8 + envelope, bytes.length - 8 - envelope);
}
