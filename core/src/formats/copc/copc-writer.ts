import type { PointBatch } from '../../cloud/index.js';
import { checkCancelled } from '../../task/index.js';
import type { ByteSink } from '../byte-source.js';
import { FormatError } from '../format-error.js';
import { LasTally } from '../las/las-tally.js';
import type { LasWriterOptions } from '../las/las-writer-options.js';
import { lazEncoding, LazChunkSink } from '../las/laz-point-sink.js';
import { POINT_FORMATS } from '../las/point-format.js';
import { HEADER_SIZE } from '../las/public-header.js';
import {
  EVLR_HEADER_LENGTH,
  extendedRecordBytes,
  VLR_HEADER_LENGTH,
  variableLengthRecordBytes,
} from '../las/variable-length-record.js';
import { recordsOf } from '../las/written-records.js';

/** A cell of the octree with all of its points. */
export interface CopcNode {
  readonly level: number;
  readonly cell: readonly [number, number, number];
  readonly points: PointBatch;
}

export interface CopcOptions extends Omit<LasWriterOptions, 'version' | 'isCompressed'> {
  /** The root cube, in coordinates. */
  readonly cube: { readonly low: readonly [number, number, number]; readonly side: number };
  /** Distance between the root's points. */
  readonly spacing: number;
}

const INFO_LENGTH = 160;
const ENTRY_LENGTH = 32;
/** Where the copc specification wants the information record: first, right behind the header. */
const INFO_AT = HEADER_SIZE[4] + VLR_HEADER_LENGTH;

/**
 * Writes nodes of an additive octree as Cloud Optimized Point Cloud 1.0 (copc.io specification): LAZ in point formats 6 to
 * 8, a chunk a node, all nodes in one page of the hierarchy. Each cell comes once; empty nodes are left out.
 * @returns how many points were written
 * @throws FormatError where the format cannot hold the points
 */
export async function writeCopc(
  sink: ByteSink,
  nodes: AsyncIterable<CopcNode> | Iterable<CopcNode>,
  options: CopcOptions,
  signal?: { readonly aborted: boolean },
): Promise<number> {
  const format = POINT_FORMATS[options.pointFormat];
  if (!format || ![6, 7, 8].includes(format.id)) {
    throw new FormatError('point-format-unknown', {
      what: `COPC has no point format ${options.pointFormat}.`,
      fix: 'Choose 6, 7 or 8.',
    });
  }
  const encoding = lazEncoding(format, options.extraBytesLength ?? 0, true);
  const info = { userId: 'copc', recordId: 1, description: 'COPC info', data: new Uint8Array(INFO_LENGTH) };
  const records = recordsOf(options, format, [info, encoding.record]).map(variableLengthRecordBytes);
  const pointDataOffset = records.reduce<number>((sum, record) => sum + record.length, HEADER_SIZE[4]);
  const tally = new LasTally({ ...options, version: '1.4', isCompressed: true }, format, 4);
  const chunks = new LazChunkSink(sink, encoding, pointDataOffset, true);
  await sink.append(new Uint8Array(HEADER_SIZE[4]));
  for (const record of records) await sink.append(record);
  await chunks.begin();

  const entries: { node: CopcNode; at: number; length: number }[] = [];
  let [firstTime, lastTime] = [Infinity, -Infinity];
  for await (const node of nodes) {
    checkCancelled(signal);
    const { points } = node;
    if (points.count === 0) continue;
    if (encoding.isOfOneChannel) checkOneChannel(points);
    for (const time of points.gpsTime ?? []) {
      if (time < firstTime) firstTime = time;
      if (time > lastTime) lastTime = time;
    }
    const at = chunks.at;
    const length = await chunks.append(tally.encode(points));
    // The points themselves are not kept: entries of a large cloud are many.
    entries.push({ node: { ...node, points: { count: points.count } as PointBatch }, at, length });
  }
  const evlrOffset = await chunks.finish();
  const hierarchy = hierarchyPage(withAncestors(entries));
  await sink.append(
    extendedRecordBytes({ userId: 'copc', recordId: 1000, description: 'COPC hierarchy', data: hierarchy }),
  );
  await sink.patch(0, tally.header({ pointDataOffset, vlrCount: records.length, evlrOffset, evlrCount: 1 }));
  await sink.patch(
    INFO_AT,
    infoBytes(
      options,
      [evlrOffset + EVLR_HEADER_LENGTH, hierarchy.length],
      entries.length ? [firstTime, lastTime] : [0, 0],
    ),
  );
  return tally.count;
}

/** Colours of several scanner channels in one chunk are read differently by different decoders: rather none than wrong. */
function checkOneChannel({ flags, count }: PointBatch): void {
  const channel = (flags[0]! >> 4) & 3;
  for (let i = 1; i < count; i++) {
    if (((flags[i]! >> 4) & 3) === channel) continue;
    throw new FormatError('value-does-not-fit', {
      what: 'The cloud mixes several scanner channels and has colours or extra bytes: COPC readers do not agree on how to read that.',
      fix: 'Choose LAZ, which all of them read alike.',
    });
  }
}

/** A cell needs its parents in the hierarchy, with no points where they have none. */
function withAncestors(
  entries: readonly { node: CopcNode; at: number; length: number }[],
): { key: readonly number[]; at: number; length: number; count: number }[] {
  const found = new Map<string, { key: readonly number[]; at: number; length: number; count: number }>();
  for (const { node, at, length } of entries) {
    const key = [node.level, ...node.cell];
    if (found.get(key.join())?.length) throw new Error(`Cell ${key.join('-')} came twice.`);
    found.set(key.join(), { key, at, length, count: node.points.count });
    for (let up = 1; up <= node.level; up++) {
      const parent = [node.level - up, ...node.cell.map((c) => c >> up)];
      if (!found.has(parent.join())) found.set(parent.join(), { key: parent, at: 0, length: 0, count: 0 });
    }
  }
  return [...found.values()].sort((a, b) => a.key[0]! - b.key[0]! || a.at - b.at);
}

function hierarchyPage(
  entries: readonly { key: readonly number[]; at: number; length: number; count: number }[],
): Uint8Array {
  const page = new Uint8Array(entries.length * ENTRY_LENGTH);
  const view = new DataView(page.buffer);
  entries.forEach(({ key, at, length, count }, i) => {
    const to = i * ENTRY_LENGTH;
    key.forEach((value, k) => view.setInt32(to + k * 4, value, true));
    view.setBigUint64(to + 16, BigInt(at), true);
    view.setInt32(to + 24, length, true);
    view.setInt32(to + 28, count, true);
  });
  return page;
}

function infoBytes(
  { cube: { low, side }, spacing }: CopcOptions,
  [pageAt, pageLength]: readonly [number, number],
  [firstTime, lastTime]: readonly [number, number],
): Uint8Array {
  const bytes = new Uint8Array(INFO_LENGTH);
  const view = new DataView(bytes.buffer);
  [...low.map((value) => value + side / 2), side / 2, spacing].forEach((value, i) =>
    view.setFloat64(i * 8, value, true),
  );
  view.setBigUint64(40, BigInt(pageAt), true);
  view.setBigUint64(48, BigInt(pageLength), true);
  const isTimed = Number.isFinite(firstTime);
  view.setFloat64(56, isTimed ? firstTime : 0, true);
  view.setFloat64(64, isTimed ? lastTime : 0, true);
  return bytes;
}
