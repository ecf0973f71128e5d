import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { classList, clouds, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const outlineVoids = {
  id: 'outline-voids',
  stage: 'lines',
  title: 'Outline voids',
  does: 'Outlines land without ground points, under plants, buildings and water, so that a surface leaves it out.',
  method: 'Opening of what ground points leave free by a disc; exact distances (Felzenszwalb and Huttenlocher 2012).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds whose ground points are looked at, together.'),
      classes: classList({ label: 'Classes', help: 'Points of these classes are ground.' }),
      width: length({
        label: 'Wider than',
        help: 'Across. Narrower gaps between ground points are bridged by a surface as before.',
        metres: { default: 6, min: 0.5, max: 1000 },
      }),
      cell: length({
        label: 'Cell size',
        help: 'The outline runs along the edges of cells, evened out within one.',
        metres: { default: 1, min: 0.1, max: 50 },
        isAdvanced: true,
      }),
    });
  },
} as const satisfies OperationDescription;
export type OutlineVoidsParameters = z.output<ReturnType<typeof outlineVoids.parameters>>;
