import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { lengthIn, one, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const smoothSurfaces = {
  id: 'smooth-surfaces',
  stage: 'align',
  title: 'Smooth hard surfaces',
  does: 'Takes ranging noise off hard surfaces: points move towards the plane of their neighbours, within a limit and never across an edge.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloud: one('cloud', { label: 'Cloud', help: 'The cloud to smooth.' }),
      radius: length({
        metres: { default: 0, min: 0, max: 50 },
        label: 'Radius',
        help: 'Of the neighbours that make the plane. 0: three point spacings.',
      }),
      limit: length({
        metres: { default: 0.05, min: 0.001, max: 1 },
        label: 'Move at most',
        help: 'Points further off the plane stay where they are.',
      }),
      as: words({ default: '', label: 'Name', help: 'What the new positions are called.' }),
    });
  },
} as const satisfies OperationDescription;
export type SmoothSurfacesParameters = z.output<ReturnType<typeof smoothSurfaces.parameters>>;
