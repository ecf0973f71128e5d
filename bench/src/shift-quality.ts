import { TileSampler } from '@pampero/core/imagery';
import { addWitnesses, checkShift, lightnessOver, newWitnessSums, witnessesOf } from '@pampero/core/shifts';
import { seededRandom } from '@pampero/core/task';
import { QUANTISATION, renderOrthophoto, SCENES, surveyScene } from '@pampero/demo';
import type { Row } from './rows.js';

/** Pixels of the rendered pictures, metres. */
const PIXEL = 0.2;

/** Shifts of 0 to 3 m put into rendered pictures of every scene, with roofs and crowns that lean, and what the check makes of them. */
export function* shiftQuality(seeds: readonly number[]): Generator<Row> {
  let [sure, wrong, worst, all] = [0, 0, 0, 0];
  for (const name of SCENES)
    for (const seed of seeds) {
      const random = seededRandom(seed * 31 + name.length);
      const [angle, far] = [2 * Math.PI * random(), 3 * random()];
      const shift = [far * Math.cos(angle), far * Math.sin(angle)] as const;
      const { scene, cloud } = surveyScene(name, seed);
      const { rgb, frame: pixels } = renderOrthophoto(scene, { pixel: PIXEL, shift, leans: true });
      const { scale, offset } = QUANTISATION;
      const spacing = Math.sqrt((scene.extent.east * scene.extent.north) / cloud.count);
      const cell = Math.max(PIXEL, spacing);
      const frame = {
        east: offset[0],
        north: offset[1],
        cell,
        columns: Math.floor(scene.extent.east / cell),
        rows: Math.floor(scene.extent.north / cell),
      };
      const sums = newWitnessSums(frame, (length) => new Int32Array(length));
      addWitnesses(sums, { ...cloud, scale, offset, isLeftOut: () => false });
      const sampler = new TileSampler(65_536, false);
      const { columns: width, rows: height } = pixels;
      sampler.add({ x: 0, y: 0, colour: { data: northFirst(rgb, width, height), width, height, samples: 3 } });
      const placement = {
        east: offset[0],
        eastPerColumn: PIXEL,
        eastPerRow: 0,
        north: offset[1] + height * PIXEL,
        northPerColumn: 0,
        northPerRow: -PIXEL,
      };
      const found = checkShift(lightnessOver(sampler, placement, 0, frame), witnessesOf(sums), frame);
      const off = Math.hypot(found.east - shift[0], found.north - shift[1]);
      const inWords = `shift ${name} ${seed}: ${found.sureness}, by ${found.witness ?? 'nothing'}, ${found.because}`;
      yield { name: inWords, measured: off / cell, unit: 'cells off' };
      all++;
      if (found.sureness !== 'sure') continue;
      sure++;
      worst = Math.max(worst, off / cell);
      if (off > cell) wrong++;
    }
  yield { name: 'shifts: said to be sure', measured: (100 * sure) / all, unit: '%' };
  yield { name: 'shifts: worst where sure', measured: worst, unit: 'cells', target: 0.3 };
  yield { name: 'shifts: sure and wrong by over a cell', measured: wrong, unit: 'cases', target: 0 };
}

function northFirst(rgb: Uint8Array, columns: number, rows: number): Uint8Array {
  const out = new Uint8Array(rgb.length);
  for (let row = 0; row < rows; row++)
    out.set(rgb.subarray(3 * row * columns, 3 * (row + 1) * columns), 3 * (rows - 1 - row) * columns);
  return out;
}
