import { once } from 'node:events';
import type { MessagePort } from 'node:worker_threads';
import {
  buildOctree,
  columnsOf,
  COLUMN_NAMES,
  gatherPoints,
  integerBounds,
  newPointBatch,
  packColumns,
  type ColumnName,
  type PointBatch,
  type PointColumns,
} from '@pampero/core/cloud';
import { openLas } from '@pampero/core/formats/las';
import type { CloudFacts } from '../store/cloud-facts.js';
import type { NewNode } from '../store/cloud-repository.js';
import { openFileSource } from '../store/file-bytes.js';

export interface ImportTask {
  readonly path: string;
  readonly fileName: string;
  readonly port: MessagePort;
}

/** What the port carries to the server; it answers each node with any message once that is stored. */
export type ImportMessage =
  | { readonly kind: 'progress'; readonly step: string; readonly share: number }
  | { readonly kind: 'node'; readonly node: NewNode };

/** Nodes under way at once; bounds the memory between the thread and the store. */
const NODES_AHEAD = 4;
/** Columns with a place of their own in the store; all others are packed together. */
const OWN_PLACE: readonly ColumnName[] = ['x', 'y', 'z', 'classification', 'flags'];

/** Reads a LAS file, sorts it into the octree and hands over node after node. */
export async function importLas({
  path,
  fileName,
  port,
}: ImportTask): Promise<{ facts: CloudFacts; pointCount: number }> {
  const source = await openFileSource(path, fileName);
  try {
    const las = await openLas(source);
    const { quantisation, columns, pointCount } = las;
    const cloud = newPointBatch(pointCount, columns);
    let filled = 0;
    for await (const batch of las.batches()) {
      copyInto(cloud, batch, filled);
      filled += batch.count;
      port.postMessage({
        kind: 'progress',
        step: 'Reading points',
        share: (0.35 * filled) / pointCount,
      } satisfies ImportMessage);
    }
    const warnings = [...las.warnings];
    const bounds = integerBounds(cloud.x, cloud.y, cloud.z);
    const at = (axis: 0 | 1 | 2, integer: number): number =>
      integer * quantisation.scale[axis] + quantisation.offset[axis];
    const realBounds = {
      min: [at(0, bounds.min[0]), at(1, bounds.min[1]), at(2, bounds.min[2])] as [number, number, number],
      max: [at(0, bounds.max[0]), at(1, bounds.max[1]), at(2, bounds.max[2])] as [number, number, number],
    };
    const { header } = las;
    const stated = { min: [header.minX, header.minY, header.minZ], max: [header.maxX, header.maxY, header.maxZ] };
    const off = Math.max(
      ...[0, 1, 2].flatMap((axis) => [
        Math.abs(stated.min[axis]! - realBounds.min[axis]!) / quantisation.scale[axis]!,
        Math.abs(stated.max[axis]! - realBounds.max[axis]!) / quantisation.scale[axis]!,
      ]),
    );
    if (!(off <= 1.5))
      warnings.push({
        code: 'bounds-lie',
        message: 'The header’s bounds are not those of the points. The points’ own are used.',
      });

    port.postMessage({ kind: 'progress', step: 'Sorting into levels', share: 0.4 } satisfies ImportMessage);
    const { nodes } = buildOctree(cloud.x, cloud.y, cloud.z, quantisation);
    const attributeNames = COLUMN_NAMES.filter((name) => cloud[name] !== undefined && !OWN_PLACE.includes(name));
    let underWay = 0;
    port.on('message', () => underWay--);
    for (const [index, node] of nodes.entries()) {
      while (underWay >= NODES_AHEAD) await once(port, 'message');
      const points = gatherPoints(cloud, node.order);
      const box = integerBounds(points.x, points.y, points.z);
      const named = new Map(columnsOf(points).map(({ name, values }) => [name, values]));
      const packed: NewNode = {
        level: node.level,
        cell: node.cell,
        count: points.count,
        spacing: node.spacing,
        min: box.min,
        max: box.max,
        geometry: packColumns([{ values: points.x }, { values: points.y }, { values: points.z }]),
        classification: points.classification,
        flags: points.flags,
        attributes: packColumns(attributeNames.map((name) => ({ values: named.get(name)! }))),
      };
      underWay++;
      const buffers = [packed.geometry, packed.classification, packed.flags, packed.attributes].map(
        (bytes) => bytes.buffer as ArrayBuffer,
      );
      port.postMessage({ kind: 'node', node: packed } satisfies ImportMessage, buffers);
      port.postMessage({
        kind: 'progress',
        step: 'Storing points',
        share: 0.5 + (0.5 * (index + 1)) / nodes.length,
      } satisfies ImportMessage);
    }
    while (underWay > 0) await once(port, 'message');
    const crs = las.crs;
    const facts: CloudFacts = {
      bounds: realBounds,
      quantisation: { scale: [...quantisation.scale], offset: [...quantisation.offset] },
      columns: columns satisfies PointColumns,
      intensityRange: percentiles(cloud.intensity, 0.02, 0.98),
      source: {
        fileName,
        fileBytes: source.size,
        lasVersion: `${header.versionMajor}.${header.versionMinor}`,
        pointFormat: header.pointFormat,
        generatingSoftware: header.generatingSoftware.trim(),
        ...(crs && { crs: withoutWkt(crs) }),
        elevationRange: percentiles(cloud.z, 0.01, 0.99).map((integer) => at(2, integer)) as [number, number],
        strips: distinct(cloud.pointSourceId),
      },
      warnings,
      attributeNames,
      isStandardGpsTime: (header.globalEncoding & 1) === 1,
      ...(crs?.wkt && { wkt: crs.wkt }),
      records: las.records.map(({ data, ...record }) => ({ ...record, data: Buffer.from(data).toString('base64') })),
    };
    return { facts, pointCount };
  } finally {
    await source.close();
    port.close();
  }
}

function copyInto(cloud: PointBatch, batch: PointBatch, first: number): void {
  for (const { name, values } of columnsOf(batch)) {
    const stride = values.length / batch.count;
    (cloud[name] as Uint8Array).set(values as Uint8Array, first * stride);
  }
}

function withoutWkt<T extends { readonly wkt?: string }>({ wkt: _, ...crs }: T): Omit<T, 'wkt'> {
  return crs;
}

/** Two shares of the sorted values, from a sample of at most 65 536 of them. */
function percentiles(values: Int32Array | Uint16Array, low: number, high: number): [number, number] {
  const step = Math.max(1, Math.floor(values.length / 65_536));
  const sample = new Float64Array(Math.ceil(values.length / step));
  for (let i = 0; i < sample.length; i++) sample[i] = values[i * step]!;
  sample.sort();
  const at = (share: number): number => sample[Math.min(sample.length - 1, Math.floor(share * sample.length))]!;
  return [at(low), at(high)];
}

function distinct(values: Uint16Array): number[] {
  const seen = new Uint8Array(65_536);
  for (let i = 0; i < values.length; i++) seen[values[i]!] = 1;
  const out: number[] = [];
  for (let id = 0; id < 65_536; id++) if (seen[id] === 1) out.push(id);
  return out;
}
