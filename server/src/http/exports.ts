import { rm } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import type { Response } from 'express';
import type { DrawContoursParameters, Job } from '@pampero/contract';
import { decimalsOf, unpackContours } from '@pampero/core/contours';
import { contoursToDxf } from '@pampero/core/formats/dxf';
import { surfaceToLandXml } from '@pampero/core/formats/landxml';
import { unpackTin } from '@pampero/core/terrain';
import type { JobFile } from '../jobs/job-file.js';
import { readCloudFacts } from '../store/cloud-repository.js';
import { readTerrainLines } from '../operations/import-lines.js';
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

export async function exportDxf(file: JobFile, contoursId: number, response: Response): Promise<void> {
  const set = await readContours(file.read, contoursId);
  const lines = unpackContours(await readProductBlob(file.read, contoursId, 'lines'));
  const { interval, textHeight, figuresApart } = set.parameters as Partial<DrawContoursParameters>;
  const figures =
    textHeight && figuresApart
      ? { textHeight, apart: figuresApart, decimals: decimalsOf(Number(interval)) }
      : undefined;
  await sendText(response, contoursToDxf(lines, figures), `${fileStem(set.name)}.dxf`, 'image/vnd.dxf');
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
    provenance: `${surface.operation} ${JSON.stringify(surface.parameters)} from ${surface.cloudId === 0 ? 'a file' : (cloud?.source.fileName ?? 'a cloud since taken back')}${surface.isStale ? ', stale: the classes have changed since' : ''}`,
    written: new Date(),
    lines: await readTerrainLines(file.read, (surface.parameters['lines'] as number[] | undefined) ?? []).catch(
      () => [],
    ),
  });
  await sendText(response, text, `${fileStem(surface.name)}.xml`, 'application/xml');
}

/** A name as a file's: what Windows and shells stumble over becomes a dash. */
export function fileStem(name: string): string {
  // eslint-disable-next-line no-control-regex -- control characters are among what must go
  return name.replace(/[\\/:*?"<>|\x00-\x1f]+/g, '-').replace(/^[.\s]+|[.\s]+$/g, '') || 'pampero';
}
