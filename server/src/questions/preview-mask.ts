import { maskByColour, type MaskPreview } from '@pampero/contract';
import type { LengthUnit } from '@pampero/core/geodesy';
import { pixelSize } from '@pampero/core/imagery';
import type { PlanBounds } from '@pampero/core/raster';
import { never } from '../passes/cloud-pass.js';
import { maskOf } from '../passes/picture-mask.js';
import type { JobFile } from '../store/job-file.js';
import { shownRings } from '../store/mask-cells.js';
import { readProduct } from '../store/product-repository.js';
import type { TaskPool } from '../tasks/task-pool.js';

/** Pixels of a preview: as many as a screen has, and one half more. */
const MOST_PIXELS = 2_000_000;

/** What a mask would be in a window, with the pixels that the window shows. */
export async function previewMaskIn(
  pool: TaskPool,
  job: JobFile,
  pictureId: number,
  unit: LengthUnit,
  { window, parameters }: { window: PlanBounds; parameters: Record<string, unknown> },
): Promise<MaskPreview> {
  const settings = maskByColour.parameters(unit).parse({ ...parameters, picture: pictureId });
  const picture = await readProduct(job.read, pictureId, 'picture');
  const { rings, area, pieces, tolerance, frame } = await maskOf(
    { pool, job, signal: never },
    picture,
    settings,
    undefined,
    { window, pixels: MOST_PIXELS },
  );
  return { rings: shownRings(rings), area, pieces, tolerance, cell: pixelSize(frame) };
}
