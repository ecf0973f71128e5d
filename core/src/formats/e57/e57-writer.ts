import {
  emptyBounds,
  growBounds,
  integerBounds,
  type PointBatch,
  type PointColumns,
  type Quantisation,
} from '../../cloud/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSink } from '../byte-source.js';
import { escapeXml } from '../xml-text.js';
import { CLASS_FIELD } from './e57-reader.js';
import { PagedSink, physicalOf, PAGE_BYTES } from './pages.js';

export interface E57WriterOptions {
  readonly name: string;
  readonly quantisation: Quantisation;
  readonly columns: PointColumns;
  /** GPS times are seconds since 6 January 1980 less 10^9 (true), or of the GPS week (false). */
  readonly isStandardGpsTime?: boolean;
  /** Well-known text of the coordinate system. */
  readonly wkt?: string;
  readonly created?: Date;
}

interface WrittenField {
  readonly name: string;
  readonly bytes: 1 | 2 | 4 | 8;
  readonly xml: string;
  put(view: DataView, at: number, batch: PointBatch, i: number): void;
}

const HEADER_BYTES = 48;
const SECTION_AT = HEADER_BYTES;
const SECTION_BYTES = 32;
/** Records of a packet: the fullest is then some 64 000 bytes, of at most 65 536. */
const PACKET_RECORDS = 1900;
const GPS_EPOCH = Date.UTC(1980, 0, 6);
/** Field lengths are whole bytes, so that no value straddles two. */
const integer = (minimum: number, maximum: number): string =>
  `type="Integer" minimum="${minimum}" maximum="${maximum}"`;

function fieldsOf({ quantisation: { scale, offset }, columns }: E57WriterOptions): WrittenField[] {
  const axis = (name: string, k: 0 | 1 | 2, column: 'x' | 'y' | 'z'): WrittenField => ({
    name,
    bytes: 4,
    xml: `type="ScaledInteger" minimum="-2147483648" maximum="2147483647" scale="${scale[k]}" offset="${offset[k]}"`,
    put: (view, at, batch, i) => view.setUint32(at, batch[column][i]! + 2 ** 31, true),
  });
  const sixteen = (name: string, column: 'intensity' | 'red' | 'green' | 'blue'): WrittenField => ({
    name,
    bytes: 2,
    xml: integer(0, 65_535),
    put: (view, at, batch, i) => view.setUint16(at, batch[column]![i]!, true),
  });
  const byte = (name: string, value: (batch: PointBatch, i: number) => number): WrittenField => ({
    name,
    bytes: 1,
    xml: integer(0, 255),
    put: (view, at, batch, i) => view.setUint8(at, value(batch, i)),
  });
  return [
    axis('cartesianX', 0, 'x'),
    axis('cartesianY', 1, 'y'),
    axis('cartesianZ', 2, 'z'),
    sixteen('intensity', 'intensity'),
    ...(columns.rgb ? [sixteen('colorRed', 'red'), sixteen('colorGreen', 'green'), sixteen('colorBlue', 'blue')] : []),
    byte('returnIndex', (batch, i) => Math.max(0, (batch.returns[i]! & 15) - 1)),
    byte('returnCount', (batch, i) => batch.returns[i]! >> 4),
    ...(columns.gpsTime
      ? [
          {
            name: 'timeStamp',
            bytes: 8,
            xml: 'type="Float"',
            put: (view, at, batch, i) => view.setFloat64(at, batch.gpsTime![i]!, true),
          } satisfies WrittenField,
        ]
      : []),
    byte(CLASS_FIELD, (batch, i) => batch.classification[i]!),
  ];
}

/**
 * Writes batches as one scan of an E57 file (ASTM E2807-11), coordinates as the cloud's own scaled integers. The class,
 * for which the standard has no field, goes into an extension of our own that other readers pass over.
 * @returns how many points were written
 */
export async function writeE57(
  sink: ByteSink,
  batches: AsyncIterable<PointBatch> | Iterable<PointBatch>,
  options: E57WriterOptions,
  signal?: { readonly aborted: boolean },
): Promise<number> {
  const pages = new PagedSink(sink);
  const fields = fieldsOf(options);
  const bounds = emptyBounds();
  await pages.append(new Uint8Array(HEADER_BYTES + SECTION_BYTES));
  let count = 0;
  for await (const batch of batches) {
    checkCancelled(signal);
    for (let first = 0; first < batch.count; first += PACKET_RECORDS)
      await pages.append(dataPacket(fields, batch, first, Math.min(batch.count, first + PACKET_RECORDS)));
    growBounds(bounds, integerBounds(batch.x, batch.y, batch.z));
    count += batch.count;
  }
  const sectionEnd = pages.logical;
  const xml = new TextEncoder().encode(xmlOf(options, fields, count, bounds));
  const xmlAt = physicalOf(pages.logical);
  await pages.append(xml);
  await pages.finish((first, fileLength) => {
    'ASTM-E57'.split('').forEach((letter, i) => first.setUint8(i, letter.charCodeAt(0)));
    first.setUint32(8, 1, true);
    first.setBigUint64(16, BigInt(fileLength), true);
    first.setBigUint64(24, BigInt(xmlAt), true);
    first.setBigUint64(32, BigInt(xml.length), true);
    first.setBigUint64(40, BigInt(PAGE_BYTES), true);
    first.setUint8(SECTION_AT, 1);
    first.setBigUint64(SECTION_AT + 8, BigInt(sectionEnd - SECTION_AT), true);
    first.setBigUint64(SECTION_AT + 16, BigInt(physicalOf(SECTION_AT + SECTION_BYTES)), true);
  });
  return count;
}

function dataPacket(fields: readonly WrittenField[], batch: PointBatch, first: number, end: number): Uint8Array {
  const count = end - first;
  const head = 6 + fields.length * 2;
  const content = fields.reduce((sum, field) => sum + field.bytes * count, head);
  const packet = new Uint8Array(Math.ceil(content / 4) * 4);
  const view = new DataView(packet.buffer);
  packet[0] = 1;
  view.setUint16(2, packet.length - 1, true);
  view.setUint16(4, fields.length, true);
  let at = head;
  fields.forEach((field, k) => {
    view.setUint16(6 + k * 2, field.bytes * count, true);
    for (let i = first; i < end; i++, at += field.bytes) field.put(view, at, batch, i);
  });
  return packet;
}

function xmlOf(
  { name, quantisation: { scale, offset }, columns, isStandardGpsTime, wkt, created }: E57WriterOptions,
  fields: readonly WrittenField[],
  count: number,
  bounds: { readonly min: readonly number[]; readonly max: readonly number[] },
): string {
  const float = (tag: string, value: number): string => `<${tag} type="Float">${value}</${tag}>`;
  const at = (end: 'min' | 'max', axis: number): number =>
    count === 0 ? 0 : bounds[end][axis]! * scale[axis]! + offset[axis]!;
  const gpsSeconds = ((created ?? new Date()).getTime() - GPS_EPOCH) / 1000;
  const limits = (parts: readonly string[]): string =>
    parts
      .map(
        (part) =>
          `<${part}Minimum type="Integer">0</${part}Minimum><${part}Maximum type="Integer">65535</${part}Maximum>`,
      )
      .join('');
  const axes = ['x', 'y', 'z'].flatMap((axis, k) => [
    float(`${axis}Minimum`, at('min', k)),
    float(`${axis}Maximum`, at('max', k)),
  ]);
  return [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<e57Root type="Structure" xmlns="http://www.astm.org/COMMIT/E57/2010-e57-v1.0" xmlns:pampero="urn:pampero:e57:1">',
    '<formatName type="String">ASTM E57 3D Imaging Data File</formatName>',
    `<guid type="String">{${guidOf(name, count, 0)}}</guid>`,
    '<versionMajor type="Integer">1</versionMajor><versionMinor type="Integer">0</versionMinor>',
    '<e57LibraryVersion type="String">Pampero</e57LibraryVersion>',
    `<creationDateTime type="Structure">${float('dateTimeValue', gpsSeconds)}<isAtomicClockReferenced type="Integer">0</isAtomicClockReferenced></creationDateTime>`,
    `<coordinateMetadata type="String">${escapeXml(wkt ?? '')}</coordinateMetadata>`,
    '<data3D type="Vector" allowHeterogeneousChildren="1"><vectorChild type="Structure">',
    `<guid type="String">{${guidOf(name, count, 1)}}</guid><name type="String">${escapeXml(name)}</name>`,
    ...(columns.gpsTime && isStandardGpsTime
      ? [
          `<acquisitionStart type="Structure">${float('dateTimeValue', 1e9)}<isAtomicClockReferenced type="Integer">1</isAtomicClockReferenced></acquisitionStart>`,
        ]
      : []),
    `<cartesianBounds type="Structure">${axes.join('')}</cartesianBounds>`,
    `<intensityLimits type="Structure">${limits(['intensity'])}</intensityLimits>`,
    ...(columns.rgb
      ? [`<colorLimits type="Structure">${limits(['colorRed', 'colorGreen', 'colorBlue'])}</colorLimits>`]
      : []),
    `<points type="CompressedVector" fileOffset="${physicalOf(SECTION_AT)}" recordCount="${count}">`,
    '<prototype type="Structure">',
    ...fields.map((field) => `<${field.name} ${field.xml}/>`),
    '</prototype><codecs type="Vector" allowHeterogeneousChildren="1"></codecs></points>',
    '</vectorChild></data3D><images2D type="Vector" allowHeterogeneousChildren="1"></images2D></e57Root>',
  ].join('\n');
}

/** An identifier that depends on the content alone, so that the same cloud gives the same file. */
function guidOf(name: string, count: number, salt: number): string {
  let hash = 0x811c_9dc5 ^ salt;
  let text = '';
  for (let word = 0; word < 4; word++) {
    for (const letter of `${name}/${count}/${word}`) hash = Math.imul(hash ^ letter.charCodeAt(0), 0x0100_0193) >>> 0;
    text += hash.toString(16).padStart(8, '0');
  }
  return text.replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5').toUpperCase();
}
