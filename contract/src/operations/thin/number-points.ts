import { z } from 'zod';
import { choice, classList, clouds, count, productName, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const numberPoints = {
  id: 'number-points',
  stage: 'thin',
  title: 'Number points',
  does: 'Makes numbered spot points from the kept points, to hand over as a list or a drawing.',
  readsFlags: ({ which }) => which !== 'all',
  parameters: () =>
    z.strictObject({
      clouds: clouds('The clouds whose points get numbers.'),
      which: choice(['key-points', 'all'], {
        default: 'key-points',
        label: 'Points',
        help: 'Those flagged as key points, or all that are not withheld.',
        choices: { 'key-points': 'key points', all: 'all' },
      }),
      classes: classList({ label: 'Classes', help: 'Points of other classes get no number.' }),
      start: count({ default: 1, min: 0, label: 'First number', help: 'Numbers run from north to south.' }),
      prefix: words({ default: '', max: 20, label: 'Prefix', help: 'Letters before the number, or nothing.' }),
      code: words({ default: 'GND', max: 40, label: 'Code', help: 'Feature code of every point.' }),
      layer: words({
        default: 'SPOTS',
        max: 40,
        label: 'Layer',
        help: 'In the drawing. Numbers and elevations get layers of their own.',
      }).refine((layer) => layer.length > 0, 'Name the layer.'),
      decimals: count({ default: 3, min: 0, max: 4, label: 'Decimals', help: 'Rounds coordinates to so many.' }),
      name: productName('What the points are called.'),
    }),
} as const satisfies OperationDescription;
export type NumberPointsParameters = z.output<ReturnType<typeof numberPoints.parameters>>;
