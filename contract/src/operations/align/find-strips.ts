import { z } from 'zod';
import { choice, figure, one, oneOrNone, productName, words } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const findStrips = {
  id: 'find-strips',
  stage: 'align',
  title: 'Find strips',
  does: 'Tells the points apart by strip: by point source ID, by gaps in time, or by the straight runs of the trajectory, with turns and ascents cut off.',
  parameters: () =>
    z
      .strictObject({
        cloud: one('cloud', { label: 'Cloud', help: 'The cloud whose strips are found.' }),
        trajectory: oneOrNone('trajectory', {
          label: 'Trajectory',
          help: 'Gives lengths, headings and heights, and straight runs.',
          none: 'none',
        }),
        by: choice(['source', 'gaps', 'straight'], {
          default: 'source',
          label: 'Strips are told by',
          help: 'What makes two points of one strip.',
          choices: { source: 'point source ID', gaps: 'gaps in time', straight: 'straight runs of the trajectory' },
        }),
        gap: figure({
          default: 5,
          min: 0.1,
          max: 3600,
          label: 'Gap, seconds',
          help: 'Where nothing was measured for longer, a new strip begins.',
          appliesTo: { name: 'by', is: 'gaps' },
        }),
        shortest: figure({
          default: 4,
          min: 0.1,
          max: 3600,
          label: 'Shortest strip, seconds',
          help: 'Shorter pieces are of no strip.',
          appliesTo: { name: 'by', is: ['gaps', 'straight'] },
        }),
        turnRate: figure({
          default: 2.5,
          min: 0.1,
          max: 45,
          label: 'Turn at most, degrees a second',
          help: 'Where the course turns faster it is no straight run.',
          appliesTo: { name: 'by', is: 'straight' },
        }),
        leaveOut: words({
          default: '',
          label: 'Leave out strips',
          help: 'Their numbers, with commas between.',
          isAdvanced: true,
        }),
        merge: words({
          default: '',
          label: 'Merge strips',
          help: 'Numbers joined by +, with commas between: "2+3, 5+6".',
          isAdvanced: true,
        }),
        rename: words({
          default: '',
          max: 400,
          label: 'Rename strips',
          help: 'Number and name, with commas between: "1 = north bank, 5 = cross strip".',
          isAdvanced: true,
        }),
        name: productName('What this set of strips is called.'),
      })
      .refine(({ by, trajectory }) => by !== 'straight' || trajectory !== undefined, {
        path: ['trajectory'],
        message: 'Straight runs are found on a trajectory: choose one, or import it first.',
      }),
} as const satisfies OperationDescription;
export type FindStripsParameters = z.output<ReturnType<typeof findStrips.parameters>>;
