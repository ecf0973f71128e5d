import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { classChoice, clouds, flag, lengthIn } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findObjects = {
  id: 'find-objects',
  stage: 'classify',
  title: 'Classify objects',
  does: 'Classes wires, buildings, poles, fences, vehicles and vegetation by their shape and their height above ground.',
  method: 'Covariance of the points about each for planes (Weinmann et al. 2015, ISPRS Journal 105, 286-304).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        clouds: clouds('The clouds to classify. Find their ground first.'),
        lowFrom: length({
          label: 'Low vegetation from',
          help: 'Height above ground. Lower points stay unclassified.',
          metres: { default: 0.2, min: 0, max: 10 },
        }),
        mediumFrom: length({
          label: 'Medium vegetation from',
          help: 'Height above ground.',
          metres: { default: 0.6, min: 0, max: 20 },
        }),
        highFrom: length({
          label: 'High vegetation from',
          help: 'Height above ground.',
          metres: { default: 3, min: 0, max: 50 },
        }),
        buildings: flag({ default: true, label: 'Find buildings', help: 'Plane pieces of roof, high above ground.' }),
        smallestRoof: length({
          label: 'Smallest roof, side',
          help: 'A roof covers at least a square with this side.',
          metres: { default: 2.5, min: 0.5, max: 100 },
        }),
        leastHeight: length({
          label: 'Minimum roof height',
          help: 'Above ground. A roof under 2.15 m must be wider than a vehicle too.',
          metres: { default: 1.7, min: 0.3, max: 50 },
        }),
        wires: flag({ default: true, label: 'Find wires', help: 'Long lines of points high above ground: class 14.' }),
        wiresFrom: length({
          label: 'Minimum wire height',
          help: 'Above ground.',
          metres: { default: 4, min: 1, max: 100 },
          isAdvanced: true,
        }),
        wirePiece: length({
          label: 'Wire search radius',
          help: 'Four other points of the wire should be this near.',
          metres: { default: 5, min: 0.2, max: 20 },
          isAdvanced: true,
        }),
        roughness: length({
          label: 'Roof roughness',
          help: 'Scatter about a roof plane. Two or three times the ranging noise.',
          metres: { default: 0.08, min: 0.005, max: 2 },
          isAdvanced: true,
        }),
        radius: length({
          label: 'Roof search radius',
          help: 'About ten points should lie within it.',
          metres: { default: 1, min: 0.1, max: 20 },
          isAdvanced: true,
        }),
        poles: flag({
          default: true,
          label: 'Find poles and towers',
          help: 'Slender and high, or carrying a wire: class 15.',
        }),
        polesFrom: length({
          label: 'Minimum pole height',
          help: 'Above ground.',
          metres: { default: 4, min: 1.5, max: 100 },
          isAdvanced: true,
        }),
        fences: flag({
          default: false,
          label: 'Find fences and walls',
          help: 'Long and narrow in plan, no higher than a fence.',
        }),
        fenceLength: length({
          label: 'Minimum fence length',
          help: 'Shorter pieces are left to vegetation.',
          metres: { default: 8, min: 2, max: 200 },
          appliesTo: { name: 'fences', is: 'true' },
        }),
        fenceClass: classChoice(64, {
          label: 'Fence and wall class',
          help: 'A user class. The standard has none for them.',
          appliesTo: { name: 'fences', is: 'true' },
        }),
        vehicles: flag({
          default: false,
          label: 'Find vehicles',
          help: 'Whatever fills a box of the size of a car or lorry.',
        }),
        vehicleClass: classChoice(65, {
          label: 'Vehicle class',
          help: 'A user class. The standard has none for them.',
          appliesTo: { name: 'vehicles', is: 'true' },
        }),
        highest: length({
          label: 'Maximum plant height',
          help: 'Higher points stay as they are: birds, wires.',
          metres: { default: 40, min: 1, max: 500 },
          isAdvanced: true,
        }),
      })
      .refine(({ lowFrom, mediumFrom, highFrom }) => lowFrom <= mediumFrom && mediumFrom <= highFrom, {
        error: 'Low must start below medium, and medium below high.',
        path: ['mediumFrom'],
      });
  },
} as const satisfies OperationDescription;
export type FindObjectsParameters = z.output<ReturnType<typeof findObjects.parameters>>;
