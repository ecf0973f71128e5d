import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import { drawPicture, type DrawPictureParameters } from '@pampero/contract';
import { classMask } from '@pampero/core/cloud';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import type { PictureFrame } from '@pampero/core/imagery';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { MOST_PIXELS } from '../../imagery/describe-picture.js';
import { PlainTiff } from '../../imagery/plain-tiff.js';
import { cutMade } from '../../imagery/read-picture.js';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { mapWide, readNodeColumns } from '../../passes/node-groups.js';
import { reachesInto, readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { boundsAround, listStoredNodes, quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { insertTiles } from '../../store/picture-repository.js';
import { storeProduct } from '../../store/product-repository.js';
import type { CloudColumns } from '../../tasks/chosen-points.js';
import type { CloudPictureBlock } from '../../tasks/cloud-picture-tasks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Thickness of what is seen, metres: points on leaves and noise of one roof are one. */
const LAYER = 0.3;
/** Pixels along the side of a block; a row of blocks is in memory at once. */
const BLOCK = 1024;
/** Points that the range of values is told by. */
const SAMPLE = 300_000;
const MOST_ALONG = 100_000;

/** A picture of points as seen from above, block by block, stored in tiles like one that came in. */
function work(parameters: DrawPictureParameters, { pool, unit, library, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const { clouds: ids, shows, gaps, leftOut } = parameters;
    const facts = await Promise.all(ids.map((id) => readCloudFacts(job.read, id)));
    const bare = facts.find(({ columns }) => shows === 'colour' && !columns.rgb);
    if (bare)
      throw new PamperoError('no-colours', {
        what: `The cloud ${bare.name} has no colours.`,
        fix: 'Show intensity or elevation, or colour the cloud from a picture in Intake.',
      });
    const pixel = parameters.pixel ?? Number(Math.min(...facts.map(averageSpacing)).toPrecision(2));
    const frame = frameOver(boundsAround(facts.map(({ bounds }) => bounds)), pixel);
    if (frame.columns * frame.rows > MOST_PIXELS || Math.max(frame.columns, frame.rows) > MOST_ALONG)
      throw new PamperoError('picture-too-large', {
        what: `A picture of ${formatCount(frame.columns)} by ${formatCount(frame.rows)} pixels is more than can be kept.`,
        fix: 'Give larger pixels.',
      });
    const takes = classMask(Array.from({ length: 256 }, (_, code) => code).filter((code) => !leftOut.includes(code)));
    report(0.02, 'Looking at values');
    const range = await pool.run('cloudPictureRange', { clouds: await sampleOf(ids), takes, shows }, signal);
    if (!range)
      throw new PamperoError('no-points', {
        what: 'There are no points to be seen.',
        fix: 'Leave out fewer classes, or restore withheld points.',
      });
    const folder = library.scratchPath('.tiles');
    await mkdir(folder, { recursive: true });
    const made = { colour: join(folder, 'colour.tif'), mask: join(folder, 'mask.tif'), frame, folder };
    try {
      await draw(made, range);
      const cut = await cutMade({ ...made, isExact: shows === 'elevation' }, (share) =>
        report(0.7 + 0.25 * share, 'Cutting tiles'),
      );
      checkCancelled(signal);
      report(0.95, 'Storing');
      const name = parameters.name ?? `${NAMES[shows]}, ${Number(pixel.toPrecision(6))} ${lengthUnits[unit].short}`;
      return {
        outcome: `${name}: ${formatCount(frame.columns)} by ${formatCount(frame.rows)} pixels`,
        figures: [
          { label: 'Pixels', value: frame.columns * frame.rows, quantity: 'count' },
          { label: 'Pixel', value: pixel, quantity: 'length' },
        ],
        store: async (models) => {
          const stored = await storeProduct(models, {
            kind: 'picture',
            name,
            operation: drawPicture.id,
            parameters,
            facts: {
              ...cut.frame,
              levels: cut.levels,
              bands: shows === 'intensity' ? 'grey' : 'colour',
              hasMask: cut.hasMask,
              isPaletted: false,
              fileName: '',
              tilesOf: 0,
            },
            blobs: {},
            replaces,
          });
          await insertTiles(models, stored.productId, cut.tiles);
          await rm(folder, { recursive: true, force: true });
          return stored;
        },
      };
    } catch (error) {
      await rm(folder, { recursive: true, force: true });
      throw error;
    }

    /** Nodes of the coarse levels, which are an even sample of each cloud. */
    async function sampleOf(clouds: readonly number[]): Promise<CloudColumns[]> {
      return Promise.all(
        clouds.map(async (id, k) => {
          const { attributeNames: names, columns } = facts[k]!;
          let points = 0;
          const even = (await listStoredNodes(job.read, id)).filter(
            ({ count }) => points < SAMPLE && (points += count) > 0,
          );
          return {
            nodes: await readNodeColumns(job.read, even, { attributes: true }),
            quantisation: quantisationOf(facts[k]!),
            attributes: { names, columns },
          };
        }),
      );
    }

    /** Draws row of blocks by row of blocks into two plain TIFFs. */
    async function draw({ colour, mask }: typeof made, range: readonly [number, number]): Promise<void> {
      const { columns, rows } = frame;
      const samples = shows === 'intensity' ? 1 : 3;
      const pixels = await PlainTiff.create(colour, { columns, rows, samples, stripRows: BLOCK });
      const known = await PlainTiff.create(mask, { columns, rows, samples: 1, stripRows: BLOCK });
      try {
        for (let top = 0; top < rows; top += BLOCK) {
          const high = Math.min(BLOCK, rows - top);
          const lefts = Array.from({ length: Math.ceil(columns / BLOCK) }, (_, k) => k * BLOCK);
          const band = { pixels: new Uint8Array(columns * high * samples), known: new Uint8Array(columns * high) };
          await mapWide(lefts, pool.threads + 1, async (left) => {
            checkCancelled(signal);
            const wide = Math.min(BLOCK, columns - left);
            const block = await blockOf(left, top, wide, high, range);
            for (let row = 0; row < high; row++) {
              band.pixels.set(block.pixels.subarray(row * wide * samples, (row + 1) * wide * samples), (row * columns + left) * samples); // prettier-ignore
              band.known.set(block.known.subarray(row * wide, (row + 1) * wide), row * columns + left);
            }
          });
          await pixels.append(band.pixels);
          await known.append(band.known);
          report(0.05 + (0.65 * (top + high)) / rows, 'Drawing points');
        }
      } finally {
        await pixels.close(rows, BLOCK);
        await known.close(rows, BLOCK);
      }
    }

    async function blockOf(
      left: number,
      top: number,
      wide: number,
      high: number,
      range: readonly [number, number],
    ): Promise<CloudPictureBlock> {
      // Closing a gap looks so far outwards and back; light looks a cell further.
      const margin = 2 * gaps + 1;
      const block = {
        east: frame.east + (left - margin) * pixel,
        north: frame.north - (top + high + margin) * pixel,
        cell: pixel,
        columns: wide + 2 * margin,
        rows: high + 2 * margin,
      };
      const window = {
        west: block.east,
        south: block.north,
        east: block.east + block.columns * pixel,
        north: block.north + block.rows * pixel,
      };
      const read = await readClouds(job.read, ids, (box) => reachesInto(box, window, 0), {
        attributes: shows !== 'elevation',
      });
      const task = { clouds: read.clouds, frame: block, margin, shows, takes, layer: LAYER / metresPer(unit), rings: gaps, range }; // prettier-ignore
      return pool.run('cloudPictureBlock', task, signal, read.transfer);
    }
  };
}

const NAMES = { colour: 'Picture of points', intensity: 'Intensity', elevation: 'Elevation' } as const;

/** North up, its edges on whole multiples of a pixel, so that pictures of neighbouring land abut. */
function frameOver(
  { min, max }: { readonly min: readonly number[]; readonly max: readonly number[] },
  pixel: number,
): PictureFrame {
  const [west, south] = [Math.floor(min[0]! / pixel), Math.floor(min[1]! / pixel)];
  const [east, north] = [Math.floor(max[0]! / pixel) + 1, Math.floor(max[1]! / pixel) + 1];
  return {
    columns: east - west,
    rows: north - south,
    east: west * pixel,
    eastPerColumn: pixel,
    eastPerRow: 0,
    north: north * pixel,
    northPerColumn: 0,
    northPerRow: -pixel,
  };
}

export const operation = serverOperation(drawPicture, work);
