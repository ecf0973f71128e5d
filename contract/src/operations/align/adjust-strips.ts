import type { LengthUnit } from '@pampero/core/geodesy';
import { UNKNOWN_GROUPS, type UnknownGroup } from '@pampero/core/strips';
import { z } from 'zod';
import { choice, count, figure, flag, lengthIn, oneOrNone, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { patchParameters, stripCloud } from './strip-parameters.js';

export const adjustStripsOperation = {
  id: 'adjust-strips',
  stage: 'align',
  title: 'Adjust strips',
  does: 'Finds what makes the strips disagree and what would correct it. Nothing moves yet: the corrections are applied when you have seen the figures.',
  method: 'Least squares on corresponding planes (Glira et al. 2015; Skaloud and Lichti 2006), robust weights.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        ...stripCloud(),
        trajectory: oneOrNone('trajectory', {
          label: 'Trajectory',
          help: 'Without one, strips can be shifted but angles and ranges cannot be corrected.',
          none: 'the newest that covers the cloud',
        }),
        solve: choice(['proposed', 'chosen'], {
          default: 'proposed',
          label: 'Correct',
          help: 'Boresight and the height of each strip, and what else the flight shows to be wrong; or what you choose. What the flight does not tell is held at nothing and named.',
          choices: { proposed: 'as proposed', chosen: 'what I choose' },
        }),
        boresight: flag({
          default: true,
          label: 'Boresight',
          help: 'Three angles between scanner and platform.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        leverArm: flag({
          default: false,
          label: 'Lever arm',
          help: 'From trajectory to scanner. It is measured; solve it only where that failed.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        rangeOffset: flag({
          default: false,
          label: 'Range offset',
          help: 'Added to every range. Needs control or wide scan angles.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        rangeScale: flag({
          default: false,
          label: 'Range scale',
          help: 'Every range longer or shorter by a share.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        angleScale: flag({
          default: false,
          label: 'Scan angle scale',
          help: 'Scan angles wider or narrower by a share.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        stripHeight: flag({
          default: true,
          label: 'Height of each strip',
          help: 'A shift up or down for each strip: the largest error of satellite positions.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        stripPlan: flag({
          default: false,
          label: 'Plan shift of each strip',
          help: 'A shift east and north for each strip.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        stripTilt: flag({
          default: false,
          label: 'Tilt of each strip',
          help: 'A roll, pitch and heading for each strip.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        stripDrift: flag({
          default: false,
          label: 'Drift of each strip',
          help: 'A height that changes along each strip.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        timeHeight: flag({
          default: false,
          label: 'Height in time',
          help: 'A smooth correction of the trajectory’s height.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        timePlan: flag({
          default: false,
          label: 'Plan in time',
          help: 'A smooth correction of the trajectory east and north.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        timeTilt: flag({
          default: false,
          label: 'Attitude in time',
          help: 'A smooth correction of roll, pitch and heading.',
          appliesTo: { name: 'solve', is: 'chosen' },
        }),
        timeStep: figure({
          default: 10,
          min: 0.5,
          max: 600,
          label: 'Step in time, seconds',
          help: 'Between the values of a correction in time.',
          isAdvanced: true,
        }),
        stiffness: length({
          metres: { default: 0.02, min: 0.0001, max: 10 },
          label: 'Bend in time',
          help: 'How much a correction in time may bend over one step. Small is stiff.',
          isAdvanced: true,
        }),
        control: choice(['height', 'none'], {
          default: 'height',
          label: 'Control points',
          help: 'Whether their heights tie the strips down. Check points never do: they judge.',
          choices: { height: 'tie heights down', none: 'judge only' },
        }),
        controlAccuracy: length({
          metres: { default: 0.015, min: 0.001, max: 1 },
          label: 'Accuracy of control',
          help: 'Standard deviation of the surveyed heights.',
          isAdvanced: true,
        }),
        keepOut: count({
          default: 0,
          min: 0,
          max: 1000,
          label: 'Keep out every n-th control point',
          help: 'Kept to judge the result by. 0: none but the check points.',
          isAdvanced: true,
        }),
        leverForward: length({
          metres: { default: 0, min: -20, max: 20 },
          label: 'Lever arm forward',
          help: 'As the points were made with it, from the trajectory’s point to the scanner’s.',
          isAdvanced: true,
        }),
        leverRight: length({
          metres: { default: 0, min: -20, max: 20 },
          label: 'Lever arm right',
          help: 'As the points were made with it.',
          isAdvanced: true,
        }),
        leverDown: length({
          metres: { default: 0, min: -20, max: 20 },
          label: 'Lever arm down',
          help: 'As the points were made with it.',
          isAdvanced: true,
        }),
        ...patchParameters(unit, 50),
        name: productName('What the adjustment is called.'),
      })
      .refine((given) => given.solve === 'proposed' || UNKNOWN_GROUPS.some((group) => given[group]), {
        path: ['solve'],
        message: 'Choose at least one thing to correct.',
      });
  },
} as const satisfies OperationDescription;
export type AdjustStripsParameters = z.output<ReturnType<typeof adjustStripsOperation.parameters>>;

/** What is solved for, where it was chosen; undefined where the flight itself tells. */
export function chosenGroups(given: AdjustStripsParameters): UnknownGroup[] | undefined {
  return given.solve === 'chosen' ? UNKNOWN_GROUPS.filter((group) => given[group]) : undefined;
}
