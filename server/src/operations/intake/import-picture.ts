import { mkdir, rm } from 'node:fs/promises';
import { importPicture, type ImportPictureParameters } from '@pampero/contract';
import { FormatError } from '@pampero/core/formats';
import { LONGITUDE_LATITUDE, lengthUnits } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { crsByCode } from '../../crs/crs-catalogue.js';
import { planeSystemOf } from '../../crs/plane-system.js';
import { worldFileBeside, type DescribedPicture } from '../../imagery/describe-picture.js';
import { describeApart, readApart } from '../../imagery/picture-process.js';
import { touches, type Warping } from '../../imagery/warp-picture.js';
import type { RunWork } from '../../runs/run-service.js';
import { boundsAround } from '@pampero/core/cloud';
import { listClouds } from '../../store/cloud-repository.js';
import { insertTiles } from '../../store/picture-repository.js';
import { storeProduct } from '../../store/product-repository.js';
import { fileOperation, type FileSurroundings } from '../server-operation.js';

/** Systems of latitude and longitude that a picture may lie in, as PROJ strings: of them no catalogue is kept. */
const GEOGRAPHIC: Readonly<Record<number, string>> = {
  4326: LONGITUDE_LATITUDE,
  4258: '+proj=longlat +ellps=GRS80 +towgs84=0,0,0,0,0,0,0 +no_defs',
  4269: '+proj=longlat +datum=NAD83 +no_defs',
  5340: '+proj=longlat +ellps=GRS80 +towgs84=0,0,0,0,0,0,0 +no_defs',
  4674: '+proj=longlat +ellps=GRS80 +towgs84=0,0,0,0,0,0,0 +no_defs',
};

/** A picture, cut into tiles in a process of its own; described before the run begins, so that what is none is refused at once. */
async function begin(parameters: ImportPictureParameters, surroundings: FileSurroundings): Promise<RunWork> {
  const { source, unit, library } = surroundings;
  const { path, fileName } = source;
  const worldFile = parameters.worldFile ?? (await worldFileBeside(path));
  const described = await describeApart({ path, fileName, worldFile });
  const { placement } = described;
  if (!placement)
    throw new FormatError('picture-nowhere', {
      what: `${fileName} does not say where it lies.`,
      fix: 'Choose its world file together with it (.tfw, .jgw, .pgw or .wld), or save it as GeoTIFF.',
    });
  const warping = warpingOf(described, parameters, surroundings);
  const frame = { ...placement, columns: described.columns, rows: described.rows };
  const name = parameters.name ?? fileName.replace(/\.[^.]+$/, '');
  return async ({ job, signal, report }) => {
    const folder = library.scratchPath('.tiles');
    await mkdir(folder, { recursive: true });
    const isExact = parameters.isExact || described.isPaletted;
    const task = { path, fileName, described, frame, warping, isExact, folder };
    try {
      const read = await readApart(task, signal, (share) => report(0.9 * Math.min(1, share), 'Reading the picture'));
      report(0.9, 'Storing');
      const clouds = await listClouds(job.read);
      const isApart = clouds.length > 0 && !touches(read.frame, boundsAround(clouds.map(({ bounds }) => bounds)));
      const size = pixelSize(read.frame);
      const remarks = [
        ...described.remarks,
        ...read.remarks,
        ...(warping ? [`Resampled from ${warping.title} into the system of the job.`] : []),
        ...(isApart ? ['It does not touch any cloud of the job: check its coordinate system.'] : []),
      ];
      const { columns, rows } = read.frame;
      return {
        outcome: [
          `${name}: ${formatCount(columns)} by ${formatCount(rows)} pixels of ${formatNumber(size, 3)} ${lengthUnits[unit].short}`,
          ...remarks.map((remark) => remark.replace(/\.$/, '')),
        ].join('. '),
        figures: [
          { label: 'Pixels', value: columns * rows, quantity: 'count' },
          { label: 'Pixel', value: size, quantity: 'length' },
        ],
        store: async (models) => {
          const stored = await storeProduct(models, {
            kind: 'picture',
            name,
            operation: importPicture.id,
            parameters: { ...parameters, fileName },
            facts: {
              ...read.frame,
              levels: read.levels,
              bands: warping && described.bands === 'colour-infrared' ? 'colour' : described.bands,
              hasMask: read.hasMask,
              isPaletted: described.isPaletted,
              fileName,
              tilesOf: 0,
            },
            blobs: {},
          });
          await insertTiles(models, stored.productId, read.tiles);
          await rm(folder, { recursive: true, force: true });
          return stored;
        },
      };
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }
  };
}

/** How a picture of another system comes into the job's; undefined where it lies there already. */
function warpingOf(
  { epsg: stated, isGeographic }: DescribedPicture,
  { epsg: given }: ImportPictureParameters,
  { job, source }: FileSurroundings,
): (Warping & { readonly title: string }) | undefined {
  const { fileName } = source;
  const epsg = stated ?? given;
  if (epsg === undefined && !isGeographic) return undefined;
  if (epsg !== undefined && epsg === job.crs.epsg) return undefined;
  const to = planeSystemOf(job.crs);
  if (!to) {
    if (!isGeographic) return undefined; // a local job: the picture is taken to lie where its numbers say
    throw new PamperoError('crs-unknown', {
      what: `${fileName} lies in latitude and longitude, and the job has no coordinate system.`,
      fix: 'Save the picture in the system of the clouds.',
    });
  }
  const from = isGeographic ? GEOGRAPHIC[epsg ?? 4326] : crsByCode(epsg!).proj4;
  if (from === undefined)
    throw new PamperoError('crs-unknown', {
      what: `${fileName} lies in EPSG:${epsg}, which Pampero has no definition of.`,
      fix: 'Save the picture in the system of the job.',
    });
  return { from, to: to.proj4, title: `EPSG:${epsg ?? 4326}` };
}

export const operation = fileOperation(importPicture, begin);
