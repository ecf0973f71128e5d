import { z } from 'zod';
import { one, productName, some } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const buildInDesigns = {
  id: 'build-in-designs',
  stage: 'terrain',
  title: 'Build designs into the ground',
  does: 'Makes one surface of the ground and the designs chosen: the land as it will be, for contours, grids, sections and volumes.',
  method: 'Designs triangle for triangle, the ground with its own points and breaks beside them.',
  parameters: () =>
    z.strictObject({
      surfaceId: one('surface', { label: 'Ground', help: 'The land as it is.' }),
      designIds: some('surface', {
        label: 'Designs',
        help: 'Banks and pads to build in. Where two overlap, the later one counts.',
      }),
      name: productName('What the surface is called.'),
    }),
} as const satisfies OperationDescription;
export type BuildInDesignsParameters = z.output<ReturnType<typeof buildInDesigns.parameters>>;
