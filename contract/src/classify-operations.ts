import type { LengthUnit } from '@pampero/core/geodesy';
import { GROUND_METHODS } from '@pampero/core/ground';
import { z } from 'zod';
import { classCodeSchema } from './classes.js';
import { lengthIn } from './length.js';
import { cloudChoice, meta, type OperationDescription } from './operation-description.js';

export const findGround = {
  id: 'find-ground',
  stage: 'classify',
  title: 'Find ground',
  does: 'Lays a surface over the lowest points, then classes as ground what lies in the plane of its neighbours.',
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
    { label: 'From photographs, with grass', values: { method: 'tin', cell: 0.5, tolerance: 0.06, doubtGreen: true } },
    // The figures are common practice, no source: a step of a foot, 200 % of slope, a window of ten feet.
    {
      label: 'Pavement and kerbs',
      values: { method: 'tin', cell: 0.25, tolerance: 0.03, tallestStep: 0.3, steepestRise: 63, largestBuilding: 3 },
    },
  ],
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId: cloudChoice('The cloud whose ground is sought.'),
      method: z
        .enum(GROUND_METHODS)
        .default('tin')
        .meta(
          meta({
            label: 'First surface',
            help: 'A TIN that takes in points step by step, or a cloth pressed against the lowest points.',
            choices: { tin: 'TIN, densified', cloth: 'cloth' },
          }),
        ),
      cell: length({
        label: 'Cell',
        help: 'The lowest point of each cell is asked; two to three spacings of last returns.',
        metres: { default: 1, min: 0.1, max: 50 },
      }),
      tolerance: length({
        label: 'Counts as ground within',
        help: 'Above or below the ground found: three times the ranging noise.',
        metres: { default: 0.06, min: 0.005, max: 5 },
      }),
      largestBuilding: length({
        label: 'Widest building',
        help: 'The search window: in a square this wide some point is ground.',
        metres: { default: 60, min: 1, max: 1000 },
        appliesTo: { name: 'method', is: 'tin' },
      }),
      steepestRise: z
        .number()
        .min(1)
        .max(85)
        .default(8)
        .meta(
          meta({
            label: 'Steepest rise to a point',
            help: 'From the surface so far. More lets banks and kerbs in, and bushes too.',
            quantity: 'degrees',
            appliesTo: { name: 'method', is: 'tin' },
          }),
        ),
      tallestStep: length({
        label: 'Tallest step',
        help: 'Kerbs and walls between two levels of ground up to this height are ground themselves.',
        metres: { default: 3, min: 0.01, max: 100 },
      }),
      landShape: z
        .enum(['flat', 'rolling', 'steep'])
        .default('rolling')
        .meta(
          meta({
            label: 'Shape of the land',
            help: 'How far the cloth may bend: flat holds off large halls, steep follows ridges.',
            appliesTo: { name: 'method', is: 'cloth' },
          }),
        ),
      followSteepSlopes: z
        .boolean()
        .default(true)
        .meta(
          meta({
            label: 'Follow steep banks',
            help: 'Lets the cloth climb slopes it has stretched across; walls still stop it.',
            appliesTo: { name: 'method', is: 'cloth' },
          }),
        ),
      steepestDegrees: z
        .number()
        .min(5)
        .max(80)
        .default(40)
        .meta(
          meta({
            label: 'Steepest bank',
            help: 'Slopes above this are taken for walls.',
            quantity: 'degrees',
            appliesTo: { name: 'method', is: 'cloth' },
            isAdvanced: true,
          }),
        ),
      iterations: z
        .int()
        .min(1)
        .max(5000)
        .default(500)
        .meta(
          meta({
            label: 'Most iterations',
            help: 'The cloth is left to rest sooner when it no longer moves.',
            quantity: 'count',
            appliesTo: { name: 'method', is: 'cloth' },
            isAdvanced: true,
          }),
        ),
      secondLook: z
        .boolean()
        .default(true)
        .meta(
          meta({
            label: 'Look a second time',
            help: 'Fits planes to what lies near the first surface and classes against them: both edges of a step are kept.',
          }),
        ),
      doubtGreen: z
        .boolean()
        .default(false)
        .meta(
          meta({
            label: 'Green counts for less',
            help: 'For coloured clouds from photographs, which see grass and not the ground under it.',
          }),
        ),
      leastConfidence: z
        .number()
        .min(0, 'Confidence cannot be under 0.')
        .default(0)
        .meta(
          meta({
            label: 'Sure of points from',
            help: 'Points with less confidence than this count for less; 0 asks all alike.',
            isAdvanced: true,
          }),
        ),
      lowPointDrop: length({
        label: 'Low points lie under by',
        help: 'Cells this far under their surroundings hold false points and are left out.',
        metres: { default: 0.5, min: 0.05, max: 20 },
        isAdvanced: true,
      }),
    });
  },
} as const satisfies OperationDescription;

export const findObjects = {
  id: 'find-objects',
  stage: 'classify',
  title: 'Class what stands on the ground',
  does: 'Classes what is not ground: wires that run as lines, buildings by their roofs, poles, fences and vehicles by their outline, vegetation by its height over the ground.',
  method: 'Covariance of the points about each for planes (Weinmann et al. 2015, ISPRS Journal 105, 286-304).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        cloudId: cloudChoice('The cloud that is classed; its ground has to be found first.'),
        lowFrom: length({
          label: 'Low vegetation from',
          help: 'Points lower than this over the ground stay unclassified.',
          metres: { default: 0.2, min: 0, max: 10 },
        }),
        mediumFrom: length({
          label: 'Medium from',
          help: 'Height over the ground.',
          metres: { default: 0.6, min: 0, max: 20 },
        }),
        highFrom: length({
          label: 'High from',
          help: 'Height over the ground.',
          metres: { default: 3, min: 0, max: 50 },
        }),
        buildings: z
          .boolean()
          .default(true)
          .meta(meta({ label: 'Look for buildings', help: 'Plane pieces of some size, high over the ground.' })),
        smallestRoof: length({
          label: 'Smallest roof, side',
          help: 'A roof covers at least a square of this side.',
          metres: { default: 2.5, min: 0.5, max: 100 },
        }),
        leastHeight: length({
          label: 'Roofs are higher than',
          help: 'Over the ground: keeps vehicles and walls out.',
          metres: { default: 2, min: 0.3, max: 50 },
        }),
        wires: z
          .boolean()
          .default(true)
          .meta(meta({ label: 'Look for wires', help: 'Lines that hang high over the ground and run on: class 14.' })),
        wiresFrom: length({
          label: 'Wires hang higher than',
          help: 'Over the ground.',
          metres: { default: 4, min: 1, max: 100 },
          isAdvanced: true,
        }),
        wirePiece: length({
          label: 'Piece of wire looked at',
          help: 'Four other points of the wire should lie this near.',
          metres: { default: 5, min: 0.2, max: 20 },
          isAdvanced: true,
        }),
        roughness: length({
          label: 'Roofs are plane within',
          help: 'Scatter about the plane: two or three times the ranging noise.',
          metres: { default: 0.08, min: 0.005, max: 2 },
          isAdvanced: true,
        }),
        radius: length({
          label: 'Piece of roof looked at',
          help: 'Some ten points should lie within.',
          metres: { default: 1, min: 0.1, max: 20 },
          isAdvanced: true,
        }),
        poles: z
          .boolean()
          .default(true)
          .meta(meta({ label: 'Look for poles and towers', help: 'Slender and high, or carrying a wire: class 15.' })),
        polesFrom: length({
          label: 'Poles are higher than',
          help: 'Over the ground.',
          metres: { default: 4, min: 1.5, max: 100 },
          isAdvanced: true,
        }),
        fences: z
          .boolean()
          .default(false)
          .meta(
            meta({ label: 'Look for fences and walls', help: 'Lines in plan, no higher than a fence, that run on.' }),
          ),
        fenceLength: length({
          label: 'Fences run at least',
          help: 'Shorter pieces are left to vegetation.',
          metres: { default: 8, min: 2, max: 200 },
          appliesTo: { name: 'fences', is: 'true' },
        }),
        fenceClass: classCodeSchema.default(64).meta(
          meta({
            label: 'Fences and walls to',
            help: 'A class of your own; the standard has none for them.',
            quantity: 'class',
            appliesTo: { name: 'fences', is: 'true' },
          }),
        ),
        vehicles: z
          .boolean()
          .default(false)
          .meta(meta({ label: 'Look for vehicles', help: 'What fills a box of the size of a car or lorry.' })),
        vehicleClass: classCodeSchema.default(65).meta(
          meta({
            label: 'Vehicles to',
            help: 'A class of your own; the standard has none for them.',
            quantity: 'class',
            appliesTo: { name: 'vehicles', is: 'true' },
          }),
        ),
        highest: length({
          label: 'No plant is higher than',
          help: 'What lies higher stays as it is: birds, wires.',
          metres: { default: 40, min: 1, max: 500 },
          isAdvanced: true,
        }),
      })
      .refine(({ lowFrom, mediumFrom, highFrom }) => lowFrom <= mediumFrom && mediumFrom <= highFrom, {
        error: 'Low, medium and high have to begin one over the other.',
        path: ['mediumFrom'],
      });
  },
} as const satisfies OperationDescription;

export const findWater = {
  id: 'find-water',
  stage: 'classify',
  title: 'Find water',
  does: 'Gives class 9 to returns off standing or slow water: where most beams are lost, level, and lower than the banks about it.',
  method: 'After the signs of Höfle et al. 2009, IEEE Transactions on Geoscience and Remote Sensing 47(10), 3323-3333.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId: cloudChoice('The cloud that is classed; its ground has to be found first.'),
      smallest: length({
        label: 'Smallest water, side',
        help: 'A piece of water covers at least a square of this side.',
        metres: { default: 5, min: 1, max: 1000 },
      }),
      tolerance: length({
        label: 'Level within',
        help: 'How far cells of water may lie from the level of those beside them; twice the ranging noise or more.',
        metres: { default: 0.1, min: 0.01, max: 1 },
      }),
    });
  },
} as const satisfies OperationDescription;

export const findBridges = {
  id: 'find-bridges',
  stage: 'classify',
  title: 'Find bridges',
  does: 'Gives class 17 to bridge decks, also those that were taken for ground: they fall away on both sides and go over into land at both ends.',
  method: 'After Sithole and Vosselman 2006, ISPRS Journal of Photogrammetry and Remote Sensing 61(1), 33-46.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId: cloudChoice('The cloud that is classed; its ground has to be found first.'),
      widest: length({
        label: 'Widest deck',
        help: 'From edge to edge, across the way that leads over it.',
        metres: { default: 30, min: 2, max: 100 },
      }),
      leastDrop: length({
        label: 'Lies over what is beneath by',
        help: 'At least; what is lower than this beside it may be a kerb or a ditch.',
        metres: { default: 1.5, min: 0.5, max: 20 },
      }),
    });
  },
} as const satisfies OperationDescription;

export const carryClasses = {
  id: 'carry-classes',
  stage: 'classify',
  title: 'Carry classes over',
  does: 'Gives the points of a cloud the classes of the nearest points of another, such as the thinned one that was worked on.',
  method: 'Nearest neighbour in space, within a distance.',
  parameters: (unit: LengthUnit) =>
    z
      .strictObject({
        fromId: z
          .int()
          .positive()
          .meta(meta({ label: 'From', help: 'The cloud that has the classes.', quantity: 'cloud' })),
        cloudId: z
          .int()
          .positive()
          .meta(meta({ label: 'To', help: 'The cloud that takes them.', quantity: 'cloud' })),
        distance: lengthIn(unit)({
          label: 'Within',
          help: 'Points further than this from any classed one stay as they are.',
          metres: { default: 0.5, min: 0.01, max: 50 },
        }),
      })
      .refine(({ fromId, cloudId }) => fromId !== cloudId, {
        path: ['fromId'],
        message: 'Choose two clouds: the one that has the classes and the one that takes them.',
      }),
} as const satisfies OperationDescription;
