import { z } from 'zod';
import { featureCodeSchema } from '../../feature-codes.js';
import { meta } from '../../parameters/index.js';
import { listedTwice } from '../../twice.js';
import type { OperationDescription } from '../operation-description.js';

export const editCodes = {
  id: 'edit-codes',
  stage: 'lines',
  title: 'Edit code list',
  does: 'Sets the feature codes of the job: what each stands for, what its lines are used as, how they are drawn.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      codes: z
        .array(featureCodeSchema)
        .min(1, 'A code list has one code at least.')
        .max(1000)
        .superRefine((codes, context) => {
          const code = listedTwice(codes.map((each) => each.code));
          if (code !== undefined) context.addIssue({ code: 'custom', message: `The code ${code} is listed twice.` });
        })
        .meta(meta({ label: 'Codes', help: 'Code, meaning, use, colour, style and layer of each.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
export type EditCodesParameters = z.output<ReturnType<typeof editCodes.parameters>>;
