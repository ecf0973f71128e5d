import type { LengthUnit } from '@pampero/core/geodesy';
import { ANGLE_CONVENTIONS } from '@pampero/core/photographs';
import { z } from 'zod';
import {
  choice,
  degrees,
  figure,
  figureNeeded,
  lengthIn,
  oneOrNone,
  productName,
  words,
} from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

const byPlatform = { name: 'angles', is: 'platform' } as const;
const lens = (label: string, help: string) => figure({ default: 0, label, help, isAdvanced: true });

export const importPhotographs = {
  id: 'import-photographs',
  stage: 'intake',
  title: 'Import photographs',
  does: 'Takes in photographs with the list of where each was taken and how the camera was turned, in one zip file, to colour clouds from.',
  takesFile: true,
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      name: productName('What the photographs are called in the layers.'),
      focalLength: figureNeeded({
        label: 'Focal length, mm',
        help: 'Principal distance of the camera as it was calibrated, in millimetres.',
        min: 0.1,
        max: 5000,
      }),
      pixelSize: figureNeeded({
        label: 'Pixel size, µm',
        help: 'Side of a pixel on the sensor, in thousandths of a millimetre.',
        min: 0.05,
        max: 1000,
      }),
      angles: choice(ANGLE_CONVENTIONS, {
        default: 'omega-phi-kappa',
        label: 'Angles',
        help: 'What the three angles of the list mean.',
        choices: {
          'omega-phi-kappa': 'omega, phi, kappa',
          platform: 'roll, pitch, heading of an aircraft whose camera looks straight down',
          'camera-axis': 'heading, pitch and roll of the camera itself: -90° pitch looks straight down',
        },
      }),
      angleUnit: choice(['degrees', 'radians', 'gon'], {
        default: 'degrees',
        label: 'Unit of the angles',
        help: '400 gon are a full turn.',
        choices: { degrees: 'degrees', radians: 'radians', gon: 'gon' },
      }),
      positions: choice(['projected', 'geographic'], {
        default: 'projected',
        label: 'Positions',
        help: 'In the coordinates of the job, or longitude and latitude in degrees with height in metres.',
        choices: { projected: 'in the job’s coordinates', geographic: 'longitude and latitude' },
      }),
      north: choice(['grid', 'true'], {
        default: 'grid',
        label: 'Heading from',
        help: 'Headings from true north are turned to the grid.',
        choices: { grid: 'grid north', true: 'true north' },
        appliesTo: { name: 'angles', is: ['platform', 'camera-axis'] },
      }),
      columns: words({
        default: '',
        max: 400,
        label: 'Columns',
        help: 'Names in their order, such as "file, east, north, height, omega, phi, kappa"; "-" for one that is not used. Empty: as the headings say.',
        isAdvanced: true,
      }),
      trajectory: oneOrNone('trajectory', {
        label: 'Trajectory',
        help: 'For a list of files and times alone: where the aircraft was at those times.',
        none: 'the list has places and angles',
        appliesTo: byPlatform,
      }),
      mountRoll: degrees({
        default: 0,
        min: -180,
        max: 180,
        label: 'Camera turned: roll',
        help: 'Of the camera in the aircraft, right side down is positive.',
        appliesTo: byPlatform,
        isAdvanced: true,
      }),
      mountPitch: degrees({
        default: 0,
        min: -180,
        max: 180,
        label: 'Camera turned: pitch',
        help: 'Of the camera in the aircraft, looking ahead is positive.',
        appliesTo: byPlatform,
        isAdvanced: true,
      }),
      mountHeading: degrees({
        default: 0,
        min: -180,
        max: 180,
        label: 'Camera turned: heading',
        help: 'Of the top of the picture from straight ahead, clockwise.',
        appliesTo: byPlatform,
        isAdvanced: true,
      }),
      leverForward: lever(unit, 'forward'),
      leverRight: lever(unit, 'right'),
      leverDown: lever(unit, 'down'),
      principalRight: figure({
        default: 0,
        label: 'Principal point, right, mm',
        help: 'From the middle of the picture to the right, in millimetres on the sensor.',
        isAdvanced: true,
      }),
      principalDown: figure({
        default: 0,
        label: 'Principal point, down, mm',
        help: 'From the middle of the picture downwards, in millimetres on the sensor.',
        isAdvanced: true,
      }),
      k1: lens('Radial distortion k1', 'Brown 1971, with distances from the axis counted in focal lengths.'),
      k2: lens('Radial distortion k2', 'Of the fourth power.'),
      k3: lens('Radial distortion k3', 'Of the sixth power.'),
      p1: lens('Tangential distortion p1', 'Brown 1971: p1 (r² + 2x²) + 2 p2 x y to the right.'),
      p2: lens('Tangential distortion p2', 'Brown 1971: p2 (r² + 2y²) + 2 p1 x y downwards.'),
    }),
} as const satisfies OperationDescription;
export type ImportPhotographsParameters = z.output<ReturnType<typeof importPhotographs.parameters>>;

function lever(unit: LengthUnit, way: 'forward' | 'right' | 'down') {
  return lengthIn(unit)({
    label: `Camera from the trajectory, ${way}`,
    help: 'From where the trajectory is said to the camera, in the aircraft.',
    metres: { default: 0, min: -100, max: 100 },
    appliesTo: { name: 'angles', is: 'platform' },
    isAdvanced: true,
  });
}
