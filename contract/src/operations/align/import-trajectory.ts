import { z } from 'zod';
import { choice, count, flag, productName, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const importTrajectory = {
  id: 'import-trajectory',
  stage: 'align',
  title: 'Import a trajectory',
  does: 'Reads where the platform was and how it lay: text with a record a line, or a plain table of binary records.',
  takesFile: true,
  parameters: () =>
    z.strictObject({
      format: choice(['text', 'binary'], {
        default: 'text',
        label: 'File',
        help: 'Text with a record a line, or binary records one after the other.',
        choices: { text: 'text', binary: 'binary records' },
      }),
      columns: words({
        default: '',
        max: 400,
        label: 'Columns',
        help: 'Names in their order, such as "time, east, north, height, roll, pitch, heading"; "-" for one that is not used. Empty: as the headings say.',
        appliesTo: { name: 'format', is: 'text' },
      }),
      fields: words({
        default: 'time f64, east f64, north f64, height f64, roll f64, pitch f64, heading f64',
        max: 600,
        label: 'Fields',
        help: 'Name and type of each number of a record: f64, f32, u32, i32, u16, i16, u8, i8; "-" as name for one that is not used.',
        appliesTo: { name: 'format', is: 'binary' },
      }),
      isBigEndian: flag({
        default: false,
        label: 'Most significant byte first',
        help: 'How the binary numbers are stored.',
        appliesTo: { name: 'format', is: 'binary' },
        isAdvanced: true,
      }),
      headerBytes: count({
        default: 0,
        min: 0,
        max: 1_000_000,
        label: 'Bytes before the first record',
        help: 'Passed over.',
        appliesTo: { name: 'format', is: 'binary' },
        isAdvanced: true,
      }),
      positions: choice(['projected', 'geographic', 'geocentric'], {
        default: 'projected',
        label: 'Positions',
        help: 'In the coordinates of the job, as longitude and latitude in degrees, or geocentric X, Y, Z.',
        choices: {
          projected: 'in the job’s coordinates',
          geographic: 'longitude and latitude',
          geocentric: 'geocentric',
        },
      }),
      angles: choice(['auto', 'degrees', 'radians'], {
        default: 'auto',
        label: 'Angles',
        help: 'Unit of roll, pitch and heading. Told from the numbers where any is over a full turn in radians.',
        choices: { auto: 'told from the numbers', degrees: 'degrees', radians: 'radians' },
      }),
      heading: choice(['grid-north', 'true-north', 'yaw'], {
        default: 'grid-north',
        label: 'Heading',
        help: 'Clockwise from grid north or true north, or yaw: counter-clockwise from east.',
        choices: { 'grid-north': 'from grid north', 'true-north': 'from true north', yaw: 'yaw, from east' },
      }),
      roll: choice(['right-down', 'left-down'], {
        default: 'right-down',
        label: 'Roll is positive',
        help: 'Which side goes down.',
        choices: { 'right-down': 'right side down', 'left-down': 'left side down' },
      }),
      pitch: choice(['nose-up', 'nose-down'], {
        default: 'nose-up',
        label: 'Pitch is positive',
        help: 'Which way the nose goes.',
        choices: { 'nose-up': 'nose up', 'nose-down': 'nose down' },
      }),
      week: count({
        default: 0,
        min: 0,
        max: 9_999,
        label: 'GPS week',
        help: 'Needed where times are seconds of a week and the cloud’s are not. 0: not known.',
        isAdvanced: true,
      }),
      name: productName('What the trajectory is called.'),
    }),
} as const satisfies OperationDescription;
export type ImportTrajectoryParameters = z.output<ReturnType<typeof importTrajectory.parameters>>;
