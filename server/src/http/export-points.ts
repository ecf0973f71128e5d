import { open, rm, type FileHandle } from 'node:fs/promises';
import type { Response } from 'express';
import type { Job, PointFileFormat, pointExportSchema } from '@pampero/contract';
import type { z } from 'zod';
import { gatherPoints, joinPoints, PointFlag, type PointBatch } from '@pampero/core/cloud';
import { writeCopc, type CopcNode } from '@pampero/core/formats/copc';
import { writeE57 } from '@pampero/core/formats/e57';
import { writeLas } from '@pampero/core/formats/las';
import { writePly } from '@pampero/core/formats/ply';
import { pointsToText, type WrittenColumn } from '@pampero/core/formats/text';
import { OnePointPerCube } from '@pampero/core/thinning';
import { JobError } from '../errors/job-error.js';
import type { JobFile } from '../store/job-file.js';
import type { JobLibrary } from '../jobs/job-library.js';
import {
  listStoredNodes,
  quantisationOf,
  readCloudFacts,
  readNodePoints,
  type StoredNode,
} from '../store/cloud-repository.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { fileSink } from '../files/file-bytes.js';
import { fileStem } from '../products/file-names.js';
import { sendFile } from './send-file.js';
import { crsOf, lasOptions } from '../passes/las-options.js';

type Query = z.output<typeof pointExportSchema>;
type Facts = CloudFacts & { readonly name: string };

const ENDINGS: Record<PointFileFormat, { readonly ending: string; readonly type: string }> = {
  las: { ending: 'las', type: 'application/vnd.las' },
  laz: { ending: 'laz', type: 'application/vnd.laszip' },
  copc: { ending: 'copc.laz', type: 'application/vnd.laszip+copc' },
  e57: { ending: 'e57', type: 'model/e57' },
  ply: { ending: 'ply', type: 'application/octet-stream' },
  xyz: { ending: 'xyz', type: 'text/plain' },
  csv: { ending: 'csv', type: 'text/csv' },
};

/** Puts the file together aside and sends it, so that a failure on the way is an error and not half a file. */
export async function exportPoints(
  library: JobLibrary,
  job: Job,
  file: JobFile,
  cloudId: number,
  query: Query,
  response: Response,
): Promise<void> {
  const facts = await readCloudFacts(file.read, cloudId);
  const path = library.scratchPath('.out');
  const target = await open(path, 'w');
  const stopped = { aborted: false };
  response.on('close', () => (stopped.aborted = true));
  try {
    const nodes = await listStoredNodes(file.read, cloudId);
    const choose = chooser(nodes, facts, query);
    if (query.format === 'copc') await writeAsCopc(target, file, nodes, job, facts, choose, stopped);
    else await writeAs(query, target, chosenPoints(file, nodes, facts, choose), job, facts, stopped);
  } catch (error) {
    await target.close();
    await rm(path, { force: true });
    throw error;
  }
  await target.close();
  const { ending, type } = ENDINGS[query.format];
  await sendFile(response, path, `${fileStem(facts.name)}.${ending}`, type);
}

type Choose = (points: PointBatch) => PointBatch;

/** Leaves of a node what is wanted: its classes, not withheld, one point a cube. */
function chooser(nodes: readonly StoredNode[], facts: Facts, { classes, withheld, spacing }: Query): Choose {
  const wanted = classes && new Set(classes);
  const spaced =
    spacing === undefined
      ? undefined
      : new OnePointPerCube(
          spacing,
          {
            min: (['minX', 'minY', 'minZ'] as const).map((k) =>
              nodes.reduce((least, n) => Math.min(least, n[k]), Infinity),
            ),
            max: (['maxX', 'maxY', 'maxZ'] as const).map((k) =>
              nodes.reduce((most, n) => Math.max(most, n[k]), -Infinity),
            ),
          },
          quantisationOf(facts),
        );
  return (points) => {
    let chosen = points;
    if (wanted || withheld === 'left-out') {
      const order = new Uint32Array(points.count);
      let count = 0;
      for (let i = 0; i < points.count; i++) {
        if (wanted && !wanted.has(points.classification[i]!)) continue;
        if (withheld === 'left-out' && points.flags[i]! & PointFlag.withheld) continue;
        order[count++] = i;
      }
      if (count < points.count) chosen = gatherPoints(points, order.subarray(0, count));
    }
    return spaced && chosen.count > 0 ? spaced.pass(chosen) : chosen;
  };
}

async function* chosenPoints(
  file: JobFile,
  nodes: readonly StoredNode[],
  facts: Facts,
  choose: Choose,
): AsyncGenerator<PointBatch> {
  for (const node of nodes) {
    const points = choose(await readNodePoints(file.read, node, facts));
    if (points.count > 0) yield points;
  }
}

async function writeAs(
  query: Query,
  target: FileHandle,
  batches: AsyncIterable<PointBatch>,
  job: Job,
  facts: Facts,
  stopped: { readonly aborted: boolean },
): Promise<void> {
  const sink = fileSink(target);
  const quantisation = quantisationOf(facts);
  const { columns, isStandardGpsTime } = facts;
  const crs = crsOf(job, facts);
  switch (query.format) {
    case 'e57':
      await writeE57(
        sink,
        batches,
        { name: facts.name, quantisation, columns, isStandardGpsTime, ...(crs.wkt && { wkt: crs.wkt }) },
        stopped,
      );
      return;
    case 'ply':
      await writePly(sink, batches, { quantisation, columns, ...(crs.name && { comment: crs.name }) }, stopped);
      return;
    case 'xyz':
    case 'csv': {
      const isCsv = query.format === 'csv';
      const text = pointsToText(batches, {
        quantisation,
        columns: query.columns ?? usualColumns(columns.rgb),
        delimiter: isCsv ? ',' : ' ',
        hasHeadings: isCsv,
      });
      for await (const piece of text) await sink.append(Buffer.from(piece));
      return;
    }
    default:
      await writeLas(sink, batches, lasOptions(job, facts, query), stopped);
  }
}

function usualColumns(hasColour: boolean): WrittenColumn[] {
  return [
    'easting',
    'northing',
    'elevation',
    'intensity',
    'class',
    ...(hasColour ? (['red', 'green', 'blue'] as const) : []),
  ];
}

/** The cloud's own octree, cell by cell; the store may keep a cell in several nodes. */
async function writeAsCopc(
  target: FileHandle,
  file: JobFile,
  nodes: readonly StoredNode[],
  job: Job,
  facts: Facts,
  choose: Choose,
  stopped: { readonly aborted: boolean },
): Promise<void> {
  const { cube } = facts;
  if (!cube)
    throw new JobError('bad-request', {
      what: 'This cloud was imported before its cells were kept with it.',
      fix: 'Import its file again, or choose LAZ.',
    });
  async function* cells(): AsyncGenerator<CopcNode> {
    const byCell = new Map<string, StoredNode[]>();
    for (const node of nodes) {
      const key = [node.level, node.cellX, node.cellY, node.cellZ].join();
      byCell.set(key, [...(byCell.get(key) ?? []), node]);
    }
    for (const parts of byCell.values()) {
      const { level, cellX, cellY, cellZ } = parts[0]!;
      const points: PointBatch[] = [];
      for (const part of parts) points.push(choose(await readNodePoints(file.read, part, facts)));
      yield { level, cell: [cellX, cellY, cellZ], points: points.length === 1 ? points[0]! : joinPoints(points) };
    }
  }
  const { pointFormat, ...rest } = lasOptions(job, facts, { version: '1.4', format: 'laz' });
  const spacing = nodes.find((node) => node.level === 0)?.spacing ?? cube.side / 128;
  await writeCopc(fileSink(target), cells(), { ...rest, pointFormat, cube, spacing }, stopped);
}
