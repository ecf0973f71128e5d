import { pixelOfPlace, pixelSize } from '@pampero/core/imagery';
import type { RasterFrame } from '@pampero/core/raster';
import { rgbOf } from '@pampero/core/tints';
import sharp from 'sharp';
import { frameOf, readLevel } from '../passes/picture-site.js';
import type { Models } from '../store/models.js';
import { readProduct } from '../store/product-repository.js';
import { samplerOf } from '../tasks/picture-tasks.js';

/** Pixels along the longer side, at most: what phones take as a texture. */
const MOST_SIDE = 4096;
const LEAST_SIDE = 256;

/** A picture as it lies over a frame, north up, as a JPEG of at most so many bytes; paper where there is none. */
export async function drapeOver(
  models: Models,
  pictureId: number,
  frame: RasterFrame,
  mostBytes: number,
): Promise<Buffer> {
  const { facts } = await readProduct(models, pictureId, 'picture');
  const placement = frameOf(facts);
  const [wide, high] = [frame.columns * frame.cell, frame.rows * frame.cell];
  const longest = Math.max(wide, high);
  const finest = Math.min(MOST_SIDE, Math.ceil(longest / pixelSize(placement)));
  const toPixel = pixelOfPlace(placement);
  const paper = rgbOf('#e9e3d5');
  const out = new Float64Array(3);
  for (let side = finest; ; side = Math.floor(side * 0.75)) {
    const pixel = longest / side;
    const level = Math.max(
      0,
      Math.min(facts.levels - 1, Math.floor(Math.log2(Math.max(1, pixel / pixelSize(placement))))),
    );
    const plan = { west: frame.east, south: frame.north, east: frame.east + wide, north: frame.north + high };
    const sampler = await samplerOf(await readLevel(models, pictureId, facts, level, plan));
    const [columns, rows] = [Math.max(1, Math.round(wide / pixel)), Math.max(1, Math.round(high / pixel))];
    const pixels = new Uint8Array(columns * rows * 3);
    for (let row = 0, at = 0; row < rows; row++)
      for (let column = 0; column < columns; column++, at += 3) {
        const [c, r] = toPixel(
          frame.east + ((column + 0.5) * wide) / columns,
          frame.north + high - ((row + 0.5) * high) / rows,
        );
        const isThere = sampler.sample(c / 2 ** level, r / 2 ** level, out);
        for (let band = 0; band < 3; band++) pixels[at + band] = isThere ? out[band]! : paper[band]!;
      }
    const jpeg = await sharp(pixels, { raw: { width: columns, height: rows, channels: 3 } })
      .jpeg({ quality: 80 })
      .toBuffer();
    if (jpeg.length <= mostBytes || side <= LEAST_SIDE) return jpeg;
  }
}
