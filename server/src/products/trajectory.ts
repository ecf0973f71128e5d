import { unpackArrays } from '@pampero/core/binary';
import { writeTrajectory } from '@pampero/core/formats/trajectory';
import type { Trajectory } from '@pampero/core/strips';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import type { ProductHome } from './product-home.js';

/** Places that a trajectory is drawn with at most. */
const MOST_SHOWN = 20_000;

export const home: ProductHome<'trajectory'> = {
  kind: 'trajectory',
  async shown(models, id) {
    const { arrays } = unpackArrays(await readShownPart(models, 'trajectory', id, 'records'));
    const { time, east, north, up, heightAccuracy } = arrays as unknown as Trajectory;
    const stride = Math.max(1, Math.ceil(time.length / MOST_SHOWN));
    const coordinates: [number, number, number][] = [];
    const [times, accuracy]: number[][] = [[], []];
    for (let i = 0; i < time.length; i += stride) {
      coordinates.push([east[i]!, north[i]!, up[i]!]);
      times!.push(time[i]!);
      if (heightAccuracy) accuracy!.push(heightAccuracy[i]!);
    }
    const properties = { time: times, ...(heightAccuracy && { accuracy }) };
    return { json: JSON.stringify({ features: [{ geometry: { coordinates }, properties }] }) };
  },
  writers: {
    csv: async ({ models }, { id }) => {
      const { arrays } = unpackArrays(await readProductBlob(models, id, 'records'));
      return { pieces: writeTrajectory(arrays as unknown as Trajectory) };
    },
  },
};
