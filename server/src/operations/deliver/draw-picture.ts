import { drawPicture, type DrawPictureParameters } from '@pampero/contract';
import { boundsAround, classMask } from '@pampero/core/cloud';
import { lengthUnits, metresPer } from '@pampero/core/geodesy';
import type { PicturePart } from '@pampero/core/imagery';
import { framePlan } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { averageSpacing } from '../../passes/cloud-spacing.js';
import { makePicture, pictureFrameOver } from '../../passes/make-picture.js';
import { evenSample, readNodeColumns } from '../../passes/node-groups.js';
import { reachesInto, readClouds } from '../../passes/read-clouds.js';
import type { RunWork } from '../../runs/run-service.js';
import { quantisationOf, readCloudFacts } from '../../store/cloud-repository.js';
import { listStoredNodes } from '../../store/node-repository.js';
import type { CloudColumns } from '../../tasks/chosen-points.js';
import type { BlockPixels } from '../../tasks/picture-tasks.js';
import { serverOperation, type Surroundings } from '../server-operation.js';

/** Thickness of what is seen, metres: points on leaves and noise of one roof are one. */
const LAYER = 0.3;
/** Points that the range of values is told by. */
const SAMPLE = 300_000;

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
    const { min, max } = boundsAround(facts.map(({ bounds }) => bounds));
    const frame = pictureFrameOver({ west: min[0], south: min[1], east: max[0], north: max[1] }, pixel);
    const takes = classMask(Array.from({ length: 256 }, (_, code) => code).filter((code) => !leftOut.includes(code)));
    report(0.02, 'Looking at values');
    const range = await pool.run('cloudPictureRange', { clouds: await sampleOf(ids), takes, shows }, signal);
    if (!range)
      throw new PamperoError('no-points', {
        what: 'There are no points to be seen.',
        fix: 'Leave out fewer classes, or restore withheld points.',
      });
    const stored = await makePicture(
      { pool, signal, library },
      frame,
      { bands: shows === 'intensity' ? 'grey' : 'colour', isPaletted: false, isExact: shows === 'elevation' },
      (place) => blockOf(place, range),
      (share) => report(0.05 + 0.9 * share, 'Drawing points'),
    );
    report(0.95, 'Storing');
    const name = parameters.name ?? `${NAMES[shows]}, ${Number(pixel.toPrecision(6))} ${lengthUnits[unit].short}`;
    return {
      outcome: `${name}: ${formatCount(frame.columns)} by ${formatCount(frame.rows)} pixels`,
      figures: [
        { label: 'Pixels', value: frame.columns * frame.rows, quantity: 'count' },
        { label: 'Pixel', value: pixel, quantity: 'length' },
      ],
      store: stored({ name, operation: drawPicture.id, parameters, replaces }),
    };

    /** Some points of each cloud, from all over it. */
    async function sampleOf(clouds: readonly number[]): Promise<CloudColumns[]> {
      return Promise.all(
        clouds.map(async (id, k) => {
          const { attributeNames: names, columns } = facts[k]!;
          const even = evenSample(await listStoredNodes(job.read, id), SAMPLE);
          return {
            nodes: await readNodeColumns(job.read, even, { attributes: true }),
            quantisation: quantisationOf(facts[k]!),
            attributes: { names, columns },
          };
        }),
      );
    }

    async function blockOf(
      { left, top, columns: wide, rows: high }: PicturePart,
      range: readonly [number, number],
    ): Promise<BlockPixels> {
      // Closing a gap looks so far outwards and back; light looks a cell further.
      const margin = 2 * gaps + 1;
      const block = {
        east: frame.east + (left - margin) * pixel,
        north: frame.north - (top + high + margin) * pixel,
        cell: pixel,
        columns: wide + 2 * margin,
        rows: high + 2 * margin,
      };
      const window = framePlan(block);
      const read = await readClouds(job.read, ids, (box) => reachesInto(box, window, 0), {
        attributes: shows !== 'elevation',
      });
      const task = { clouds: read.clouds, frame: block, margin, shows, takes, layer: LAYER / metresPer(unit), rings: gaps, range }; // prettier-ignore
      return pool.run('cloudPictureBlock', task, signal, read.transfer);
    }
  };
}

const NAMES = { colour: 'Picture of points', intensity: 'Intensity', elevation: 'Elevation' } as const;

export const operation = serverOperation(drawPicture, work);
