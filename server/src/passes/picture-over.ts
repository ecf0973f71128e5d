import { pixelOfPlace, pixelSize } from '@pampero/core/imagery';
import type { PlanBounds } from '@pampero/core/raster';
import type { Models } from '../store/models.js';
import { samplerOf } from '../tasks/picture-tasks.js';
import { frameOf, readLevel, type PictureFacts } from './picture-site.js';

/** A picture as it lies over land, north up: red, green and blue of each pixel, `paper` where there is none. */
export async function pictureOver(
  models: Models,
  pictureId: number,
  facts: PictureFacts,
  land: PlanBounds,
  [columns, rows]: readonly [number, number],
  paper: readonly number[],
): Promise<Uint8Array> {
  const placement = frameOf(facts);
  const [wide, high] = [land.east - land.west, land.north - land.south];
  const pixel = Math.max(wide / columns, high / rows);
  const halvings = Math.floor(Math.log2(Math.max(1, pixel / pixelSize(placement))));
  const level = Math.max(0, Math.min(facts.levels - 1, halvings));
  const sampler = await samplerOf(await readLevel(models, pictureId, facts, level, land));
  const toPixel = pixelOfPlace(placement);
  const pixels = new Uint8Array(columns * rows * 3);
  const out = new Float64Array(3);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at += 3) {
      const [c, r] = toPixel(land.west + ((column + 0.5) * wide) / columns, land.north - ((row + 0.5) * high) / rows);
      const isThere = sampler.sample(c / 2 ** level, r / 2 ** level, out);
      for (let band = 0; band < 3; band++) pixels[at + band] = isThere ? out[band]! : paper[band]!;
    }
  return pixels;
}
