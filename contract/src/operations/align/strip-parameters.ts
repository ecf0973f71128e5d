import type { LengthUnit } from '@pampero/core/geodesy';
import { degrees, figure, flag, lengthIn, one, oneOrNone } from '../../parameters/index.js';

/** What every look at strips begins with. */
export const stripCloud = () => ({
  cloud: one('cloud', { label: 'Cloud', help: 'The cloud whose strips are compared.' }),
  strips: oneOrNone('strips', {
    label: 'Strips',
    help: 'How the points are told apart by strip.',
    none: 'by point source ID',
  }),
});

/** How smooth patches are made: what both comparing and adjusting ask for. */
export const patchParameters = (unit: LengthUnit, slope: number) => {
  const length = lengthIn(unit);
  return {
    patch: length({
      metres: { default: 0, min: 0, max: 100 },
      label: 'Patch size',
      help: 'Side of the patches that are compared. 0: from the density of the points.',
      isAdvanced: true,
    }),
    roughness: length({
      metres: { default: 0, min: 0, max: 10 },
      label: 'Roughness at most',
      help: 'Patches whose points scatter more about their plane are left out. 0: from the smooth ground of the cloud.',
      isAdvanced: true,
    }),
    slope: degrees({
      default: slope,
      min: 1,
      max: 80,
      label: 'Slope at most',
      help: 'Steeper patches are left out.',
      isAdvanced: true,
    }),
    singleOnly: flag({
      default: true,
      label: 'Single returns only',
      help: 'Where a beam came back more than once there is no smooth ground.',
      isAdvanced: true,
    }),
    accuracyClass: figure({
      default: 10,
      min: 0.1,
      max: 1000,
      label: 'Accuracy class, cm',
      help: 'Vertical class of the ASPRS standard that the differences are held against.',
    }),
  };
};
