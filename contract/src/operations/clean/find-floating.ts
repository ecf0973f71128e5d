import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { figure, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { classFor, cleanedClouds, stopAbove } from './cleaning-parameters.js';

export const findFloating = {
  id: 'find-floating',
  stage: 'clean',
  title: 'Find points off surfaces',
  does: 'Finds points that float above or below roads, roofs and other planes.',
  method: 'Trimmed least-squares plane about each point; common practice.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: cleanedClouds,
      within: length({
        label: 'Surface tolerance',
        help: 'Points this near the plane stay. About three times the ranging noise.',
        metres: { default: 0.1, min: 0.005, max: 5 },
      }),
      radius: length({
        label: 'Search radius',
        help: 'Fits the plane to points this near.',
        metres: { default: 1, min: 0.05, max: 20 },
      }),
      hardness: figure({
        default: 0.9,
        min: 0.5,
        max: 1,
        label: 'Share on one plane',
        help: 'A surface is hard where at least this share of the points lies on one plane.',
        isAdvanced: true,
      }),
      toClass: classFor(18),
      stopAbove,
    });
  },
} as const satisfies OperationDescription;
