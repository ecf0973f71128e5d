import { z } from 'zod';
import { meta, one } from '../../parameters/index.js';
import { lineOfText } from '../../text.js';
import type { OperationDescription } from '../operation-description.js';

/** What a surveyor changes in a list of numbered points. */
export const editPoints = {
  id: 'edit-points',
  stage: 'thin',
  title: 'Edit points',
  does: 'Changes numbers and codes of numbered points, or leaves points out. Their places stay as measured.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      spotsId: one('spots', { label: 'Points', help: 'The list to change.' }),
      changes: z
        .array(
          z.strictObject({
            /** Place in the list, from 0. */
            index: z.int().nonnegative(),
            number: lineOfText(40).min(1, 'A point needs a number.').optional(),
            code: lineOfText(40).optional(),
            isLeftOut: z.boolean().optional(),
          }),
        )
        .min(1, 'Nothing was changed.')
        .max(200_000)
        .meta(meta({ label: 'Changes', help: 'What changes for each point.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
export type EditPointsParameters = z.output<ReturnType<typeof editPoints.parameters>>;
