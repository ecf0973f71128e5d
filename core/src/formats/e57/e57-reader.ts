import { columnFrom } from '../../columns/index.js';
import { crsFromWkt, type CrsDescription } from '../../geodesy/index.js';
import { checkCancelled } from '../../task/index.js';
import { asciiText } from '../byte-cursor.js';
import type { ByteSource } from '../byte-source.js';
import { FormatError, type FormatWarning } from '../format-error.js';
import { asSixteenBits, type LoosePoints } from '../loose-points.js';
import { BitStream } from './bit-stream.js';
import { readE57Xml, type E57Scan } from './e57-scan.js';
import { logicalOf, PAGE_BYTES, readPaged } from './pages.js';

/** An opened E57 file: its scans, and all their points a batch at a time in the file's own system. */
export interface E57File {
  readonly scans: readonly E57Scan[];
  readonly pointCount: number;
  readonly crs: CrsDescription | undefined;
  /** Grows while points are read: points that are marked invalid, a scan that is damaged. */
  readonly warnings: FormatWarning[];
  batches(signal?: { readonly aborted: boolean }): AsyncGenerator<LoosePoints>;
  /** Where each scan lies, told by its first valid point; undefined where its first records have none. */
  firstPoints(): Promise<(readonly [number, number, number] | undefined)[]>;
}

const HEADER_BYTES = 48;
const SECTION_HEADER_BYTES = 32;
const LARGEST_XML = 64 * 1024 * 1024;
const PACKET_DATA = 1;
/** Points that all are the same, every field of them constant. */
const MOST_ALIKE = 1_000_000;
/** Bytes of a field that wait for the others; packets bring all fields along side by side. */
const MOST_AHEAD = 16 * 1024 * 1024;
/** Records handed on at once. */
const BATCH_RECORDS = 65_536;
/** Standard GPS time less 10^9, as LAS counts it (LAS 1.4 R15, global encoding bit 0). */
const ADJUSTED_GPS = 1e9;

/**
 * Opens an E57 file (ASTM E2807-11): Cartesian and spherical scans, with their poses, intensities, colours, returns and
 * times. Checksums of all pages that are read are checked.
 * @param leaveOut - numbers of scans, from 1, that are passed over
 * @throws FormatError
 */
export async function openE57(
  source: ByteSource,
  { leaveOut = [] }: { readonly leaveOut?: readonly number[] } = {},
): Promise<E57File> {
  const head = await source.read(0, HEADER_BYTES);
  if (head.length < HEADER_BYTES || asciiText(head.subarray(0, 8)) !== 'ASTM-E57') {
    throw new FormatError('not-this-format', {
      what: `The file begins with "${asciiText(head.subarray(0, 8))}", an E57 file with "ASTM-E57".`,
      where: source.name,
      fix: 'Choose an E57 file, or correct the file’s ending.',
    });
  }
  const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
  const [major, minor] = [view.getUint32(8, true), view.getUint32(12, true)];
  const fileLength = Number(view.getBigUint64(16, true));
  const xmlAt = Number(view.getBigUint64(24, true));
  const xmlLength = Number(view.getBigUint64(32, true));
  const pageSize = Number(view.getBigUint64(40, true));
  if (major !== 1)
    throw new FormatError('version-unknown', {
      what: `The file is of E57 version ${major}.${minor}; 1.0 can be read.`,
      where: source.name,
      fix: 'Export the scans as E57 1.0.',
    });
  if (pageSize < 64 || pageSize > 1 << 20 || pageSize % 4 !== 0)
    throw damaged(source, `Its pages are said to have ${pageSize} bytes; the standard’s have ${PAGE_BYTES}.`);
  if (xmlLength > LARGEST_XML || xmlLength === 0 || xmlAt >= source.size)
    throw damaged(
      source,
      source.size < fileLength
        ? `The file has ${source.size} of its ${fileLength} bytes: the list of scans, which stands at its end, is missing.`
        : `The XML section is said to have ${xmlLength} bytes at byte ${xmlAt}; the file ends at ${source.size}.`,
    );
  const xml = await readPaged(source, pageSize, logicalOf(xmlAt, pageSize), xmlLength);
  const { scans, crs } = readE57Xml(new TextDecoder().decode(xml), source.name);
  checkNumbers(leaveOut, scans, source);
  for (const scan of scans) checkRoom(scan, source);
  const read = scans.map((scan, k) => ({ scan, number: k + 1 })).filter(({ number }) => !leaveOut.includes(number));
  const pointCount = read.reduce((sum, { scan }) => sum + scan.recordCount, 0);
  if (pointCount === 0)
    throw new FormatError('no-points', {
      what: `The file holds ${scans.length} scans and no points.`,
      where: source.name,
      fix: 'Choose another file.',
    });
  const warnings: FormatWarning[] = [];
  return {
    scans,
    pointCount,
    crs: crs ? crsFromWkt(crs) : undefined,
    warnings,
    batches: (signal) => readScans(source, pageSize, read, warnings, signal),
    firstPoints: () => firstPoints(source, pageSize, scans),
  };
}

/** @throws FormatError where a number is none of the scans, or none would be left */
function checkNumbers(leaveOut: readonly number[], scans: readonly E57Scan[], source: ByteSource): void {
  const stranger = leaveOut.find((number) => !(number >= 1 && number <= scans.length));
  if (stranger === undefined && new Set(leaveOut).size < Math.max(1, scans.length)) return;
  throw new FormatError('no-points', {
    what:
      stranger === undefined
        ? `All ${scans.length} scans are left out.`
        : `There is no scan ${stranger}; the file has ${scans.length}.`,
    where: source.name,
    fix: 'Leave out scans by their numbers, counted from 1, and keep one at least.',
  });
}

/** Where each scan lies, told by the first point of it that is valid; undefined where it has none in its first records. */
async function firstPoints(
  source: ByteSource,
  pageSize: number,
  scans: readonly E57Scan[],
): Promise<(readonly [number, number, number] | undefined)[]> {
  const found: (readonly [number, number, number] | undefined)[] = [];
  const columns = { intensity: false, colour: false, returns: false, time: false, classification: false };
  for (const [index, scan] of scans.entries()) {
    let place: readonly [number, number, number] | undefined;
    try {
      for await (const values of readPackets(source, pageSize, scan, undefined)) {
        const { count, easting, northing, elevation } = pointsOf(values, scan, index + 1, columns);
        if (count > 0) place = [easting[0]!, northing[0]!, elevation[0]!];
        break;
      }
    } catch (error) {
      // A damaged scan is told of when it is read.
      if (!(error instanceof FormatError)) throw error;
    }
    found.push(place);
  }
  return found;
}

/** Points of a place each have to be somewhere in the file: a count it has no room for is not believed. */
function checkRoom({ name, recordCount, fields, at }: E57Scan, source: ByteSource): void {
  const bits = fields.reduce(
    (sum, { encoding }) => sum + (encoding.kind === 'float' ? encoding.bytes * 8 : encoding.bits),
    0,
  );
  const room = Math.max(0, source.size - at) * 8;
  if (recordCount * bits > room || (bits === 0 && recordCount > MOST_ALIKE))
    throw new FormatError('record-length-wrong', {
      what: `${recordCount} points of ${bits} bits each are stated, the file has room for ${bits === 0 ? MOST_ALIKE : Math.floor(room / bits)}.`,
      where: `${source.name}, ${name}`,
      fix: 'The file is damaged or cut short: copy or export it again.',
    });
}

async function* readScans(
  source: ByteSource,
  pageSize: number,
  read: readonly { readonly scan: E57Scan; readonly number: number }[],
  warnings: FormatWarning[],
  signal: { readonly aborted: boolean } | undefined,
): AsyncGenerator<LoosePoints> {
  const has = (...names: string[]): boolean =>
    read.some(({ scan }) => names.every((name) => scan.fields.some((field) => field.name === name)));
  const columns: Columns = {
    intensity: has('intensity'),
    colour: has('colorRed', 'colorGreen', 'colorBlue'),
    returns: has('returnIndex', 'returnCount'),
    time: has('timeStamp'),
    classification: has(CLASS_FIELD),
  };
  let invalid = 0;
  let given = 0;
  for (const { scan, number } of read) {
    let taken = 0;
    try {
      for await (const values of readPackets(source, pageSize, scan, signal)) {
        const points = pointsOf(values, scan, number, columns);
        invalid += values.count - points.count;
        taken += values.count;
        given += points.count;
        if (points.count > 0) yield points;
      }
    } catch (error) {
      // What could be read so far is of use; nothing at all is not.
      if (!(error instanceof FormatError) || given === 0) throw error;
      warnings.push({
        code: 'scan-damaged',
        message:
          `${scan.name}: ${taken} of ${scan.recordCount} points could be read. ${error.what} ${error.where ?? ''}`.trim(),
      });
    }
  }
  if (invalid > 0)
    warnings.push({
      code: 'points-invalid',
      message: `${invalid} points are marked as having no valid position and were left out.`,
    });
}

/** Our own extension's field: E57 has none for classes. */
export const CLASS_FIELD = 'pampero:classification';

interface Columns {
  readonly intensity: boolean;
  readonly colour: boolean;
  readonly returns: boolean;
  readonly time: boolean;
  readonly classification: boolean;
}

interface Values {
  readonly count: number;
  readonly fields: ReadonlyMap<string, Float64Array>;
}

/** The records of a scan, a packet's worth at a time. */
async function* readPackets(
  source: ByteSource,
  pageSize: number,
  scan: E57Scan,
  signal: { readonly aborted: boolean } | undefined,
): AsyncGenerator<Values> {
  const broken = (what: string): FormatError =>
    new FormatError('record-length-wrong', {
      what,
      where: `${source.name}, ${scan.name}`,
      fix: 'The file is damaged: copy or export it again.',
    });
  const sectionAt = logicalOf(scan.at, pageSize);
  const section = await readPaged(source, pageSize, sectionAt, SECTION_HEADER_BYTES);
  const head = new DataView(section.buffer);
  if (section[0] !== 1) throw broken(`Its points begin with a section of kind ${section[0]}, not 1.`);
  const end = sectionAt + Number(head.getBigUint64(8, true));
  let at = logicalOf(Number(head.getBigUint64(16, true)), pageSize);
  const streams = scan.fields.map(({ encoding }) => new BitStream(encoding));
  let left = scan.recordCount;
  const readyOf = (): number => Math.min(left, BATCH_RECORDS, ...streams.map((stream) => stream.ready));
  while (left > 0) {
    checkCancelled(signal);
    if (at + 4 > end || at < sectionAt)
      throw broken(`Its points end ${left} short of the ${scan.recordCount} that are stated.`);
    const packetHead = await readPaged(source, pageSize, at, 4);
    const length = 1 + (packetHead[2]! | (packetHead[3]! << 8));
    if (packetHead[0] === PACKET_DATA) {
      const packet = await readPaged(source, pageSize, at, length);
      const count = packet[4]! | (packet[5]! << 8);
      if (count !== streams.length) throw broken(`A packet has ${count} fields, the prototype ${streams.length}.`);
      let from = 6 + count * 2;
      for (let k = 0; k < count; k++) {
        const size = packet[6 + k * 2]! | (packet[7 + k * 2]! << 8);
        if (from + size > length) throw broken(`A packet’s fields run past its ${length} bytes.`);
        streams[k]!.add(packet.subarray(from, from + size));
        if (streams[k]!.held > MOST_AHEAD) throw broken('One of its fields runs far ahead of the others.');
        from += size;
      }
      // Fields that never change take no room: what a packet brings of them is handed on in portions.
      for (let ready = readyOf(); ready > 0; ready = readyOf()) {
        const values = new Map(scan.fields.map(({ name }, k) => [name, streams[k]!.take(ready)]));
        left -= ready;
        yield { count: ready, fields: values };
      }
    }
    // A packet of nothing else would let a damaged file be walked byte by byte.
    at += Math.max(4, length);
  }
}

/** Valid points of some records, moved by the scan's pose. */
function pointsOf({ count, fields }: Values, scan: E57Scan, source: number, columns: Columns): LoosePoints {
  const invalid = fields.get('cartesianInvalidState') ?? fields.get('sphericalInvalidState');
  const local = cartesian(fields);
  const kept: number[] = [];
  for (let i = 0; i < count; i++)
    if (!(invalid && invalid[i]! > 0) && Number.isFinite(local.x[i]! + local.y[i]! + local.z[i]!)) kept.push(i);
  const pick = (values: Float64Array): Float64Array =>
    kept.length === count ? values : columnFrom(Float64Array, kept, (i) => values[i]!);
  const [x, y, z] = [pick(local.x), pick(local.y), pick(local.z)];
  const { rotation: r, translation: t } = scan;
  for (let i = 0; i < kept.length; i++) {
    const [a, b, c] = [x[i]!, y[i]!, z[i]!];
    x[i] = (r ? r[0]! * a + r[1]! * b + r[2]! * c : a) + t[0];
    y[i] = (r ? r[3]! * a + r[4]! * b + r[5]! * c : b) + t[1];
    z[i] = (r ? r[6]! * a + r[7]! * b + r[8]! * c : c) + t[2];
  }
  const sixteen = (name: string, limits: readonly [number, number] | undefined): Uint16Array => {
    const values = fields.get(name);
    if (!values) return new Uint16Array(kept.length);
    const [low, high] = limits ?? rangeOf(scan, name);
    return asSixteenBits(pick(values), low, high);
  };
  const [returnIndex, returnCount, time, classes] = ['returnIndex', 'returnCount', 'timeStamp', CLASS_FIELD].map(
    (name) => fields.get(name),
  );
  return {
    count: kept.length,
    easting: x,
    northing: y,
    elevation: z,
    pointSourceId: new Uint16Array(kept.length).fill(source),
    ...(columns.intensity && { intensity: sixteen('intensity', scan.intensityLimits) }),
    ...(columns.colour && {
      red: sixteen('colorRed', scan.colourLimits),
      green: sixteen('colorGreen', scan.colourLimits),
      blue: sixteen('colorBlue', scan.colourLimits),
    }),
    ...(columns.returns && {
      returns: columnFrom(Uint8Array, kept, (i) =>
        returnIndex && returnCount ? Math.min(15, returnIndex[i]! + 1) | (Math.min(15, returnCount[i]!) << 4) : 0x11,
      ),
    }),
    ...(columns.time && {
      gpsTime: columnFrom(Float64Array, kept, (i) =>
        time ? time[i]! + (scan.start > 0 ? scan.start - ADJUSTED_GPS : 0) : 0,
      ),
    }),
    ...(columns.classification && { classification: columnFrom(Uint8Array, kept, (i) => classes?.[i] ?? 1) }),
  };
}

/** Positions in the scan's own system; spherical ones are range, azimuth from x towards y, elevation above the plane. */
function cartesian(fields: ReadonlyMap<string, Float64Array>): { x: Float64Array; y: Float64Array; z: Float64Array } {
  const [x, y, z] = ['cartesianX', 'cartesianY', 'cartesianZ'].map((name) => fields.get(name));
  if (x && y && z) return { x, y, z };
  const [range, azimuth, elevation] = ['sphericalRange', 'sphericalAzimuth', 'sphericalElevation'].map((name) =>
    fields.get(name),
  );
  if (!range || !azimuth || !elevation)
    throw new FormatError('not-this-format', {
      what: 'The points have neither Cartesian nor spherical coordinates.',
      fix: 'Export the scans with coordinates.',
    });
  const inPlane = range.map((r, i) => r * Math.cos(elevation[i]!));
  return {
    x: inPlane.map((r, i) => r * Math.cos(azimuth[i]!)),
    y: inPlane.map((r, i) => r * Math.sin(azimuth[i]!)),
    z: range.map((r, i) => r * Math.sin(elevation[i]!)),
  };
}

/** What values a field can have where the scan does not say: those of its integers, or 0 to 1. */
function rangeOf(scan: E57Scan, name: string): readonly [number, number] {
  const encoding = scan.fields.find((field) => field.name === name)?.encoding;
  return encoding?.kind === 'integer'
    ? [encoding.minimum * encoding.scale + encoding.offset, encoding.maximum * encoding.scale + encoding.offset]
    : [0, 1];
}

function damaged(source: ByteSource, what: string): FormatError {
  return new FormatError('file-ends-early', {
    what,
    where: `${source.name}, header`,
    fix: 'The file is damaged or cut short: copy or export it again.',
  });
}
