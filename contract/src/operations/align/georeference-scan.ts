import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { degrees, figure, figureOrNone, lengthIn, one, productName, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

const angle = (label: string, help: string, isAdvanced = false) =>
  degrees({ default: 0, min: -360, max: 360, label, help, isAdvanced });

const share = (label: string, help: string) =>
  figure({ default: 0, min: -100_000, max: 100_000, label, help, isAdvanced: true });

export const georeferenceScan = {
  id: 'georeference-scan',
  stage: 'align',
  title: 'Georeference a raw scan',
  does: 'Makes a cloud of ranges and angles: text, LAS or LAZ with time, range, scan angle, intensity and returns, with the trajectory and the sensor’s lever arm and boresight.',
  method: 'Direct georeferencing (Skaloud and Lichti 2006).',
  takesFile: true,
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    const lever = (label: string, help: string) => length({ metres: { default: 0, min: -20, max: 20 }, label, help });
    return z.strictObject({
      trajectory: one('trajectory', { label: 'Trajectory', help: 'The way flown while it was scanned.' }),
      columns: words({
        default: '',
        max: 400,
        label: 'Columns',
        help: 'Of a text. Names in their order: time, range, across, along, intensity, return, returns, strip; "-" for one that is not used. Empty: as the headings say.',
      }),
      leverForward: lever('Lever arm forward', 'From the trajectory’s point to the scanner’s.'),
      leverRight: lever('Lever arm right', 'From the trajectory’s point to the scanner’s.'),
      leverDown: lever('Lever arm down', 'From the trajectory’s point to the scanner’s.'),
      boresightRoll: angle('Boresight roll', 'As calibrated; 0 where it is not known.'),
      boresightPitch: angle('Boresight pitch', 'As calibrated; 0 where it is not known.'),
      boresightHeading: angle('Boresight heading', 'As calibrated; 0 where it is not known.'),
      mountingRoll: angle('Mounting roll', 'How the scanner is turned on its mount.', true),
      mountingPitch: angle('Mounting pitch', 'How the scanner is turned on its mount.', true),
      mountingHeading: angle('Mounting heading', 'How the scanner is turned on its mount.', true),
      rangeOffset: length({
        metres: { default: 0, min: -5, max: 5 },
        label: 'Range offset',
        help: 'Added to each range.',
        isAdvanced: true,
      }),
      rangeScale: share('Range scale, ppm', 'Parts per million that ranges are made longer by.'),
      angleScale: share('Scan angle scale, ppm', 'Parts per million that scan angles are made wider by.'),
      rangeNoise: length({
        metres: { default: 0.02, min: 0, max: 1 },
        label: 'Ranging noise',
        help: 'Standard deviation of a range; for the accuracy of each point.',
        isAdvanced: true,
      }),
      beamDivergence: figure({
        default: 0.5,
        min: 0,
        max: 20,
        label: 'Beam divergence, mrad',
        help: 'Full angle of the beam; for the accuracy of each point.',
        isAdvanced: true,
      }),
      shortest: length({
        metres: { default: 1, min: 0, max: 1000 },
        label: 'Shortest range',
        help: 'Nearer ones are left out: the platform itself.',
      }),
      longest: length({
        metres: { default: 5000, min: 1, max: 10_000 },
        label: 'Longest range',
        help: 'Further ones are left out.',
      }),
      widest: degrees({
        default: 90,
        min: 1,
        max: 180,
        label: 'Scan angle at most',
        help: 'To either side of straight down; 45 is a field of view of 90 degrees.',
      }),
      from: figureOrNone({
        label: 'Time from, seconds',
        help: 'Beams before are left out; on the clock of the scan. Empty: from its first.',
        isAdvanced: true,
      }),
      to: figureOrNone({
        label: 'Time to, seconds',
        help: 'Beams after are left out. Empty: to its last.',
        isAdvanced: true,
      }),
      name: productName('What the cloud is called.'),
    });
  },
} as const satisfies OperationDescription;
export type GeoreferenceScanParameters = z.output<ReturnType<typeof georeferenceScan.parameters>>;
