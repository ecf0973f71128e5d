import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { count, figure, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { classFor, cleanedClouds, stopAbove } from './cleaning-parameters.js';

export const findOutliers = {
  id: 'find-outliers',
  stage: 'clean',
  title: 'Find outliers',
  does: 'Finds points that are further from their neighbours than is usual in the cloud.',
  method: 'Rusu et al. 2008, Robotics and Autonomous Systems 56(11), 927-941: mean distance to k neighbours.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      clouds: cleanedClouds,
      neighbours: count({
        default: 8,
        min: 1,
        max: 64,
        label: 'Nearest neighbours',
        help: 'Averages the distance to so many.',
      }),
      deviations: figure({
        default: 3,
        min: 0,
        max: 100,
        label: 'Standard deviations above the mean',
        help: 'A smaller number finds more points.',
      }),
      furthest: lengthIn(unit)({
        label: 'Maximum neighbour distance',
        help: 'A missing neighbour counts with this distance.',
        metres: { default: 10, min: 0.5, max: 100 },
        isAdvanced: true,
      }),
      toClass: classFor(7),
      stopAbove,
    }),
} as const satisfies OperationDescription;
