import { columnFrom } from '../../columns/index.js';
import { checkCancelled } from '../../task/index.js';
import { asciiText } from '../byte-cursor.js';
import type { ByteSource } from '../byte-source.js';
import { FormatError, type FormatWarning } from '../format-error.js';
import { EIGHT_TO_SIXTEEN } from '../../imagery/colour-depth.js';
import type { LoosePoints } from '../loose-points.js';
import { readTextPoints, type TextColumn } from '../text/index.js';

/** Scalar types of "The PLY Polygon File Format" (Turk 1994), under its names and the newer ones. */
const TYPES = {
  char: 1,
  int8: 1,
  uchar: 1,
  uint8: 1,
  short: 2,
  int16: 2,
  ushort: 2,
  uint16: 2,
  int: 4,
  int32: 4,
  uint: 4,
  uint32: 4,
  float: 4,
  float32: 4,
  double: 8,
  float64: 8,
} as const;
type PlyType = keyof typeof TYPES;

interface Property {
  readonly name: string;
  readonly type: PlyType;
  readonly at: number;
}

/** An opened PLY file: its vertices a batch at a time. */
export interface PlyFile {
  readonly encoding: 'ascii' | 'binary_little_endian' | 'binary_big_endian';
  readonly pointCount: number;
  readonly properties: readonly string[];
  /** Byte at which the vertices begin. */
  readonly dataAt: number;
  /** Bytes of a vertex; undefined where they are lines of text. */
  readonly recordLength: number | undefined;
  /** Whether nothing follows the vertices, as faces do. */
  readonly isVerticesAlone: boolean;
  readonly warnings: readonly FormatWarning[];
  batches(signal?: { readonly aborted: boolean }): AsyncGenerator<LoosePoints>;
}

const LONGEST_HEADER = 65_536;
const BATCH_POINTS = 65_536;
const NAMES: Readonly<Record<string, TextColumn>> = {
  x: 'easting',
  y: 'northing',
  z: 'elevation',
  intensity: 'intensity',
  scalar_intensity: 'intensity',
  red: 'red',
  green: 'green',
  blue: 'blue',
  diffuse_red: 'red',
  diffuse_green: 'green',
  diffuse_blue: 'blue',
  class: 'class',
  classification: 'class',
  scalar_classification: 'class',
  confidence: 'confidence',
  scalar_confidence: 'confidence',
  quality: 'confidence',
  scalar_quality: 'confidence',
};

/**
 * Opens a PLY file of points, ASCII or binary of either byte order. Vertices must come first, as they do; faces are left.
 * @throws FormatError
 */
export async function openPly(source: ByteSource): Promise<PlyFile> {
  const head = await source.read(0, Math.min(source.size, LONGEST_HEADER));
  const text = asciiLines(head);
  if (text[0]?.trim() !== 'ply')
    throw wrong(source, `The file begins with "${asciiText(head.subarray(0, 8))}", a PLY file with "ply".`);
  const endLine = text.findIndex((line) => line.trim() === 'end_header');
  if (endLine < 0) throw wrong(source, 'The header has no end.');
  const dataAt = text.slice(0, endLine + 1).reduce((sum, line) => sum + line.length + 1, 0);
  const words = text.slice(1, endLine).map((line) => line.trim().split(/\s+/));
  const encoding = words.find(([keyword]) => keyword === 'format')?.[1];
  if (encoding !== 'ascii' && encoding !== 'binary_little_endian' && encoding !== 'binary_big_endian')
    throw wrong(source, `The format "${encoding ?? ''}" is not known.`);
  const firstElement = words.findIndex(([keyword]) => keyword === 'element');
  const [, elementName, elementCount] = words[firstElement] ?? [];
  if (elementName !== 'vertex')
    throw wrong(source, `The first element is "${elementName ?? 'none'}", not the vertices.`);
  const stated = Number(elementCount);
  const nextElement = words.findIndex(([keyword], i) => i > firstElement && keyword === 'element');
  const properties: Property[] = [];
  let length = 0;
  for (const [keyword, type, name] of words.slice(firstElement + 1, nextElement < 0 ? undefined : nextElement)) {
    if (keyword !== 'property') continue;
    if (!type || !(type in TYPES) || !name)
      throw wrong(source, `A vertex has a property "${type} ${name}" that a point cannot have.`);
    properties.push({ name: name.toLowerCase(), type: type as PlyType, at: length });
    length += TYPES[type as PlyType];
  }
  for (const axis of ['x', 'y', 'z'])
    if (!properties.some((p) => p.name === axis)) throw wrong(source, `The vertices have no ${axis}.`);
  if (!Number.isSafeInteger(stated) || stated < 0) throw wrong(source, `The header counts "${elementCount}" vertices.`);
  const warnings: FormatWarning[] = [];
  const room = encoding === 'ascii' ? stated : Math.floor((source.size - dataAt) / length);
  if (stated > room)
    warnings.push({
      code: 'file-cut-short',
      message: `The header counts ${stated} vertices; the file holds ${room}. Those that are there can be used.`,
    });
  const pointCount = Math.min(stated, room);
  if (pointCount === 0)
    throw new FormatError('no-points', {
      what: 'The file holds no vertices.',
      where: source.name,
      fix: 'Choose another file.',
    });
  return {
    encoding,
    pointCount,
    properties: properties.map((p) => p.name),
    dataAt,
    recordLength: encoding === 'ascii' ? undefined : length,
    isVerticesAlone: nextElement < 0,
    warnings,
    batches: (signal) =>
      encoding === 'ascii'
        ? asciiBatches(source, endLine + 1, pointCount, properties, signal)
        : binaryBatches(source, dataAt, pointCount, length, properties, encoding === 'binary_little_endian', signal),
  };
}

async function* asciiBatches(
  source: ByteSource,
  headerLines: number,
  pointCount: number,
  properties: readonly Property[],
  signal: { readonly aborted: boolean } | undefined,
): AsyncGenerator<LoosePoints> {
  const columns = properties.map((p) => NAMES[p.name] ?? 'none');
  let left = pointCount;
  for await (const batch of readTextPoints(
    source,
    { delimiter: ' ', hasDecimalComma: false, skippedLines: headerLines, columns },
    undefined,
    signal,
  )) {
    if (left <= 0) return; // faces follow
    yield batch.count <= left ? batch : firstOf(batch, left);
    left -= batch.count;
  }
}

function firstOf(batch: LoosePoints, count: number): LoosePoints {
  const cut = Object.entries(batch).map(([name, values]) => [
    name,
    typeof values === 'number' ? count : (values as Float64Array).subarray(0, count),
  ]);
  return Object.fromEntries(cut) as LoosePoints;
}

async function* binaryBatches(
  source: ByteSource,
  dataAt: number,
  pointCount: number,
  length: number,
  properties: readonly Property[],
  isLittle: boolean,
  signal: { readonly aborted: boolean } | undefined,
): AsyncGenerator<LoosePoints> {
  for (let first = 0; first < pointCount; first += BATCH_POINTS) {
    checkCancelled(signal);
    const count = Math.min(BATCH_POINTS, pointCount - first);
    const bytes = await source.read(dataAt + first * length, dataAt + (first + count) * length);
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const column = (wanted: TextColumn): { values: Float64Array; type: PlyType } | undefined => {
      const property = properties.find((p) => NAMES[p.name] === wanted);
      return property && { values: readColumn(view, property, length, count, isLittle), type: property.type };
    };
    const colour = (wanted: TextColumn): Uint16Array => {
      const { values, type } = column(wanted)!;
      const factor = TYPES[type] === 1 ? EIGHT_TO_SIXTEEN : type === 'float' || type === 'float32' ? 65_535 : 1;
      return columnFrom(Uint16Array, values, (v) => Math.max(0, Math.min(65_535, v * factor)));
    };
    const intensity = column('intensity');
    const classes = column('class');
    const confidence = column('confidence');
    yield {
      count,
      easting: column('easting')!.values,
      northing: column('northing')!.values,
      elevation: column('elevation')!.values,
      ...(intensity && {
        intensity: columnFrom(Uint16Array, intensity.values, (v) => Math.max(0, Math.min(65_535, v))),
      }),
      ...(column('red') &&
        column('green') &&
        column('blue') && { red: colour('red'), green: colour('green'), blue: colour('blue') }),
      ...(classes && { classification: Uint8Array.from(classes.values) }),
      ...(confidence && { confidence: Float32Array.from(confidence.values) }),
    };
  }
}

function readColumn(
  view: DataView,
  { type, at }: Property,
  length: number,
  count: number,
  isLittle: boolean,
): Float64Array {
  const out = new Float64Array(count);
  const get: (position: number) => number = {
    char: (p: number) => view.getInt8(p),
    int8: (p: number) => view.getInt8(p),
    uchar: (p: number) => view.getUint8(p),
    uint8: (p: number) => view.getUint8(p),
    short: (p: number) => view.getInt16(p, isLittle),
    int16: (p: number) => view.getInt16(p, isLittle),
    ushort: (p: number) => view.getUint16(p, isLittle),
    uint16: (p: number) => view.getUint16(p, isLittle),
    int: (p: number) => view.getInt32(p, isLittle),
    int32: (p: number) => view.getInt32(p, isLittle),
    uint: (p: number) => view.getUint32(p, isLittle),
    uint32: (p: number) => view.getUint32(p, isLittle),
    float: (p: number) => view.getFloat32(p, isLittle),
    float32: (p: number) => view.getFloat32(p, isLittle),
    double: (p: number) => view.getFloat64(p, isLittle),
    float64: (p: number) => view.getFloat64(p, isLittle),
  }[type];
  for (let i = 0, p = at; i < count; i++, p += length) out[i] = get(p);
  return out;
}

function asciiLines(bytes: Uint8Array): string[] {
  let text = '';
  for (let i = 0; i < bytes.length; i += 4096) text += String.fromCharCode(...bytes.subarray(i, i + 4096));
  return text.split('\n');
}

function wrong(source: ByteSource, what: string): FormatError {
  return new FormatError('not-this-format', {
    what,
    where: `${source.name}, header`,
    fix: 'Export the cloud again, as PLY with x, y and z for each vertex, or as LAS.',
  });
}
