import type { Bounds, ColumnName } from '@pampero/core/cloud';
import type { LazChunk } from '@pampero/core/formats/laz';
import type { LasFacts } from '../../tasks/reading-tasks.js';
import type { TaskPool } from '../../tasks/task-pool.js';
import type { RecordSource } from './sort-records.js';

/** The records of a LAS or LAZ file, block by block; a block of a compressed file is some of its chunks. */
export function lasRecordSource(
  las: LasFacts,
  path: string,
  fileName: string,
  pool: TaskPool,
  signal: AbortSignal,
  /** Points read, sorted and written at once by a thread. */
  blockPoints: number,
): RecordSource {
  const { recordLength, pointDataOffset } = las.header;
  const { rgbAt } = las.format;
  const common = {
    pointFormat: las.format.id,
    recordLength,
    quantisation: las.quantisation,
    attributeNames: attributeNamesOf(las),
    statedBounds: statedBounds(las),
  };
  if (las.chunks) {
    const blocks = groupChunks(las.chunks, blockPoints);
    return {
      ...common,
      blockCounts: blocks.map((chunks) => chunks.reduce((sum, chunk) => sum + chunk.count, 0)),
      sortBlock: (index, to) =>
        pool.read(
          'sortLazBlock',
          { path, fileName, chunks: blocks[index]!, pointFormat: las.format.id, recordLength, rgbAt, ...to },
          { path, fileName, signal },
        ),
    };
  }
  const blockCounts: number[] = [];
  for (let first = 0; first < las.pointCount; first += blockPoints)
    blockCounts.push(Math.min(blockPoints, las.pointCount - first));
  return {
    ...common,
    blockCounts,
    sortBlock: (index, to) =>
      pool.run(
        'sortBlock',
        {
          block: { path, at: pointDataOffset + index * blockPoints * recordLength, count: blockCounts[index]! },
          recordLength,
          rgbAt,
          ...to,
        },
        signal,
      ),
  };
}

function groupChunks(chunks: readonly LazChunk[], blockPoints: number): LazChunk[][] {
  const blocks: LazChunk[][] = [];
  let points = Infinity;
  for (const chunk of chunks) {
    if (points + chunk.count > blockPoints) {
      blocks.push([]);
      points = 0;
    }
    blocks.at(-1)!.push(chunk);
    points += chunk.count;
  }
  return blocks;
}

/** Columns kept together, since nothing changes them; those with a place of their own in the store are not among them. */
export function attributeNamesOf({ columns }: Pick<LasFacts, 'columns'>): ColumnName[] {
  return [
    'intensity',
    'returns',
    'userData',
    'scanAngle',
    'pointSourceId',
    ...(columns.gpsTime ? (['gpsTime'] as const) : []),
    ...(columns.rgb ? (['red', 'green', 'blue'] as const) : []),
    ...(columns.nearInfrared ? (['nearInfrared'] as const) : []),
    ...(columns.wavePacket ? (['wavePacket'] as const) : []),
    ...(columns.extraBytesLength > 0 ? (['extraBytes'] as const) : []),
  ];
}

/** The header's bounds as scaled integers, where they can be any. */
export function statedBounds({ header, quantisation: { scale, offset } }: LasFacts): Bounds | undefined {
  const integer = (value: number, axis: 0 | 1 | 2): number => (value - offset[axis]) / scale[axis];
  const min = [header.minX, header.minY, header.minZ].map((v, axis) => Math.floor(integer(v, axis as 0)) - 1) as [
    number,
    number,
    number,
  ];
  const max = [header.maxX, header.maxY, header.maxZ].map((v, axis) => Math.ceil(integer(v, axis as 0)) + 1) as [
    number,
    number,
    number,
  ];
  const isSane = [0, 1, 2].every(
    (axis) => min[axis]! <= max[axis]! && Math.abs(min[axis]!) <= 2 ** 31 + 1 && Math.abs(max[axis]!) <= 2 ** 31 + 1,
  );
  return isSane ? { min, max } : undefined;
}
