/** A line in space with what is known of it. */
export interface AttributedLine {
  readonly easting: ArrayLike<number>;
  readonly northing: ArrayLike<number>;
  readonly elevation: ArrayLike<number>;
  readonly attributes: Readonly<Record<string, number | string>>;
}

export interface ShapefileParts {
  readonly shp: Uint8Array;
  readonly shx: Uint8Array;
  readonly dbf: Uint8Array;
}

const POLYLINE_Z = 13;
const NUMBER_WIDTH = 20;
const DECIMALS = 6;
const TEXT_WIDTH = 80;

/** Lines as a Shapefile of type PolyLineZ (Shapefile Technical Description, July 1998) with a dBASE III table. */
export function polylinesToShapefile(lines: readonly AttributedLine[]): ShapefileParts {
  const contents = lines.map(content);
  const bytes = contents.reduce((sum, part) => sum + 8 + part.length, 100);
  const shp = new Uint8Array(bytes);
  const shx = new Uint8Array(100 + 8 * lines.length);
  const box = boxOf(lines);
  head(shp, bytes, box);
  head(shx, shx.length, box);
  const [main, index] = [new DataView(shp.buffer), new DataView(shx.buffer)];
  let at = 100;
  contents.forEach((part, k) => {
    index.setInt32(100 + 8 * k, at / 2);
    index.setInt32(104 + 8 * k, part.length / 2);
    main.setInt32(at, k + 1);
    main.setInt32(at + 4, part.length / 2);
    shp.set(part, at + 8);
    at += 8 + part.length;
  });
  return { shp, shx, dbf: table(lines.map(({ attributes }) => attributes)) };
}

type Box = readonly [west: number, south: number, east: number, north: number, low: number, high: number];

function boxOf(lines: readonly AttributedLine[]): Box {
  const box = [Infinity, Infinity, -Infinity, -Infinity, Infinity, -Infinity] as [number, number, number, number, number, number]; // prettier-ignore
  for (const { easting, northing, elevation } of lines)
    for (let i = 0; i < easting.length; i++) {
      box[0] = Math.min(box[0], easting[i]!);
      box[1] = Math.min(box[1], northing[i]!);
      box[2] = Math.max(box[2], easting[i]!);
      box[3] = Math.max(box[3], northing[i]!);
      box[4] = Math.min(box[4], elevation[i]!);
      box[5] = Math.max(box[5], elevation[i]!);
    }
  return lines.length === 0 ? [0, 0, 0, 0, 0, 0] : box;
}

function head(file: Uint8Array, bytes: number, [west, south, east, north, low, high]: Box): void {
  const view = new DataView(file.buffer);
  view.setInt32(0, 9994);
  view.setInt32(24, bytes / 2);
  view.setInt32(28, 1000, true);
  view.setInt32(32, POLYLINE_Z, true);
  [west, south, east, north, low, high].forEach((value, k) => view.setFloat64(36 + 8 * k, value, true));
}

function content(line: AttributedLine): Uint8Array {
  const count = line.easting.length;
  const out = new Uint8Array(4 + 32 + 8 + 4 + 16 * count + 16 + 8 * count);
  const view = new DataView(out.buffer);
  const box = boxOf([line]);
  view.setInt32(0, POLYLINE_Z, true);
  box.slice(0, 4).forEach((value, k) => view.setFloat64(4 + 8 * k, value, true));
  view.setInt32(36, 1, true);
  view.setInt32(40, count, true);
  for (let i = 0; i < count; i++) {
    view.setFloat64(48 + 16 * i, line.easting[i]!, true);
    view.setFloat64(56 + 16 * i, line.northing[i]!, true);
  }
  const z = 48 + 16 * count;
  view.setFloat64(z, box[4], true);
  view.setFloat64(z + 8, box[5], true);
  for (let i = 0; i < count; i++) view.setFloat64(z + 16 + 8 * i, line.elevation[i]!, true);
  return out;
}

function table(rows: readonly Readonly<Record<string, number | string>>[]): Uint8Array {
  const fields = Object.entries(rows[0] ?? { id: 0 }).map(([name, value]) => ({
    name,
    isNumber: typeof value === 'number',
    width: typeof value === 'number' ? NUMBER_WIDTH : TEXT_WIDTH,
  }));
  const rowLength = 1 + fields.reduce((sum, { width }) => sum + width, 0);
  const headLength = 32 + 32 * fields.length + 1;
  const out = new Uint8Array(headLength + rowLength * rows.length + 1).fill(0x20, headLength);
  const view = new DataView(out.buffer);
  out.set([3, 126, 1, 1]);
  view.setUint32(4, rows.length, true);
  view.setUint16(8, headLength, true);
  view.setUint16(10, rowLength, true);
  fields.forEach(({ name, isNumber, width }, k) => {
    const at = 32 + 32 * k;
    put(out, at, name.slice(0, 10));
    out[at + 11] = (isNumber ? 'N' : 'C').charCodeAt(0);
    out[at + 16] = width;
    out[at + 17] = isNumber ? DECIMALS : 0;
  });
  out[headLength - 1] = 0x0d;
  rows.forEach((row, r) => {
    let at = headLength + r * rowLength + 1;
    for (const { name, isNumber, width } of fields) {
      const value = row[name]!;
      const text = isNumber ? (value as number).toFixed(DECIMALS).padStart(width) : String(value);
      put(out, at, text.slice(0, width));
      at += width;
    }
  });
  out[out.length - 1] = 0x1a;
  return out;
}

/** What the table's code page does not hold becomes a question mark. */
function put(to: Uint8Array, at: number, text: string): void {
  for (let i = 0; i < text.length; i++) {
    const code = text.charCodeAt(i);
    to[at + i] = code < 128 ? code : 0x3f;
  }
}
