import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, elevation, figure, one, oneOrNone, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const measureVolume = {
  id: 'measure-volume',
  stage: 'terrain',
  title: 'Measure volume',
  does: 'Measures the earth between a surface and a level, another surface, or the base of a heap. Exact over the triangles.',
  method: 'Facets clipped by facets (Sutherland and Hodgman 1974); no gridding.',
  parameters: (unit: LengthUnit) =>
    z
      .strictObject({
        surfaceId: one('surface', { label: 'Surface', help: 'The surface to measure.' }),
        against: choice(['level', 'surface', 'outline'], {
          default: 'level',
          label: 'Against',
          help: 'What the surface is compared with.',
          choices: { level: 'a level', surface: 'a surface', outline: 'the base of a heap' },
        }),
        level: elevation({ label: 'Level', help: 'An elevation.', appliesTo: { name: 'against', is: 'level' } }),
        otherId: one('surface', {
          label: 'Other surface',
          help: 'Fill is where the first surface is above it, cut where it is below.',
          appliesTo: { name: 'against', is: 'surface' },
        }).optional(),
        outline: oneOrNone('lines', {
          label: 'Inside',
          help: 'Closed lines of the job. The base of a heap is stretched over the ground along them.',
          none: 'the whole surface',
        }),
        swell: figure({
          default: 1,
          min: 0.5,
          max: 3,
          label: 'Swell of cut',
          help: 'Loose volume of cut over its volume in place.',
          isAdvanced: true,
        }),
        shrink: figure({
          default: 1,
          min: 0.3,
          max: 1.5,
          label: 'Shrink of fill',
          help: 'Compacted volume of fill over its volume in place.',
          isAdvanced: true,
        }),
        name: productName('What the volume is called.'),
      })
      .refine(({ against, level }) => against !== 'level' || level !== undefined, {
        path: ['level'],
        message: `Type the level, in ${unit === 'metre' ? 'metres' : 'feet'}.`,
      })
      .refine(
        ({ against, otherId, surfaceId }) => against !== 'surface' || (otherId !== undefined && otherId !== surfaceId),
        { path: ['otherId'], message: 'Choose another surface.' },
      )
      .refine(({ against, outline }) => against !== 'outline' || outline !== undefined, {
        path: ['outline'],
        message: 'The base of a heap needs its outline: draw it in Plan and keep it as a boundary.',
      }),
} as const satisfies OperationDescription;
export type MeasureVolumeParameters = z.output<ReturnType<typeof measureVolume.parameters>>;
