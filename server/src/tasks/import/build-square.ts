import { once } from 'node:events';
import type { MessagePort } from 'node:worker_threads';
import {
  addDuplicates,
  addToStatistics,
  countDuplicates,
  buildOctree,
  columnsOf,
  cubeCodes,
  gatherRecords,
  integerBounds,
  newCloudStatistics,
  newPointBatch,
  orderBySquare,
  squareStarts,
  packColumns,
  type CloudStatistics,
  type ColumnName,
  type OctreeCube,
  type OctreeNode,
  type PointBatch,
} from '@pampero/core/cloud';
import { toFullDepth, type ColourDepth } from '@pampero/core/imagery';
import { decodePoints, POINT_FORMATS, pointColumnsOf } from '@pampero/core/formats/las';
import type { NewNode } from '../../store/node-repository.js';
import { importScratch, readRuns } from './record-blocks.js';

/** What is needed to turn records into nodes; the same for all squares of a cloud. */
export interface RecordLayout {
  readonly pointFormat: number;
  readonly recordLength: number;
  readonly cube: OctreeCube;
  /** Columns packed together, in their order. */
  readonly attributeNames: readonly ColumnName[];
  /** How its colours fill their 16 bits. */
  readonly colourDepth: ColourDepth;
}

export interface BuildSquareTask {
  readonly spillPath: string;
  readonly runs: readonly { readonly at: number; readonly length: number }[];
  /** Nodes above this level are shared with other squares. */
  readonly level: number;
  readonly layout: RecordLayout;
  /** Least and greatest scaled elevation of the whole cloud, for the histogram. */
  readonly lowZ: number;
  readonly highZ: number;
  readonly port: MessagePort;
}

/** A square's share of a node above its level. */
export interface SharedPart {
  readonly level: number;
  readonly cell: readonly [number, number, number];
  readonly spacing: number;
  readonly records: Uint8Array;
}

/** Nodes under way at once between a thread and the store: some 8 MB, which makes a transaction worth its while. */
const NODES_AHEAD = 16;

/**
 * Builds the nodes of one square and hands them over one by one, each answered when it is stored; returns its share of the
 * nodes above.
 */
export async function buildSquare(
  task: BuildSquareTask,
): Promise<{ shared: SharedPart[]; statistics: CloudStatistics }> {
  const { layout, port } = task;
  const { recordLength, cube } = layout;
  const records = await readRuns(task.spillPath, task.runs, (length) => importScratch.uint8('square', length));
  const count = records.length / recordLength;
  const positions = recordPositions(records, recordLength, count);
  const codesOf = (values: Int32Array, axis: 0 | 1 | 2): Int32Array =>
    cubeCodes(values, cube, axis, importScratch.int32(`code ${axis}`, count));
  // Each run is in the order of the small squares, then of the file; several are brought into that order too, so that how the file
  // was cut into blocks, and the land into squares, does not show in the nodes.
  const order =
    task.runs.length > 1 ? orderBySquare(codesOf(positions[0], 0), codesOf(positions[1], 1), importScratch) : undefined;
  const [x, y, z] = order
    ? ([0, 1, 2].map((axis) =>
        inOrder(positions[axis as 0], order, importScratch.int32(`place ${axis}`, count)),
      ) as typeof positions)
    : positions;
  const statistics = newCloudStatistics();
  const codes = [codesOf(x, 0), codesOf(y, 1), codesOf(z, 2)] as const;
  // Points that coincide are in the same small square, so that none is missed.
  addDuplicates(statistics, countDuplicates(x, y, z, squareStarts(codes[0], codes[1])));
  const nodes = buildOctree(codes, { sharedLevels: task.level }, importScratch);
  const shared: SharedPart[] = [];
  let underWay = 0;
  port.on('message', () => underWay--);
  try {
    for (const node of nodes) {
      const own = order ? inOrder(order, node.order, importScratch.uint32('own', node.order.length)) : node.order;
      const spacing = node.spacing * cube.side;
      if (node.level < task.level) {
        const kept = gatherRecords(records, recordLength, own);
        shared.push({ level: node.level, cell: node.cell, spacing, records: kept });
        addToStatistics(statistics, decode(kept, layout), task.lowZ, task.highZ);
        continue;
      }
      while (underWay >= NODES_AHEAD) await once(port, 'message');
      underWay++;
      const batch = decode(records, layout, own);
      addToStatistics(statistics, batch, task.lowZ, task.highZ);
      const packed = packBatch(batch, node, spacing, layout);
      const buffers = [packed.geometry, packed.classification, packed.flags, packed.attributes].map(
        (bytes) => bytes.buffer as ArrayBuffer,
      );
      port.postMessage(packed, buffers);
    }
    while (underWay > 0) await once(port, 'message');
  } finally {
    port.close();
  }
  return { shared, statistics };
}

/** Values by their places; a loop, since `from` and `map` with a function take ten times as long a point. */
function inOrder<T extends Int32Array | Uint32Array>(values: T, order: Uint32Array, out: T): T {
  for (let k = 0; k < order.length; k++) out[k] = values[order[k]!]!;
  return out;
}

/** Turns a node's records into the columns the store keeps. */
export function packNode(
  records: Uint8Array,
  node: Pick<OctreeNode, 'level' | 'cell'>,
  spacing: number,
  layout: RecordLayout,
): NewNode {
  return packBatch(decode(records, layout), node, spacing, layout);
}

function packBatch(
  batch: PointBatch,
  { level, cell }: Pick<OctreeNode, 'level' | 'cell'>,
  spacing: number,
  layout: RecordLayout,
): NewNode {
  const box = integerBounds(batch.x, batch.y, batch.z);
  const named = new Map(columnsOf(batch).map(({ name, values }) => [name, values]));
  return {
    level,
    cell,
    count: batch.count,
    spacing,
    min: box.min,
    max: box.max,
    geometry: packColumns([{ values: batch.x }, { values: batch.y }, { values: batch.z }]),
    classification: batch.classification,
    flags: batch.flags,
    attributes: packColumns(layout.attributeNames.map((name) => ({ values: named.get(name)! }))),
  };
}

/** All records, or those named, as columns. */
function decode(
  records: Uint8Array,
  { pointFormat, recordLength, colourDepth }: RecordLayout,
  order?: Uint32Array,
): PointBatch {
  const format = POINT_FORMATS[pointFormat]!;
  const batch = newPointBatch(order?.length ?? records.length / recordLength, pointColumnsOf(format, recordLength));
  decodePoints(records, format, recordLength, batch, order);
  if (colourDepth !== 'full')
    for (const values of [batch.red, batch.green, batch.blue]) if (values) toFullDepth(values, colourDepth);
  return batch;
}

function recordPositions(
  records: Uint8Array,
  recordLength: number,
  count: number,
): [Int32Array, Int32Array, Int32Array] {
  const view = new DataView(records.buffer, records.byteOffset, records.byteLength);
  const [x, y, z] = [0, 1, 2].map((axis) => importScratch.int32(`given ${axis}`, count)) as [
    Int32Array,
    Int32Array,
    Int32Array,
  ];
  for (let i = 0, at = 0; i < count; i++, at += recordLength) {
    x[i] = view.getInt32(at, true);
    y[i] = view.getInt32(at + 4, true);
    z[i] = view.getInt32(at + 8, true);
  }
  return [x, y, z];
}
