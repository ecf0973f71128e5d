import { z } from 'zod';
import { classCodeSchema, jobClassSchema } from './classes.js';
import type { OperationDescription } from './operation-description.js';
import { selectionSchema } from './selections.js';

const selection = selectionSchema.min(1, 'Nothing is selected.');

export const setClass = {
  id: 'set-class',
  stage: 'clean',
  title: 'Set class',
  does: 'Gives the selected points a class.',
  isQuick: true,
  parameters: () => z.strictObject({ selection, classCode: classCodeSchema }),
} as const satisfies OperationDescription;

export const withhold = {
  id: 'withhold',
  stage: 'clean',
  title: 'Withhold',
  does: 'Flags the selected points as withheld: they stay in the cloud and are left out of everything made from it.',
  isQuick: true,
  parameters: () => z.strictObject({ selection }),
} as const satisfies OperationDescription;

export const restore = {
  id: 'restore',
  stage: 'clean',
  title: 'Restore withheld',
  does: 'Takes the withheld flag off the selected points.',
  isQuick: true,
  parameters: () => z.strictObject({ selection }),
} as const satisfies OperationDescription;

export const editClasses = {
  id: 'edit-classes',
  stage: 'classify',
  title: 'Edit classes',
  does: 'Names and colours classes, the surveyor’s own and the standard’s.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      classes: z
        .array(jobClassSchema)
        .max(256)
        .refine((classes) => new Set(classes.map(({ code }) => code)).size === classes.length, {
          error: 'A class is there twice.',
        }),
    }),
} as const satisfies OperationDescription;

export const copyToCloud = {
  id: 'copy-to-cloud',
  stage: 'clean',
  title: 'Copy to a new cloud',
  does: 'Copies the selected points, with all their attributes, to a cloud of their own.',
  parameters: () =>
    z.strictObject({
      selection,
      name: z.string().trim().min(1, 'Give the cloud a name.').max(120),
    }),
} as const satisfies OperationDescription;

export const handOperations = [setClass, withhold, restore, editClasses, copyToCloud] as const;
export type SetClassParameters = z.output<ReturnType<typeof setClass.parameters>>;
