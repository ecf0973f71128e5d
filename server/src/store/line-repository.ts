import { legCount, planLength, type FeatureLine, type LineRole, type LineShape } from '@pampero/core/lines';
import type { ProductOf } from '@pampero/contract';
import { QueryTypes } from 'sequelize';
import { notFound } from '../errors/job-error.js';
import { asBuffer } from './cloud-repository.js';
import type { Effect } from './effects.js';
import type { Models } from './models.js';
import { listProducts, storeProduct } from './product-repository.js';

type LineFacts = ProductOf<'lines'>['facts'];

/** A line to be kept: a new one, or another shape of one there is. */
export interface PutLine {
  readonly shape: LineShape;
  readonly key?: number | undefined;
}

/** What happens to the lines of one code. */
export interface LineChange {
  readonly code: string;
  readonly role: LineRole;
  readonly put: readonly PutLine[];
  /** Keys of lines that go; keys of lines that are put again need not be named. */
  readonly remove: readonly number[];
}

interface LineRow {
  lineKey: number;
  historyId: number;
  isClosed: number;
  bytes: Buffer;
}

/** Of a version of a code's lines: those born in it or before, and not gone by then. */
const IN_VERSION = 'seriesId = $1 AND bornIn <= $2 AND (goneIn IS NULL OR goneIn > $2)';
const SELECT_LINES = 'SELECT lineKey, historyId, isClosed, bytes FROM lines';
const PER_CORNER = 3 * 8 + 1;

/**
 * The lines of a code are a product: each change makes the next version of it, and a line knows in which version it came and in which it
 * went. So a change costs what it changes, undo costs nothing, and what hangs on the lines of a code goes stale as with any product.
 */
export async function changeLines(
  models: Models,
  historyId: number,
  operation: string,
  changes: readonly LineChange[],
): Promise<{ effects: Effect[]; productId?: number }> {
  const effects: Effect[] = [];
  let first: number | undefined;
  let nextKey = await greatestKey(models);
  const present = (await listProducts(models)).filter((product) => product.kind === 'lines');
  for (const { code, role, put, remove } of changes) {
    const before = present.find(({ facts }) => facts.code === code);
    const gone = [...remove, ...put.flatMap(({ key }) => (key === undefined ? [] : [key]))];
    const stay = before ? await factsWithout(models, before.seriesId, before.id, gone) : [];
    const facts = { code, role, ...sumOf([...stay, ...put.map(({ shape }) => measured(shape))]) };
    const stored = await storeVersion(models, operation, facts, before?.id);
    effects.push(...stored.effects);
    first ??= stored.productId;
    const seriesId = before?.seriesId ?? stored.productId;
    if (before) await endLines(models, before, stored.productId, gone);
    const version = { seriesId, bornIn: stored.productId, historyId };
    await insertLines(models, version, put.map(({ key, shape }) => ({ key: key ?? ++nextKey, shape }))); // prettier-ignore
  }
  return { effects, ...(first !== undefined && { productId: first }) };
}

/** Another purpose for the lines of a code; lines and keys stay. */
export async function changeRole(
  models: Models,
  product: ProductOf<'lines'>,
  role: LineRole,
  operation: string,
): Promise<Effect[]> {
  return (await storeVersion(models, operation, { ...product.facts, role }, product.id)).effects;
}

/** The next version of the lines of a code, or the first. */
function storeVersion(
  models: Models,
  operation: string,
  facts: LineFacts,
  replaces: number | undefined,
): ReturnType<typeof storeProduct> {
  return storeProduct(models, {
    ...{ kind: 'lines', name: facts.code, operation, parameters: {}, facts, blobs: {}, inputs: [] },
    ...(replaces !== undefined && { replaces }),
  });
}

/** The lines of a version of a code, in the order they were made. */
export async function readLines(models: Models, productId: number): Promise<FeatureLine[]> {
  return (await query<LineRow>(models, `${SELECT_LINES} WHERE ${IN_VERSION} ORDER BY lineKey`, [await seriesOf(models, productId), productId])).map(lineOf); // prettier-ignore
}

/** What has come since an earlier version, and the keys of what has gone or has another shape. */
export async function readLinesSince(
  models: Models,
  productId: number,
  since: number,
): Promise<{ came: FeatureLine[]; gone: number[] }> {
  const seriesId = await seriesOf(models, productId);
  const came = await query<LineRow>(models, `${SELECT_LINES} WHERE ${IN_VERSION} AND NOT (bornIn <= $3 AND (goneIn IS NULL OR goneIn > $3)) ORDER BY lineKey`, [seriesId, productId, since]); // prettier-ignore
  const gone = await query<{ lineKey: number }>(models, `SELECT lineKey FROM lines WHERE seriesId = $1 AND bornIn <= $3 AND (goneIn IS NULL OR goneIn > $3) AND NOT (bornIn <= $2 AND (goneIn IS NULL OR goneIn > $2))`, [seriesId, productId, since]); // prettier-ignore
  return { came: came.map(lineOf), gone: gone.map(({ lineKey }) => lineKey) };
}

/** Which lines there are now, by key, with the code they are of. */
export async function findLines(
  models: Models,
  keys: readonly number[],
): Promise<Map<number, { readonly product: ProductOf<'lines'>; readonly line: FeatureLine }>> {
  const wanted = new Set(keys);
  const found = new Map<number, { product: ProductOf<'lines'>; line: FeatureLine }>();
  for (const product of await listProducts(models)) {
    if (product.kind !== 'lines' || found.size === wanted.size) continue;
    const rows = await query<LineRow>(models, `${SELECT_LINES} WHERE ${IN_VERSION} AND lineKey IN (${[...wanted].map(Number).join()}) ORDER BY lineKey`, [product.seriesId, product.id]); // prettier-ignore
    for (const row of rows) found.set(row.lineKey, { product, line: lineOf(row) });
  }
  const missing = [...wanted].find((key) => !found.has(key));
  if (missing !== undefined) throw notFound('line', missing);
  return found;
}

/** Lines that one statement stores: so many values are well under what a statement takes. */
const STORED_TOGETHER = 200;
const COLUMNS = ['lineKey', 'seriesId', 'bornIn', 'historyId', 'isClosed', 'corners', 'known', 'length', 'lowest', 'highest', 'bytes'] as const; // prettier-ignore

async function insertLines(
  models: Models,
  { seriesId, bornIn, historyId }: { readonly seriesId: number; readonly bornIn: number; readonly historyId: number },
  lines: readonly { readonly key: number; readonly shape: LineShape }[],
): Promise<void> {
  for (let from = 0; from < lines.length; from += STORED_TOGETHER) {
    const rows = lines.slice(from, from + STORED_TOGETHER).map(({ key, shape }) => {
      const { corners, known, length, lowest, highest } = measured(shape);
      return [key, seriesId, bornIn, historyId, shape.isClosed ? 1 : 0, corners, known, length, lowest, highest, bytesOf(shape)]; // prettier-ignore
    });
    const places = rows.map((_, r) => `(${COLUMNS.map((__, c) => `$${r * COLUMNS.length + c + 1}`).join(', ')})`);
    await run(models, `INSERT INTO lines (${COLUMNS.join(', ')}) VALUES ${places.join(', ')}`, rows.flat());
  }
}

async function endLines(
  models: Models,
  before: ProductOf<'lines'>,
  goneIn: number,
  keys: readonly number[],
): Promise<void> {
  for (let k = 0; k < keys.length; k += 500)
    await run(models, `UPDATE lines SET goneIn = $3 WHERE ${IN_VERSION} AND lineKey IN (${keys.slice(k, k + 500).map(Number).join()})`, [before.seriesId, before.id, goneIn]); // prettier-ignore
}

interface Measured {
  readonly lines: number;
  readonly corners: number;
  readonly known: number;
  readonly length: number;
  readonly lowest: number | null;
  readonly highest: number | null;
}

function measured(shape: LineShape): Measured {
  let [known, lowest, highest] = [0, Infinity, -Infinity];
  for (const z of shape.elevation) {
    if (Number.isNaN(z)) continue;
    known++;
    lowest = Math.min(lowest, z);
    highest = Math.max(highest, z);
  }
  return {
    lines: 1,
    corners: shape.easting.length,
    known,
    length: legCount(shape) > 0 ? planLength(shape) : 0,
    lowest: known > 0 ? lowest : null,
    highest: known > 0 ? highest : null,
  };
}

/** The sums of a version without some of its lines; these are few, the others may be many. */
async function factsWithout(
  models: Models,
  seriesId: number,
  productId: number,
  keys: readonly number[],
): Promise<Measured[]> {
  const without = keys.length > 0 ? `AND lineKey NOT IN (${keys.map(Number).join()})` : '';
  const [row] = await query<Measured>(models, `SELECT COUNT(*) AS lines, COALESCE(SUM(corners), 0) AS corners, COALESCE(SUM(known), 0) AS known, COALESCE(SUM(length), 0) AS length, MIN(lowest) AS lowest, MAX(highest) AS highest FROM lines WHERE ${IN_VERSION} ${without}`, [seriesId, productId]); // prettier-ignore
  return row ? [row] : [];
}

function sumOf(all: readonly Measured[]): Omit<LineFacts, 'code' | 'role'> {
  const sum = (pick: (of: Measured) => number): number => all.reduce((total, of) => total + pick(of), 0);
  const heights = all.flatMap(({ lowest, highest }) => (lowest === null || highest === null ? [] : [lowest, highest]));
  return {
    lines: sum(({ lines }) => lines),
    vertices: sum(({ corners }) => corners),
    withElevation: sum(({ known }) => known),
    length: sum(({ length }) => length),
    ...(heights.length > 0 && {
      lowest: heights.reduce((a, b) => Math.min(a, b)),
      highest: heights.reduce((a, b) => Math.max(a, b)),
    }),
  };
}

/** Eastings, northings, elevations (doubles, little-endian), then where each elevation comes from. */
function bytesOf({ easting, northing, elevation, source }: LineShape): Buffer {
  const count = easting.length;
  const bytes = new Uint8Array(PER_CORNER * count);
  const numbers = new Float64Array(3 * count);
  numbers.set(easting, 0);
  numbers.set(northing, count);
  numbers.set(elevation, 2 * count);
  bytes.set(new Uint8Array(numbers.buffer), 0);
  bytes.set(source, 24 * count);
  return asBuffer(bytes);
}

function lineOf({ lineKey, historyId, isClosed, bytes }: LineRow): FeatureLine {
  const count = Math.floor(bytes.length / PER_CORNER);
  const numbers = new Float64Array(new Uint8Array(bytes.subarray(0, 24 * count)).buffer);
  return {
    key: lineKey,
    entry: historyId,
    isClosed: isClosed === 1,
    easting: numbers.subarray(0, count),
    northing: numbers.subarray(count, 2 * count),
    elevation: numbers.subarray(2 * count),
    source: new Uint8Array(bytes.subarray(24 * count, 25 * count)),
  };
}

async function greatestKey(models: Models): Promise<number> {
  const [row] = await query<{ greatest: number | null }>(models, 'SELECT MAX(lineKey) AS greatest FROM lines', []);
  return row?.greatest ?? 0;
}

async function seriesOf(models: Models, productId: number): Promise<number> {
  const [row] = await query<{ seriesId: number }>(models, "SELECT seriesId FROM products WHERE id = $1 AND kind = 'lines'", [productId]); // prettier-ignore
  if (!row) throw notFound('lines', productId);
  return row.seriesId;
}

/** Plain statements: lines come by the ten thousand, and a model instance each is what takes the time. */
async function query<Row extends object>(models: Models, sql: string, bind: readonly unknown[]): Promise<Row[]> {
  return models.meta.sequelize!.query<Row>(sql, { bind: [...bind], type: QueryTypes.SELECT });
}

async function run(models: Models, sql: string, bind: readonly unknown[]): Promise<void> {
  await models.meta.sequelize!.query(sql, { bind: [...bind], type: QueryTypes.RAW });
}
