import { z } from 'zod';
import { clouds, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const countClasses = {
  id: 'count-classes',
  stage: 'classify',
  title: 'Count classes',
  does: 'Makes a table of the points, shares and elevations of each class, to hand over with the cloud.',
  parameters: () =>
    z.strictObject({
      clouds: clouds('The clouds to count.'),
      name: productName('What the table is called.'),
    }),
} as const satisfies OperationDescription;
export type CountClassesParameters = z.output<ReturnType<typeof countClasses.parameters>>;
