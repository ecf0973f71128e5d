import { z } from 'zod';
import { jobClassSchema } from '../../classes.js';
import { meta } from '../../parameters/index.js';
import { listedTwice } from '../../twice.js';
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
        .superRefine((classes, context) => {
          const code = listedTwice(classes.map((each) => each.code));
          const key = listedTwice(classes.flatMap((each) => each.key ?? []));
          const say = (message: string): void => void context.addIssue({ code: 'custom', message });
          if (code !== undefined) say(`Class ${code} is listed twice.`);
          if (key !== undefined) say(`The key “${key}” is given to two classes. Give one of them another.`);
        })
        .meta(meta({ label: 'Classes', help: 'Name, colour and key of each.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
