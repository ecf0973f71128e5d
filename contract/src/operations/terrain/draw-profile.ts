import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { any, lengthIn, meta, productName, some } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { placeSchema } from './surface-edits.js';

export const drawProfile = {
  id: 'draw-profile',
  stage: 'terrain',
  title: 'Draw profile',
  does: 'Cuts surfaces along a line, with a vertex at every edge it crosses. Ground points near the line are shown too.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      surfaceIds: some('surface', { label: 'Surfaces', help: 'The surfaces to cut.' }).max(12),
      line: z
        .array(placeSchema)
        .min(2, 'A line has at least two vertices.')
        .max(2000)
        .meta(meta({ label: 'Line', help: 'Easting and northing of its vertices.' })),
      clouds: any('cloud', { label: 'Clouds', help: 'Ground points of these clouds are shown too.' }),
      depth: length({
        label: 'Points within',
        help: 'Distance from the line, on either side.',
        metres: { default: 0.5, min: 0, max: 100 },
      }),
      name: productName('What the profile is called.'),
    });
  },
} as const satisfies OperationDescription;
export type DrawProfileParameters = z.output<ReturnType<typeof drawProfile.parameters>>;
