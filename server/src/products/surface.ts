import { isKind, type ProductOf } from '@pampero/contract';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { surfaceToDxf } from '@pampero/core/formats/dxf';
import { surfaceToLandXml } from '@pampero/core/formats/landxml';
import { surfaceToGlb, surfaceToPly, type MeshTexture } from '@pampero/core/formats/mesh';
import { metresPer } from '@pampero/core/geodesy';
import { changedPart, cutPart, type GridPart } from '@pampero/core/grids';
import { pictureFrameOf, picturePlan } from '@pampero/core/imagery';
import { planBounds, plansOverlap, type RasterFrame } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { unpackTin, type TerrainLine, type Tin } from '@pampero/core/terrain';
import { drapeOver } from '../passes/drape-over.js';
import { readTerrainLines } from '../store/terrain-lines.js';
import { readCloudFacts } from '../store/cloud-repository.js';
import type { Models } from '../store/models.js';
import { listProducts, readProductBlob, readShownPart } from '../store/product-repository.js';
import { dxfWithHead, headOf, inputsInWords, type ExportSite, type ProductHome } from './product-home.js';

type Surface = ProductOf<'surface'>;

async function readTin({ models }: ExportSite, { id }: Surface): Promise<Tin> {
  return unpackTin(await readProductBlob(models, id, 'tin'));
}

/** Lines it was made with; those that were taken back since are no longer there to be drawn. */
function linesOf({ models }: ExportSite, { parameters }: Surface): Promise<TerrainLine[]> {
  return readTerrainLines(models, (parameters['lines'] as number[] | undefined) ?? []).catch(() => []);
}

/** In words: the operation, its parameters and the files its points came from. */
async function origin({ models }: ExportSite, surface: Surface): Promise<string> {
  const clouds = surface.inputs.filter(({ kind }) => kind === 'cloud');
  const names = await Promise.all(
    clouds.map(({ id }) =>
      readCloudFacts(models, id).then(
        ({ source }) => source.fileName,
        () => 'a cloud since taken back',
      ),
    ),
  );
  const from = names.length > 0 ? names.join(', ') : 'a file';
  return `${surface.operation} ${JSON.stringify(surface.parameters)} from ${from} (${inputsInWords(surface.inputs)})${
    surface.isStale ? ', stale: what it was made from has changed since' : ''
  }`;
}

/** A part larger than this is sent as the whole: it saves nothing. */
const LARGEST_PART = 0.5;
const NO_PART: GridPart = { column: 0, row: 0, columns: 0, rows: 0 };

/**
 * The grid that stands in for a surface on the screen; where the page has one of an earlier surface on the same cells, only what
 * differs: an edit by hand changes a few triangles.
 */
async function gridForDisplay(models: Models, id: number, since: number | undefined): Promise<Uint8Array> {
  const bytes = await readShownPart(models, 'surface', id, 'grid');
  if (since === undefined) return bytes;
  const before = await readShownPart(models, 'surface', since, 'grid').catch(() => undefined);
  if (!before) return bytes;
  const [old, now] = [unpackArrays(before), unpackArrays(bytes)];
  const frame = now.facts as RasterFrame;
  if (JSON.stringify(old.facts) !== JSON.stringify(frame)) return bytes;
  const values = now.arrays['elevation'] as Float32Array;
  const part = changedPart(old.arrays['elevation'] as Float32Array, values, frame.columns, frame.rows) ?? NO_PART;
  if (part.columns * part.rows > LARGEST_PART * values.length) return bytes;
  return packArrays({ elevation: cutPart(values, frame.columns, part) }, { ...frame, since, part });
}

export const home: ProductHome<'surface'> = {
  kind: 'surface',
  shown: async (models, id, { since }) => ({ packed: await gridForDisplay(models, id, since) }),
  writers: {
    async landxml(site, surface) {
      const { job } = site;
      const pieces = surfaceToLandXml(await readTin(site, surface), {
        surfaceName: surface.name,
        projectName: job.name,
        unit: job.unit,
        ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }),
        ...(job.crs.name !== undefined && { crsName: job.crs.name }),
        provenance: await origin(site, surface),
        written: new Date(),
        lines: await linesOf(site, surface),
      });
      return { pieces };
    },
    dxf: async (site, surface) => ({
      pieces: dxfWithHead(
        site,
        [surface],
        surfaceToDxf(await readTin(site, surface), site.job.unit, await linesOf(site, surface)),
      ),
    }),
    ply: async (site, surface) => ({ bytes: surfaceToPly(await readTin(site, surface), headOf(site, surface)) }),
    glb: async (site, surface) => ({
      bytes: surfaceToGlb(await readTin(site, surface), aboutOf(site, surface)),
    }),
    'glb-picture': async (site, surface) => {
      const tin = await readTin(site, surface);
      return { bytes: surfaceToGlb(tin, aboutOf(site, surface), await textureOver(site, surface, tin)) };
    },
  },
};

const aboutOf = ({ job }: ExportSite, { name }: Surface) => ({ name, metresPerUnit: metresPer(job.unit) });

/** Bytes of a picture that leaves with a surface, at most. */
const MOST_TEXTURE = 24_000_000;

/** The newest picture that lies over a surface, as it lies over it. */
async function textureOver({ models }: ExportSite, { name }: Surface, tin: Tin): Promise<MeshTexture> {
  const own = planBounds(tin.easting, tin.northing);
  const [e, n] = tin.origin;
  const land = { west: own.west + e, south: own.south + n, east: own.east + e, north: own.north + n };
  const pictures = (await listProducts(models)).filter(isKind('picture'));
  const touching = pictures.filter(({ facts }) => plansOverlap(picturePlan(pictureFrameOf(facts)), land));
  const picture = touching.at(-1);
  if (!picture)
    throw new PamperoError('no-picture', {
      what: `No picture of the job lies over ${name}.`,
      fix: 'Import an orthophoto in Intake, or export GLB without a picture.',
    });
  return { jpeg: await drapeOver(models, picture.id, land, MOST_TEXTURE), ...land };
}
