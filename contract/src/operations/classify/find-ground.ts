import type { LengthUnit } from '@pampero/core/geodesy';
import { GROUND_METHODS } from '@pampero/core/ground';
import { z } from 'zod';
import { choice, clouds, count, degrees, figure, flag, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findGround = {
  id: 'find-ground',
  stage: 'classify',
  title: 'Find ground',
  does: 'Builds a surface from the lowest points, then classes as ground every point that lies on it.',
  method:
    'TIN densification: Axelsson 2000, IAPRS 33 B4, 110-117. Cloth: Zhang et al. 2016, Remote Sensing 8(6), 501; its resting state computed directly.',
  presets: [
    { label: 'Open country', values: { method: 'tin', cell: 1, tolerance: 0.06 } },
    {
      label: 'Woods on slopes',
      values: { method: 'tin', cell: 0.7, tolerance: 0.06, largestBuilding: 30 },
    },
    {
      label: 'Town with large halls',
      values: { method: 'tin', cell: 0.7, tolerance: 0.06, largestBuilding: 90 },
    },
    {
      label: 'Terraces and cuttings',
      values: { method: 'tin', cell: 0.7, tolerance: 0.06, tallestStep: 6 },
    },
    {
      label: 'From photographs, with grass',
      values: { method: 'tin', cell: 0.5, tolerance: 0.06, trustGreenLess: true },
    },
    // The figures are common practice, no source: a step of a foot, 200 % of slope, a window of ten feet.
    {
      label: 'Pavement and kerbs',
      values: { method: 'tin', cell: 0.25, tolerance: 0.03, tallestStep: 0.3, steepestRise: 63, largestBuilding: 3 },
    },
  ],
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds to find ground in. Each is done by itself.'),
      method: choice(GROUND_METHODS, {
        default: 'tin',
        label: 'First surface',
        help: 'A TIN that takes in points step by step, or a cloth pressed against the lowest points.',
        choices: { tin: 'TIN, densified', cloth: 'cloth' },
      }),
      cell: length({
        label: 'Cell size',
        help: 'Starts from the lowest point of each cell. Two to three times the spacing of last returns.',
        metres: { default: 1, min: 0.1, max: 50 },
      }),
      tolerance: length({
        label: 'Ground tolerance',
        help: 'Points this near the ground surface are ground. Three times the ranging noise.',
        metres: { default: 0.06, min: 0.005, max: 5 },
      }),
      largestBuilding: length({
        label: 'Widest building',
        help: 'The search window: some point in a tile this wide must be ground.',
        metres: { default: 60, min: 1, max: 1000 },
        appliesTo: { name: 'method', is: 'tin' },
      }),
      steepestRise: degrees({
        default: 8,
        min: 1,
        max: 85,
        label: 'Steepest angle to a new point',
        help: 'Seen from the surface so far. A larger angle lets in banks and kerbs, and bushes too.',
        appliesTo: { name: 'method', is: 'tin' },
      }),
      tallestStep: length({
        label: 'Tallest step',
        help: 'Kerbs and walls between two levels of ground are ground up to this height.',
        metres: { default: 3, min: 0.01, max: 100 },
      }),
      landShape: choice(['flat', 'rolling', 'steep'], {
        default: 'rolling',
        label: 'Shape of the land',
        help: 'How far the cloth bends. Flat stays off large halls, steep follows ridges.',
        appliesTo: { name: 'method', is: 'cloth' },
      }),
      followSteepSlopes: flag({
        default: true,
        label: 'Follow steep banks',
        help: 'Lets the cloth climb slopes it was stretched across. Walls still stop it.',
        appliesTo: { name: 'method', is: 'cloth' },
      }),
      steepestDegrees: degrees({
        default: 40,
        min: 5,
        max: 80,
        label: 'Steepest bank',
        help: 'Steeper slopes are taken for walls.',
        appliesTo: { name: 'method', is: 'cloth' },
        isAdvanced: true,
      }),
      iterations: count({
        default: 500,
        min: 1,
        max: 5000,
        label: 'Maximum iterations',
        help: 'The cloth stops sooner once it no longer moves.',
        appliesTo: { name: 'method', is: 'cloth' },
        isAdvanced: true,
      }),
      steepSlope: degrees({
        default: 10,
        min: 0,
        max: 80,
        label: 'Steep slope',
        help: 'Little of the land is steeper. What stands out by more is checked again: roofs, crowns, pits.',
        appliesTo: { name: 'refine', is: 'true' },
        isAdvanced: true,
      }),
      refine: flag({
        default: true,
        label: 'Refine with local planes',
        help: 'Checks the first surface for plants and roofs, fits planes to the points near it and classes against them. Keeps both edges of a step.',
      }),
      trustGreenLess: flag({
        default: false,
        label: 'Trust green points less',
        help: 'For coloured clouds from photographs, which see the grass and not the ground under it.',
      }),
      minimumConfidence: figure({
        default: 0,
        min: 0,
        label: 'Minimum confidence',
        help: 'Points with less confidence count for less. 0 trusts all points alike.',
        isAdvanced: true,
      }),
      lowPointDepth: length({
        label: 'Low-point depth',
        help: 'Cells this far below their surroundings hold false points and are left out.',
        metres: { default: 0.5, min: 0.05, max: 20 },
        isAdvanced: true,
      }),
    });
  },
} as const satisfies OperationDescription;
export type FindGroundParameters = z.output<ReturnType<typeof findGround.parameters>>;
