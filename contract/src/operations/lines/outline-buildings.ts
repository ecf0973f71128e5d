import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, classList, clouds, lengthIn, lengthOrNone } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const outlineBuildings = {
  id: 'outline-buildings',
  stage: 'lines',
  title: 'Outline buildings',
  does: 'Draws the outline of each building from the points of its roof, with right angles where they fit.',
  method:
    'Points gathered in cells turned to the building; sides laid through the outermost points of strips across them, by least squares.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      clouds: clouds('The clouds with points of class 6, together.'),
      classes: classList({ label: 'Classes', help: 'Points of these classes are roofs.' }).default([6]),
      smallest: lengthIn(unit)({
        label: 'Smallest building',
        help: 'Side of a square: buildings that cover less are left out.',
        metres: { default: 3, min: 0, max: 1000 },
      }),
      shortestSide: lengthIn(unit)({
        label: 'Shortest side',
        help: 'Jogs in a wall that are shorter are evened out.',
        metres: { default: 1.5, min: 0.1, max: 50 },
      }),
      elevations: choice(['none', 'roof'], {
        default: 'none',
        label: 'Elevations',
        help: 'Outlines without elevations take those of the ground about them in a surface.',
        choices: { none: 'none', roof: 'middle of the roof' },
      }),
      cell: lengthOrNone(unit)({
        label: 'Cell size',
        help: 'Left out: one and a half times as far as points lie apart.',
        metres: { min: 0.05, max: 20 },
        isAdvanced: true,
      }),
      tolerance: lengthOrNone(unit)({
        label: 'Square within',
        help: 'An outline whose points lie further from its sides (root mean square) keeps its own angles. Left out: as far as points lie apart.',
        metres: { min: 0.01, max: 20 },
        isAdvanced: true,
      }),
    }),
} as const satisfies OperationDescription;
export type OutlineBuildingsParameters = z.output<ReturnType<typeof outlineBuildings.parameters>>;
