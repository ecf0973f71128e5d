import { z } from 'zod';
import { clouds, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const joinClouds = {
  id: 'join-clouds',
  stage: 'clean',
  title: 'Join clouds',
  does: 'Makes one new cloud of several, such as a site flown on two days. The clouds themselves stay.',
  parameters: () =>
    z.strictObject({
      clouds: clouds('The clouds to join.').min(2, 'Choose at least two clouds.'),
      name: productName('What the new cloud is called.'),
    }),
} as const satisfies OperationDescription;
export type JoinCloudsParameters = z.output<ReturnType<typeof joinClouds.parameters>>;
