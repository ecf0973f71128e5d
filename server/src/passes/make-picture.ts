import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { ProductOf } from '@pampero/contract';
import type { PictureFrame, PicturePart } from '@pampero/core/imagery';
import type { PlanBounds } from '@pampero/core/raster';
import { checkCancelled, PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { MOST_PIXELS } from '../imagery/describe-picture.js';
import { PlainTiff } from '../imagery/plain-tiff.js';
import type { JobLibrary } from '../jobs/job-library.js';
import type { RunResult } from '../runs/run-service.js';
import { insertTiles } from '../store/picture-repository.js';
import { storeProduct } from '../store/product-repository.js';
import type { BlockPixels } from '../tasks/picture-tasks.js';
import type { CloudPass } from './cloud-pass.js';
import { mapWide } from './node-groups.js';

/** Pixels along the side of a block; a row of blocks is in memory at once. */
const BLOCK = 1024;
const MOST_ALONG = 100_000;

type Described = Pick<ProductOf<'picture'>['facts'], 'bands' | 'isPaletted'>;
interface Named { readonly name: string; readonly operation: string; readonly parameters: Record<string, unknown>; readonly replaces?: number | undefined } // prettier-ignore

/**
 * North up, its edges on whole multiples of a pixel, so that pictures of neighbouring land abut; a place on an edge of pixels belongs to the
 * next.
 * @param beside - a place that a corner of pixels lies at; left out, that of the coordinates
 * @throws PamperoError `picture-too-large`
 */
export function pictureFrameOver(
  { west, south, east, north }: PlanBounds,
  pixel: number,
  beside: { readonly east: number; readonly north: number } = { east: 0, north: 0 },
): PictureFrame {
  const column = (e: number): number => Math.floor((e - beside.east) / pixel);
  const row = (n: number): number => Math.floor((n - beside.north) / pixel);
  const [left, bottom, right, top] = [column(west), row(south), column(east) + 1, row(north) + 1];
  const [columns, rows] = [right - left, top - bottom];
  if (columns * rows > MOST_PIXELS || Math.max(columns, rows) > MOST_ALONG)
    throw new PamperoError('picture-too-large', {
      what: `A picture of ${formatCount(columns)} by ${formatCount(rows)} pixels is more than can be kept.`,
      fix: 'Give larger pixels.',
    });
  return {
    columns,
    rows,
    east: beside.east + left * pixel,
    eastPerColumn: pixel,
    eastPerRow: 0,
    north: beside.north + top * pixel,
    northPerColumn: 0,
    northPerRow: -pixel,
  };
}

/**
 * Makes a picture block by block, into plain TIFFs first, which are then cut into tiles like those of a picture that comes in.
 * @param onShare - how much of it is done, up to storing
 * @returns the store's part of the run, which also takes what lies on the disk away
 */
export async function makePicture(
  { pool, signal, library }: Omit<CloudPass, 'job'> & { readonly library: JobLibrary },
  frame: PictureFrame,
  { bands, isPaletted, isExact }: Described & { readonly isExact: boolean },
  blockOf: (part: PicturePart) => Promise<BlockPixels>,
  onShare: (share: number) => void,
): Promise<(named: Named) => RunResult['store']> {
  const { columns, rows } = frame;
  const folder = library.scratchPath('.tiles');
  await mkdir(folder, { recursive: true });
  const made = { colour: join(folder, 'colour.tif'), mask: join(folder, 'mask.tif'), frame, folder };
  const samples = bands === 'grey' ? 1 : 3;
  try {
    await fill();
    const { cutMade } = await import('../imagery/read-picture.js');
    const cut = await cutMade({ ...made, isExact }, (share) => onShare(0.75 + 0.25 * share));
    checkCancelled(signal);
    return ({ name, operation, parameters, replaces }) =>
      async (models) => {
        const stored = await storeProduct(models, {
          kind: 'picture',
          name,
          operation,
          parameters,
          facts: {
            ...cut.frame,
            levels: cut.levels,
            bands,
            hasMask: cut.hasMask,
            isPaletted,
            fileName: '',
            tilesOf: 0,
          },
          blobs: {},
          replaces,
        });
        await insertTiles(models, stored.productId, cut.tiles);
        await rm(folder, { recursive: true, force: true });
        return stored;
      };
  } catch (error) {
    await rm(folder, { recursive: true, force: true });
    throw error;
  }

  /** Row of blocks by row of blocks. */
  async function fill(): Promise<void> {
    const pixels = await PlainTiff.create(made.colour, { columns, rows, samples, stripRows: BLOCK });
    const known = await PlainTiff.create(made.mask, { columns, rows, samples: 1, stripRows: BLOCK });
    try {
      for (let top = 0; top < rows; top += BLOCK) {
        const high = Math.min(BLOCK, rows - top);
        const lefts = Array.from({ length: Math.ceil(columns / BLOCK) }, (_, k) => k * BLOCK);
        const band = { pixels: new Uint8Array(columns * high * samples), known: new Uint8Array(columns * high) };
        await mapWide(lefts, pool.threads + 1, async (left) => {
          checkCancelled(signal);
          const wide = Math.min(BLOCK, columns - left);
          const block = await blockOf({ left, top, columns: wide, rows: high });
          for (let row = 0; row < high; row++) {
            band.pixels.set(block.pixels.subarray(row * wide * samples, (row + 1) * wide * samples), (row * columns + left) * samples); // prettier-ignore
            band.known.set(block.known.subarray(row * wide, (row + 1) * wide), row * columns + left);
          }
        });
        await pixels.append(band.pixels);
        await known.append(band.known);
        onShare((0.75 * (top + high)) / rows);
      }
    } finally {
      await pixels.close(rows, BLOCK);
      await known.close(rows, BLOCK);
    }
  }
}
