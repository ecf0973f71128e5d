import { POINT_ORDERS } from '@pampero/core/formats/point-list';
import { z } from 'zod';
import { choice } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const importControl = {
  id: 'import-control',
  stage: 'intake',
  title: 'Import points',
  does: 'Reads control or check points from a list. The cloud is then compared with each.',
  takesFile: true,
  parameters: () =>
    z.strictObject({
      order: choice(POINT_ORDERS, {
        default: 'PNEZD',
        label: 'Order',
        help: 'P number, N northing, E easting, Z elevation, D code.',
      }),
      role: choice(['control', 'check'], {
        default: 'control',
        label: 'Use as',
        help: 'Control points tie the cloud down; check points judge it.',
        choices: { control: 'control points', check: 'check points' },
      }),
    }),
} as const satisfies OperationDescription;
export type ImportControlParameters = z.output<ReturnType<typeof importControl.parameters>>;
