import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { classList, clouds, figure, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findWaterEdges = {
  id: 'find-water-edges',
  stage: 'lines',
  title: 'Find water edges',
  does: 'Outlines the water: ponds at one level, rivers at levels that only fall downstream.',
  method:
    'Hydro-flattening as in the USGS Lidar Base Specification; falling levels by least squares (Ayer et al. 1955).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds with points of class 9, together.'),
      landClasses: classList({ label: 'Land', help: 'Points of these classes are the banks.' }),
      cell: length({
        label: 'Cell size',
        help: 'Cells with more water than land are water.',
        metres: { default: 1, min: 0.1, max: 100 },
      }),
      minimumArea: figure({
        default: 100,
        min: 0,
        max: 1e9,
        label: 'Minimum area',
        help: 'Smaller water is left out, in square units of the job.',
      }),
      reach: length({
        label: 'Widest gap without points',
        help: 'Still water often sends nothing back: cells without a point up to this far from water are water.',
        metres: { default: 6, min: 0, max: 1000 },
      }),
      leastFall: length({
        label: 'Flows if it falls by',
        help: 'From end to end. Water that falls less is laid at one level.',
        metres: { default: 0.3, min: 0.01, max: 100 },
      }),
      tolerance: length({
        label: 'Simplify within',
        help: 'The edge between cells is a stair; it is told by legs that stay this near to it.',
        metres: { default: 0.7, min: 0, max: 100 },
        isAdvanced: true,
      }),
    });
  },
} as const satisfies OperationDescription;
export type FindWaterEdgesParameters = z.output<ReturnType<typeof findWaterEdges.parameters>>;
