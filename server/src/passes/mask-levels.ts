import { GROUND } from '@pampero/core/cloud';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import { pictureFrameOf } from '@pampero/core/imagery';
import type { ProductOf } from '@pampero/contract';
import { readMask } from '../store/mask-cells.js';
import type { Models } from '../store/models.js';
import type { LevelTask } from '../tasks/mask-tasks.js';
import { readClouds } from './read-clouds.js';

/** Ground that tells the level of a piece lies within so much of its edge, metres. */
const REACH = 2;

/** What tasks are told to give each piece of a mask its level: one typed for all, or by the ground of clouds just outside its edge. */
export async function maskLevels(
  models: Models,
  product: ProductOf<'mask'>,
  unit: LengthUnit,
  level: number | undefined,
  clouds: readonly number[],
): Promise<{ readonly task: LevelTask; readonly transfer: ArrayBuffer[] }> {
  const read = level === undefined && clouds.length > 0 ? await readClouds(models, clouds) : undefined;
  const task = {
    mask: await readMask(models, product),
    frame: pictureFrameOf(product.facts),
    level,
    clouds: read?.clouds ?? [],
    groundClass: GROUND,
    reach: REACH / metresPer(unit),
  };
  return { task, transfer: read?.transfer ?? [] };
}
