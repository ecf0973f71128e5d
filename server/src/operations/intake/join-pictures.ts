import { joinPictures, type JoinPicturesParameters } from '@pampero/contract';
import { lengthUnits } from '@pampero/core/geodesy';
import { isNorthUp, picturePlan, pixelSize, planOfPart, type PicturePart } from '@pampero/core/imagery';
import { plansOverlap } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { formatCount, formatCounted, formatNumber } from '@pampero/core/wording';
import { makePicture, pictureFrameOver } from '../../passes/make-picture.js';
import { frameOf, readLevel } from '../../passes/picture-site.js';
import type { RunWork } from '../../runs/run-service.js';
import { readProduct } from '../../store/product-repository.js';
import type { BlockPixels, PictureLevel } from '../../tasks/picture-tasks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Pictures that lie beside and over each other as one, block by block. */
function work(parameters: JoinPicturesParameters, { pool, unit, library, replaces }: Surroundings): RunWork {
  return async ({ job, signal, report }) => {
    const ids = [...new Set(parameters.pictures)];
    if (ids.length < 2)
      throw new PamperoError('too-few-pictures', {
        what: 'One picture alone is joined already.',
        fix: 'Choose two or more.',
      });
    const pictures = await Promise.all(ids.map((id) => readProduct(job.read, id, 'picture')));
    const pixel = parameters.pixel ?? Math.min(...pictures.map(({ facts }) => pixelSize(frameOf(facts))));
    const plans = pictures.map(({ facts }) => picturePlan(frameOf(facts)));
    // In the pixels of the finest of them, so that where it is seen it stays as it was.
    const finest = pictures.reduce((a, b) => (pixelSize(frameOf(b.facts)) < pixelSize(frameOf(a.facts)) ? b : a));
    // Sides that end on a whole pixel need no other beyond it.
    const touch = 1e-6 * pixel;
    const frame = pictureFrameOver(
      {
        west: Math.min(...plans.map(({ west }) => west)) + touch,
        south: Math.min(...plans.map(({ south }) => south)) + touch,
        east: Math.max(...plans.map(({ east }) => east)) - touch,
        north: Math.max(...plans.map(({ north }) => north)) - touch,
      },
      pixel,
      isNorthUp(finest.facts) ? finest.facts : undefined,
    );
    const isGrey = pictures.every(({ facts }) => facts.bands === 'grey');
    const isPaletted = pictures.some(({ facts }) => facts.isPaletted);

    const blockOf = async (part: PicturePart): Promise<BlockPixels> => {
      const land = planOfPart(frame, part);
      const levels: PictureLevel[] = [];
      for (const [k, { id, facts }] of pictures.entries()) {
        if (!plansOverlap(plans[k]!, land)) continue;
        const halvings = Math.floor(Math.log2(Math.max(1, (1.001 * pixel) / pixelSize(frameOf(facts)))));
        levels.push(await readLevel(job.read, id, facts, Math.min(facts.levels - 1, halvings), land));
      }
      const task = { pictures: levels, placement: { ...frame, east: land.west, north: land.north }, columns: part.columns, rows: part.rows, samples: isGrey ? 1 : 3 } as const; // prettier-ignore
      return pool.run('joinedBlock', task, signal);
    };
    const stored = await makePicture(
      { pool, signal, library },
      frame,
      { bands: isGrey ? 'grey' : 'colour', isPaletted, isExact: isPaletted },
      blockOf,
      (share) => report(0.95 * share, 'Joining'),
    );
    const name = parameters.name ?? `${pictures[0]!.name} and ${formatCounted(pictures.length - 1, 'more picture')}`;
    const lost = pictures.filter(({ facts }) => facts.bands === 'colour-infrared');
    return {
      outcome: [
        `${name}: ${formatCount(frame.columns)} by ${formatCount(frame.rows)} pixels of ${formatNumber(pixel, 3)} ${lengthUnits[unit].short}`,
        ...(lost.length > 0 ? ['Infrared was left out'] : []),
      ].join('. '),
      figures: [
        { label: 'Pixels', value: frame.columns * frame.rows, quantity: 'count' },
        { label: 'Pixel', value: pixel, quantity: 'length' },
      ],
      store: stored({ name, operation: joinPictures.id, parameters, replaces }),
    };
  };
}

export const operation = serverOperation(joinPictures, work);
