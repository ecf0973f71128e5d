import type { LengthUnit } from '@pampero/core/geodesy';
import { THINNING_METHODS } from '@pampero/core/thinning';
import { z } from 'zod';
import { choice, classList, clouds, count, figure, flag, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** Besides those that look at points near each other, some that look at each alone or at all together. */
export const THINNING_CHOICES = [...THINNING_METHODS, 'key-points', 'count', 'intensity'] as const;

export const thinCloud = {
  id: 'thin-cloud',
  stage: 'thin',
  title: 'Thin',
  does: 'Keeps fewer points of the chosen classes. The others stay in the cloud and can be brought back.',
  method:
    'Spacing: Poisson-disk elimination by priorities drawn from the coordinates (Cook 1986). Key points: greedy insertion (Garland and Heckbert 1995).',
  readsFlags: () => false,
  // Done again, each of these would leave something else behind than a map.
  cannotRebuild: ({ outcome }) =>
    outcome === 'key-point' ? undefined : 'Thin again: the thinning itself has changed the job since.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds to thin. Each is thinned by itself.'),
      classes: classList({ label: 'Classes', help: 'Points of other classes stay as they are.' }),
      method: choice(THINNING_CHOICES, {
        default: 'spacing',
        label: 'Keep',
        help: 'Which points to keep.',
        choices: {
          spacing: 'an even spacing',
          'key-points': 'key points: dense where the land curves',
          lowest: 'the lowest of each cell',
          highest: 'the highest of each cell',
          'nearest-mean': 'nearest the mean of each cell',
          median: 'the median of each cell',
          random: 'a share at random',
          count: 'a number at random',
          intensity: 'a range of intensity',
        },
      }),
      distance: length({
        label: 'Spacing',
        help: 'No two kept points are nearer to each other, in space.',
        metres: { default: 1, min: 0.01, max: 500 },
        appliesTo: { name: 'method', is: 'spacing' },
      }),
      tolerance: length({
        label: 'Height tolerance',
        help: 'The surface of the kept points passes this near every point, everywhere.',
        metres: { default: 0.1, min: 0.005, max: 50 },
        appliesTo: { name: 'method', is: 'key-points' },
      }),
      cell: length({
        label: 'Cell size',
        help: 'In plan. One point of each cell is kept.',
        metres: { default: 1, min: 0.01, max: 500 },
        appliesTo: { name: 'method', is: ['lowest', 'highest', 'nearest-mean', 'median'] },
      }),
      sharePercent: figure({
        default: 10,
        min: 0.01,
        max: 100,
        label: 'Share, %',
        help: 'Of the points.',
        appliesTo: { name: 'method', is: 'random' },
      }),
      count: count({
        default: 100_000,
        min: 1,
        label: 'Number',
        help: 'Keeps so many points.',
        appliesTo: { name: 'method', is: 'count' },
      }),
      intensityFrom: count({
        default: 0,
        min: 0,
        max: 65_535,
        label: 'Intensity from',
        help: 'Drops darker points.',
        appliesTo: { name: 'method', is: 'intensity' },
      }),
      intensityTo: count({
        default: 65_535,
        min: 0,
        max: 65_535,
        label: 'Intensity to',
        help: 'Drops brighter points.',
        appliesTo: { name: 'method', is: 'intensity' },
      }),
      outcome: choice(['key-point', 'withhold', 'new-cloud'], {
        default: 'key-point',
        label: 'Result',
        help: 'Flags in this cloud, or a new cloud. Nothing is deleted.',
        choices: {
          'key-point': 'flag kept points as key points',
          withhold: 'withhold the others',
          'new-cloud': 'a new cloud of kept points',
        },
      }),
      differenceMap: flag({
        default: false,
        label: 'Map the difference',
        help: 'Makes a grid of how far the thinned surface is from the points. Each cell shows its worst point.',
      }),
    });
  },
} as const satisfies OperationDescription;
export type ThinCloudParameters = z.output<ReturnType<typeof thinCloud.parameters>>;
