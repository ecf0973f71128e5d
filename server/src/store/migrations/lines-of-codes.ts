import { readGeoJsonLines } from '@pampero/core/formats/lines';
import { QueryTypes, type Sequelize } from 'sequelize';

/*
 * Step 007. Until here lines came in by file and each file was one text; from here every line is a row of its own, under the code it
 * has. What was imported becomes the lines of a code that is called as the import was.
 */

interface OldLines {
  id: number;
  seriesId: number;
  name: string;
  facts: string;
  bytes: Buffer;
}

export async function linesOfCodes(database: Sequelize): Promise<void> {
  const run = (sql: string, bind: unknown[] = []): Promise<unknown> => database.query(sql, { bind, type: QueryTypes.RAW }); // prettier-ignore
  await run(
    'CREATE TABLE lines (id INTEGER PRIMARY KEY AUTOINCREMENT, lineKey INTEGER NOT NULL, seriesId INTEGER NOT NULL, bornIn INTEGER NOT NULL, goneIn INTEGER, historyId INTEGER NOT NULL, isClosed INTEGER NOT NULL, corners INTEGER NOT NULL, known INTEGER NOT NULL, length REAL NOT NULL, lowest REAL, highest REAL, bytes BLOB NOT NULL)',
  );
  await run('CREATE INDEX lines_of_series ON lines (seriesId, bornIn, goneIn, lineKey)');
  await run('CREATE INDEX lines_by_key ON lines (lineKey)');
  const old = await database.query<OldLines>(
    "SELECT p.id, p.seriesId, p.name, p.facts, b.bytes FROM products p JOIN product_blobs b ON b.productId = p.id AND b.part = 'lines' WHERE p.kind = 'lines' ORDER BY p.id",
    { type: QueryTypes.SELECT },
  );
  const taken = new Set<string>();
  let key = 0;
  for (const { id, seriesId, name, facts, bytes } of old) {
    let code = name.trim().slice(0, 40) || 'LINES';
    for (let n = 2; taken.has(code); n++) code = `${name.trim().slice(0, 34)} ${n}`;
    taken.add(code);
    await run('UPDATE products SET facts = $1, name = $2 WHERE id = $3', [JSON.stringify({ code, ...(JSON.parse(facts) as object) }), code, id]); // prettier-ignore
    await run("DELETE FROM product_blobs WHERE productId = $1 AND part = 'lines'", [id]);
    for (const line of readGeoJsonLines(bytes.toString('utf8'), name)) {
      const { easting, northing, elevation, isClosed } = line;
      const known = elevation.filter((z) => !Number.isNaN(z));
      const numbers = Float64Array.from([...easting, ...northing, ...elevation]);
      const sources = Uint8Array.from(elevation, (z) => (Number.isNaN(z) ? 0 : 1));
      let length = 0;
      for (let k = isClosed ? 0 : 1; k < easting.length; k++) {
        const before = (k + easting.length - 1) % easting.length;
        length += Math.hypot(easting[k]! - easting[before]!, northing[k]! - northing[before]!);
      }
      await run(
        'INSERT INTO lines (lineKey, seriesId, bornIn, historyId, isClosed, corners, known, length, lowest, highest, bytes) VALUES ($1, $2, $3, 0, $4, $5, $6, $7, $8, $9, $10)',
        [++key, seriesId, id, isClosed ? 1 : 0, easting.length, known.length, length, known.length > 0 ? known.reduce((a, b) => Math.min(a, b)) : null, known.length > 0 ? known.reduce((a, b) => Math.max(a, b)) : null, Buffer.concat([Buffer.from(numbers.buffer), Buffer.from(sources)])], // prettier-ignore
      );
    }
  }
}
