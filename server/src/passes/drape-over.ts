import { pixelSize } from '@pampero/core/imagery';
import type { PlanBounds } from '@pampero/core/raster';
import { rgbOf } from '@pampero/core/tints';
import { pictureOver } from './picture-over.js';
import { frameOf } from './picture-site.js';
import type { Models } from '../store/models.js';
import { readProduct } from '../store/product-repository.js';
import { pictureCodec } from '../imagery/codec.js';

/** Pixels along the longer side, at most: what phones take as a texture. */
const MOST_SIDE = 4096;
const LEAST_SIDE = 256;

/** A picture as it lies over some land, north up, as a JPEG of at most so many bytes; paper where there is none. */
export async function drapeOver(
  models: Models,
  pictureId: number,
  land: PlanBounds,
  mostBytes: number,
): Promise<Buffer> {
  const { facts } = await readProduct(models, pictureId, 'picture');
  const [wide, high] = [land.east - land.west, land.north - land.south];
  const longest = Math.max(wide, high);
  const finest = Math.min(MOST_SIDE, Math.ceil(longest / pixelSize(frameOf(facts))));
  const sharp = await pictureCodec();
  const paper = rgbOf('#e9e3d5');
  for (let side = finest; ; side = Math.floor(side * 0.75)) {
    const pixel = longest / side;
    const [columns, rows] = [Math.max(1, Math.round(wide / pixel)), Math.max(1, Math.round(high / pixel))];
    const pixels = await pictureOver(models, pictureId, facts, land, [columns, rows], paper);
    const jpeg = await sharp(pixels, { raw: { width: columns, height: rows, channels: 3 } })
      .jpeg({ quality: 80 })
      .toBuffer();
    if (jpeg.length <= mostBytes || side <= LEAST_SIDE) return jpeg;
  }
}
