import { open, type FileHandle } from 'node:fs/promises';
import type { Job, pointExportSchema } from '@pampero/contract';
import type { z } from 'zod';
import { gatherPoints, joinPoints, PointFlag, type PointBatch } from '@pampero/core/cloud';
import { writeCopc, type CopcNode } from '@pampero/core/formats/copc';
import { writeE57 } from '@pampero/core/formats/e57';
import { writeLas } from '@pampero/core/formats/las';
import { writePly } from '@pampero/core/formats/ply';
import { pointsToText, type WrittenColumn } from '@pampero/core/formats/text';
import type { PlanBounds } from '@pampero/core/raster';
import { ownsPlace } from '@pampero/core/squares';
import { checkCancelled } from '@pampero/core/task';
import { OnePointPerCube } from '@pampero/core/thinning';
import { JobError } from '../errors/job-error.js';
import type { Models } from '../store/models.js';
import { quantisationOf, readCloudFacts } from '../store/cloud-repository.js';
import { listStoredNodes, readNodePoints, type StoredNode } from '../store/node-repository.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { fileSink } from '../files/file-bytes.js';
import { crsOf, lasOptions } from '../passes/las-options.js';

type Query = z.output<typeof pointExportSchema>;
/** Turns true when nobody waits for the file any more. */
export interface Stopped {
  readonly aborted: boolean;
}
type Facts = CloudFacts & { readonly name: string };

/** Writes the points that are asked for to a file. */
export async function writePointsFile(
  models: Models,
  job: Job,
  { cloudId, query, target: path }: { readonly cloudId: number; readonly query: Query; readonly target: string },
  stopped: Stopped,
): Promise<void> {
  const facts = await readCloudFacts(models, cloudId);
  const target = await open(path, 'w');
  try {
    const nodes = await listStoredNodes(models, cloudId);
    const choose = chooser(nodes, facts, query, job.square?.land);
    if (query.format === 'copc') await writeAsCopc(target, models, nodes, job, facts, choose, stopped);
    else await writeAs(query, target, chosenPoints(models, nodes, facts, choose, stopped), job, facts, stopped);
  } finally {
    await target.close();
  }
}

type Choose = (points: PointBatch) => PointBatch;

/** Leaves of a node what is wanted: what the job's square owns, its classes, not withheld, one point a cube. */
function chooser(
  nodes: readonly StoredNode[],
  facts: Facts,
  { classes, withheld, spacing }: Query,
  square: PlanBounds | undefined,
): Choose {
  const { scale, offset } = quantisationOf(facts);
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
    if (wanted || square || withheld === 'left-out') {
      const order = new Uint32Array(points.count);
      let count = 0;
      for (let i = 0; i < points.count; i++) {
        if (wanted && !wanted.has(points.classification[i]!)) continue;
        if (withheld === 'left-out' && points.flags[i]! & PointFlag.withheld) continue;
        if (square && !ownsPlace(square, points.x[i]! * scale[0] + offset[0], points.y[i]! * scale[1] + offset[1]))
          continue;
        order[count++] = i;
      }
      if (count < points.count) chosen = gatherPoints(points, order.subarray(0, count));
    }
    return spaced && chosen.count > 0 ? spaced.pass(chosen) : chosen;
  };
}

async function* chosenPoints(
  models: Models,
  nodes: readonly StoredNode[],
  facts: Facts,
  choose: Choose,
  stopped: Stopped,
): AsyncGenerator<PointBatch> {
  for (const node of nodes) {
    checkCancelled(stopped);
    const points = choose(await readNodePoints(models, node, facts));
    if (points.count > 0) yield points;
  }
}

async function writeAs(
  query: Query,
  target: FileHandle,
  batches: AsyncIterable<PointBatch>,
  job: Job,
  facts: Facts,
  stopped: Stopped,
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
  models: Models,
  nodes: readonly StoredNode[],
  job: Job,
  facts: Facts,
  choose: Choose,
  stopped: Stopped,
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
      for (const part of parts) points.push(choose(await readNodePoints(models, part, facts)));
      yield { level, cell: [cellX, cellY, cellZ], points: points.length === 1 ? points[0]! : joinPoints(points) };
    }
  }
  const { pointFormat, ...rest } = lasOptions(job, facts, { version: '1.4', format: 'laz' });
  const spacing = nodes.find((node) => node.level === 0)?.spacing ?? cube.side / 128;
  await writeCopc(fileSink(target), cells(), { ...rest, pointFormat, cube, spacing }, stopped);
}
