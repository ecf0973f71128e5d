import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { codeNameSchema } from '../../feature-codes.js';
import { any, elevation, lengthIn, meta, one } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const outlineMask = {
  id: 'outline-mask',
  stage: 'lines',
  title: 'Outline mask',
  does: 'Draws the edges of a mask as lines. Those of water get one level, typed or from the ground along the edge, and a surface lies flat there.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      mask: one('mask', { label: 'Mask', help: 'What is outlined.' }),
      code: codeNameSchema.default('WATER-EDGE').meta(
        meta({
          label: 'Code',
          help: 'The feature code of the lines. Its kind says what a surface makes of them.',
          quantity: 'name',
        }),
      ),
      level: elevation({
        label: 'Level',
        help: 'The elevation of all of it. Left out: the middle of the ground points just outside each edge.',
        none: 'from the ground',
      }),
      clouds: any('cloud', {
        label: 'Ground of',
        help: 'The clouds whose ground points tell the level. None chosen: edges have no elevation unless it is typed.',
      }),
      tolerance: lengthIn(unit)({
        label: 'Simplify within',
        help: 'The edge between pixels is a stair; it is told by legs that stay this near to it.',
        metres: { default: 0.3, min: 0, max: 100 },
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type OutlineMaskParameters = z.output<ReturnType<typeof outlineMask.parameters>>;
