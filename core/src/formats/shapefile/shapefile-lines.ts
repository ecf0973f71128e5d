import { FormatError } from '../format-error.js';
import { closedOff, type ReadLine } from '../lines/index.js';

/** Shape types (Shapefile Technical Description, July 1998): polylines and polygons, plain, with measures, with elevations. */
const LINES = { 3: 'plain', 5: 'plain', 13: 'z', 15: 'z', 23: 'plain', 25: 'plain' } as const;
const POLYGONS: ReadonlySet<number> = new Set([5, 15, 25]);
/** Values below this are "no data". */
const NO_DATA = -1e38;

/** Columns of the table that name what a line is, the first that is there. */
const CODE_COLUMNS = ['code', 'layer', 'name', 'feature'];

/**
 * Lines and outlines of a Shapefile. Parts of a shape are lines of their own.
 * @param dbf - its table, for the code of each; the lines have none without it
 * @throws FormatError
 */
export function readShapefileLines(shp: Uint8Array, dbf: Uint8Array | undefined, fileName: string): ReadLine[] {
  const wrong = (what: string, where?: string): FormatError =>
    new FormatError('not-this-format', {
      what: `${fileName}: ${what}.`,
      ...(where !== undefined && { where }),
      fix: 'Save it again as a Shapefile of lines.',
    });
  const view = new DataView(shp.buffer, shp.byteOffset, shp.byteLength);
  if (shp.length < 100 || view.getInt32(0) !== 9994) throw wrong('this is no Shapefile');
  const codes = dbf ? codesOf(dbf) : [];
  const lines: ReadLine[] = [];
  for (let at = 100, record = 0; at + 8 <= shp.length; record++) {
    const bytes = 2 * view.getInt32(at + 4);
    const start = at + 8;
    const where = `record ${record + 1}`;
    if (bytes < 4 || start + bytes > shp.length) throw wrong('the file is cut short', where);
    const type = view.getInt32(start, true);
    at = start + bytes;
    if (type === 0) continue;
    if (!(type in LINES)) throw wrong(`shapes of type ${type} are no lines`, where);
    const isInSpace = LINES[type as keyof typeof LINES] === 'z';
    if (bytes < 44) throw wrong('a shape is cut short', where);
    const [parts, count] = [view.getInt32(start + 36, true), view.getInt32(start + 40, true)];
    const places = start + 44 + 4 * parts;
    const heights = places + 16 * count + 16;
    const end = isInSpace ? heights + 8 * count : places + 16 * count;
    if (parts < 1 || count < 1 || end > start + bytes) throw wrong('a shape is cut short', where);
    for (let part = 0; part < parts; part++) {
      const from = view.getInt32(start + 44 + 4 * part, true);
      const to = part + 1 < parts ? view.getInt32(start + 48 + 4 * part, true) : count;
      if (from < 0 || to > count || from >= to) throw wrong('the parts of a shape overlap', where);
      const corners: [number, number, number][] = [];
      for (let k = from; k < to; k++) {
        const [e, n] = [view.getFloat64(places + 16 * k, true), view.getFloat64(places + 16 * k + 8, true)];
        if (!Number.isFinite(e) || !Number.isFinite(n)) throw wrong(`vertex ${k + 1} has no place`, where);
        const z = isInSpace ? view.getFloat64(heights + 8 * k, true) : NaN;
        corners.push([e, n, Number.isFinite(z) && z > NO_DATA ? z : NaN]);
      }
      if (corners.length > 1) lines.push(closedOff(corners, codes[record] ?? '', POLYGONS.has(type)));
    }
  }
  if (lines.length === 0)
    throw new FormatError('no-lines', {
      what: `${fileName} holds no lines or polygons.`,
      fix: 'Choose a Shapefile of lines or polygons.',
    });
  return lines;
}

/** The code of each record of a dBASE III table, "" where there is no such column. */
function codesOf(dbf: Uint8Array): string[] {
  if (dbf.length < 33) return [];
  const view = new DataView(dbf.buffer, dbf.byteOffset, dbf.byteLength);
  const [records, head, width] = [view.getUint32(4, true), view.getUint16(8, true), view.getUint16(10, true)];
  const columns = new Map<string, { at: number; width: number }>();
  let at = 1;
  for (let field = 32; field + 32 <= Math.min(head, dbf.length) && dbf[field] !== 0x0d; field += 32) {
    const name = textOf(dbf.subarray(field, field + 11)).toLowerCase();
    if (!columns.has(name)) columns.set(name, { at, width: dbf[field + 16]! });
    at += dbf[field + 16]!;
  }
  const column = CODE_COLUMNS.map((name) => columns.get(name)).find((found) => found !== undefined);
  if (!column) return [];
  const kept = Math.min(records, Math.floor((dbf.length - head) / Math.max(1, width)));
  return Array.from({ length: Math.max(0, kept) }, (_, k) => {
    const from = head + k * width + column.at;
    return textOf(dbf.subarray(from, from + column.width)).trim();
  });
}

/** UTF-8 where it is, Windows-1252 where it is not. */
function textOf(bytes: Uint8Array): string {
  const end = bytes.indexOf(0);
  const used = end === -1 ? bytes : bytes.subarray(0, end);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(used);
  } catch {
    return new TextDecoder('windows-1252').decode(used);
  }
}
