import { z } from 'zod';
import { putLineSchema } from '../../feature-codes.js';
import { meta } from '../../parameters/index.js';
import { lineOfText } from '../../text.js';
import type { OperationDescription } from '../operation-description.js';

export const drawLines = {
  id: 'draw-lines',
  stage: 'lines',
  title: 'Draw lines',
  does: 'Adds lines, gives lines another shape or code, and removes lines.',
  isQuick: true,
  parameters: () =>
    z.strictObject({
      put: z
        .array(putLineSchema)
        .max(50_000)
        .default([])
        .meta(meta({ label: 'Lines', help: 'New lines, and new shapes of lines named by their key.', isHidden: true })),
      remove: z
        .array(z.int().positive())
        .max(50_000)
        .default([])
        .meta(meta({ label: 'Removed lines', help: 'Keys of lines that go.', isHidden: true })),
      what: lineOfText(120)
        .optional()
        .meta(meta({ label: 'What was done', help: 'One line for the field book.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
export type DrawLinesParameters = z.output<ReturnType<typeof drawLines.parameters>>;
