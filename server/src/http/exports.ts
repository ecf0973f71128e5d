import { open, rm } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import type { Response } from 'express';
import { lasExportSchema, type Job } from '@pampero/contract';
import type { z } from 'zod';
import { unpackContours } from '@pampero/core/contours';
import { contoursToDxf } from '@pampero/core/formats/dxf';
import { surfaceToLandXml } from '@pampero/core/formats/landxml';
import { writeLas, type LasWriterOptions } from '@pampero/core/formats/las';
import { gatherPoints, type PointBatch } from '@pampero/core/cloud';
import type { CrsDescription } from '@pampero/core/geodesy';
import { unpackTin } from '@pampero/core/terrain';
import { crsByCode } from '../crs/crs-catalogue.js';
import type { JobFile } from '../jobs/job-file.js';
import type { JobLibrary } from '../jobs/job-library.js';
import { listStoredNodes, quantisationOf, readCloudFacts, readNodePoints } from '../store/cloud-repository.js';
import type { CloudFacts } from '../store/cloud-facts.js';
import { fileSink } from '../store/file-bytes.js';
import { readContours, readProductBlob, readSurface } from '../store/product-repository.js';

/** Sends a file that was put together aside, so that a failure on the way is an error and not half a file. */
export async function sendFile(response: Response, path: string, fileName: string, type: string): Promise<void> {
  try {
    await new Promise<void>((resolve, reject) => {
      response.download(path, fileName, { headers: { 'content-type': type } }, (error) =>
        error && !response.headersSent ? reject(error) : resolve(),
      );
    });
  } finally {
    await rm(path, { force: true });
  }
}

async function sendText(response: Response, text: Iterable<string>, fileName: string, type: string): Promise<void> {
  response.attachment(fileName);
  response.type(type);
  await pipeline(Readable.from(text), response);
}

export async function exportLas(
  library: JobLibrary,
  job: Job,
  file: JobFile,
  cloudId: number,
  query: z.output<typeof lasExportSchema>,
  response: Response,
): Promise<void> {
  const facts = await readCloudFacts(file.read, cloudId);
  const path = library.scratchPath('.out');
  const target = await open(path, 'w');
  try {
    await writeLas(fileSink(target), chosenPoints(file, cloudId, facts, query.classes), lasOptions(job, facts, query));
  } catch (error) {
    await target.close();
    await rm(path, { force: true });
    throw error;
  }
  await target.close();
  await sendFile(
    response,
    path,
    `${fileStem(facts.name)}.${query.compressed === 'yes' ? 'laz' : 'las'}`,
    'application/vnd.las',
  );
}

async function* chosenPoints(
  file: JobFile,
  cloudId: number,
  facts: CloudFacts,
  classes: readonly number[] | undefined,
): AsyncGenerator<PointBatch> {
  for (const node of await listStoredNodes(file.read, cloudId)) {
    const points = await readNodePoints(file.read, node, facts);
    if (!classes) {
      yield points;
      continue;
    }
    const order = new Uint32Array(points.count);
    let count = 0;
    for (let i = 0; i < points.count; i++) if (classes.includes(points.classification[i]!)) order[count++] = i;
    if (count > 0) yield gatherPoints(points, order.subarray(0, count));
  }
}

/** The leanest point format that holds the cloud's columns. */
function lasOptions(
  job: Job,
  facts: CloudFacts,
  { version, compressed }: z.output<typeof lasExportSchema>,
): LasWriterOptions {
  const { columns } = facts;
  const pointFormat =
    version === '1.2'
      ? (columns.gpsTime ? 1 : 0) + (columns.rgb ? 2 : 0)
      : columns.nearInfrared
        ? 8
        : columns.rgb
          ? 7
          : 6;
  return {
    version,
    pointFormat,
    quantisation: quantisationOf(facts),
    isCompressed: compressed === 'yes',
    extraBytesLength: columns.extraBytesLength,
    crs: crsOf(job, facts),
    isStandardGpsTime: facts.isStandardGpsTime,
    records: facts.records.map((record) => ({ ...record, data: new Uint8Array(Buffer.from(record.data, 'base64')) })),
  };
}

/** The job's system, since that is what the coordinates are in; the file's own text where it says the same. */
function crsOf(job: Job, facts: CloudFacts): CrsDescription {
  const { epsg, name, horizontalUnit, verticalUnit } = job.crs;
  const wkt =
    epsg === undefined || facts.source.crs?.epsg === epsg
      ? (facts.wkt ?? (epsg === undefined ? undefined : crsByCode(epsg).wkt))
      : crsByCode(epsg).wkt;
  return {
    ...(epsg !== undefined && { epsg }),
    ...(name !== undefined && { name }),
    ...(horizontalUnit && { horizontalUnit }),
    ...(verticalUnit && { verticalUnit }),
    ...(wkt && { wkt }),
  };
}

export async function exportDxf(file: JobFile, contoursId: number, response: Response): Promise<void> {
  const set = await readContours(file.read, contoursId);
  const lines = unpackContours(await readProductBlob(file.read, contoursId, 'lines'));
  await sendText(response, contoursToDxf(lines), `${fileStem(set.name)}.dxf`, 'image/vnd.dxf');
}

export async function exportLandXml(job: Job, file: JobFile, surfaceId: number, response: Response): Promise<void> {
  const surface = await readSurface(file.read, surfaceId);
  const tin = unpackTin(await readProductBlob(file.read, surfaceId, 'tin'));
  const cloud = await readCloudFacts(file.read, surface.cloudId).catch(() => undefined);
  const text = surfaceToLandXml(tin, {
    surfaceName: surface.name,
    projectName: job.name,
    unit: job.unit,
    ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }),
    ...(job.crs.name !== undefined && { crsName: job.crs.name }),
    provenance: `${surface.operation} ${JSON.stringify(surface.parameters)} from ${cloud?.source.fileName ?? 'a cloud since taken back'}${surface.isStale ? ', stale: the classes have changed since' : ''}`,
    written: new Date(),
  });
  await sendText(response, text, `${fileStem(surface.name)}.xml`, 'application/xml');
}

/** A name as a file's: what Windows and shells stumble over becomes a dash. */
function fileStem(name: string): string {
  // eslint-disable-next-line no-control-regex -- control characters are among what must go
  return name.replace(/[\\/:*?"<>|\x00-\x1f]+/g, '-').replace(/^[.\s]+|[.\s]+$/g, '') || 'pampero';
}
