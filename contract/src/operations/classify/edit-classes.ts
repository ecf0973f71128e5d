import { z } from 'zod';
import { jobClassSchema } from '../../classes.js';
import { meta } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const editClasses = {
  id: 'edit-classes',
  stage: 'classify',
  title: 'Edit classes',
  does: 'Sets names, colours and keys of classes: user classes and those of the standard.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      classes: z
        .array(jobClassSchema)
        .max(256)
        .refine((classes) => new Set(classes.map(({ code }) => code)).size === classes.length, {
          error: 'A class is listed twice.',
        })
        .meta(meta({ label: 'Classes', help: 'Name, colour and key of each.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
