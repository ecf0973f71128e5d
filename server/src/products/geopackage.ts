import { rm } from 'node:fs/promises';
import type { AttributedLine } from '@pampero/core/formats/shapefile';
import { Sequelize } from 'sequelize';

const APPLICATION_ID = 0x47504b47;
const VERSION = 10_300;

/** Lines as a GeoPackage (OGC 12-128r17) with one table of 3D line strings. */
export async function writeGeoPackage(
  path: string,
  table: string,
  lines: readonly AttributedLine[],
  { epsg, wkt }: { readonly epsg: number | undefined; readonly wkt: string | undefined },
): Promise<void> {
  await rm(path, { force: true });
  const database = new Sequelize({ dialect: 'sqlite', storage: path, logging: false });
  const run = (sql: string, bind: unknown[] = []): Promise<unknown> => database.query(sql, { bind });
  const srs = epsg ?? -1;
  const name = table.replace(/[^\p{L}\p{N}_]+/gu, '_').replace(/^(\d)/, '_$1') || 'lines';
  try {
    await run(`PRAGMA application_id = ${APPLICATION_ID}`);
    await run(`PRAGMA user_version = ${VERSION}`);
    await run(
      'CREATE TABLE gpkg_spatial_ref_sys (srs_name TEXT NOT NULL, srs_id INTEGER NOT NULL PRIMARY KEY, organization TEXT NOT NULL, organization_coordsys_id INTEGER NOT NULL, definition TEXT NOT NULL, description TEXT)',
    );
    for (const row of [
      ['Undefined cartesian', -1, 'NONE', -1, 'undefined', null],
      ['Undefined geographic', 0, 'NONE', 0, 'undefined', null],
      ['WGS 84', 4326, 'EPSG', 4326, WGS_84, null],
      ...(epsg === undefined ? [] : [[`EPSG:${epsg}`, epsg, 'EPSG', epsg, wkt ?? 'undefined', null]]),
    ])
      await run('INSERT OR IGNORE INTO gpkg_spatial_ref_sys VALUES ($1, $2, $3, $4, $5, $6)', row);
    await run(
      "CREATE TABLE gpkg_contents (table_name TEXT NOT NULL PRIMARY KEY, data_type TEXT NOT NULL, identifier TEXT UNIQUE, description TEXT DEFAULT '', last_change DATETIME NOT NULL, min_x DOUBLE, min_y DOUBLE, max_x DOUBLE, max_y DOUBLE, srs_id INTEGER REFERENCES gpkg_spatial_ref_sys(srs_id))",
    );
    await run(
      'CREATE TABLE gpkg_geometry_columns (table_name TEXT NOT NULL, column_name TEXT NOT NULL, geometry_type_name TEXT NOT NULL, srs_id INTEGER NOT NULL, z TINYINT NOT NULL, m TINYINT NOT NULL, PRIMARY KEY (table_name, column_name))',
    );
    const columns = Object.entries(lines[0]?.attributes ?? {});
    await run(
      `CREATE TABLE "${name}" (fid INTEGER PRIMARY KEY AUTOINCREMENT NOT NULL, geom BLOB${columns.map(([key, value]) => `, "${key}" ${typeof value === 'number' ? 'DOUBLE' : 'TEXT'}`).join('')})`,
    );
    const box = [Infinity, Infinity, -Infinity, -Infinity] as [number, number, number, number];
    for (const { easting, northing } of lines)
      for (let i = 0; i < easting.length; i++) {
        box[0] = Math.min(box[0], easting[i]!);
        box[1] = Math.min(box[1], northing[i]!);
        box[2] = Math.max(box[2], easting[i]!);
        box[3] = Math.max(box[3], northing[i]!);
      }
    const bounds = lines.length === 0 ? [null, null, null, null] : box;
    await run('INSERT INTO gpkg_contents VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10)', [
      name,
      'features',
      table,
      '',
      new Date().toISOString(),
      ...bounds,
      srs,
    ]);
    await run("INSERT INTO gpkg_geometry_columns VALUES ($1, 'geom', 'LINESTRING', $2, 1, 0)", [name, srs]);
    await run('BEGIN');
    const places = columns.map((_, k) => `, $${k + 2}`).join('');
    for (const line of lines)
      await run(`INSERT INTO "${name}" VALUES (NULL, $1${places})`, [
        geometry(line, srs),
        ...columns.map(([key]) => line.attributes[key]),
      ]);
    await run('COMMIT');
  } finally {
    await database.close();
  }
}

const WGS_84 =
  'GEOGCS["WGS 84",DATUM["WGS_1984",SPHEROID["WGS 84",6378137,298.257223563]],PRIMEM["Greenwich",0],UNIT["degree",0.0174532925199433],AUTHORITY["EPSG","4326"]]';

/** The GeoPackage header, then well-known binary of a line string with elevations. */
function geometry({ easting, northing, elevation }: AttributedLine, srs: number): Buffer {
  const count = easting.length;
  const out = Buffer.alloc(8 + 9 + 24 * count);
  out.write('GP', 0, 'latin1');
  out[3] = 1; // little-endian, no envelope
  out.writeInt32LE(srs, 4);
  out[8] = 1;
  out.writeUInt32LE(1002, 9);
  out.writeUInt32LE(count, 13);
  for (let i = 0; i < count; i++) {
    out.writeDoubleLE(easting[i]!, 17 + 24 * i);
    out.writeDoubleLE(northing[i]!, 25 + 24 * i);
    out.writeDoubleLE(elevation[i]!, 33 + 24 * i);
  }
  return out;
}
