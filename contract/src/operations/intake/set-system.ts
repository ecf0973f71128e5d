import { z } from 'zod';
import { count } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const setSystem = {
  id: 'set-system',
  stage: 'intake',
  title: 'Set the coordinate system',
  does: 'Says which coordinate system a job without one is in. No coordinate changes; every file that leaves then names the system.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      epsg: count({
        default: 0,
        min: 0,
        max: 999_999,
        label: 'EPSG code',
        help: 'A projected system in the unit of the job.',
      }),
    }),
} as const satisfies OperationDescription;
export type SetSystemParameters = z.output<ReturnType<typeof setSystem.parameters>>;
