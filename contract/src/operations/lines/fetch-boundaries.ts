import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { codeNameSchema } from '../../feature-codes.js';
import { lengthIn, meta } from '../../parameters/index.js';
import { lineOfText } from '../../text.js';
import type { OperationDescription } from '../operation-description.js';

export const fetchBoundaries = {
  id: 'fetch-boundaries',
  stage: 'lines',
  title: 'Fetch boundaries',
  does: 'Fetches parcel or other boundaries of the surveyed land from a public service, as plain lines to look at: a surface does not take them in.',
  method: 'OGC API – Features, Part 1 (OGC 17-069r4) and Part 2 (OGC 18-058r1).',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      address: lineOfText(2000)
        .min(1, 'Address: give that of the service.')
        .meta(
          meta({
            label: 'Address',
            help: 'Of the landing page of a service by OGC API – Features.',
            quantity: 'name',
          }),
        ),
      collection: lineOfText(400)
        .min(1)
        .optional()
        .meta(
          meta({
            label: 'Collection',
            help: 'Which of its collections. Left out where it has only one.',
            quantity: 'name',
          }),
        ),
      margin: lengthIn(unit)({
        label: 'Margin',
        help: 'How far beyond the clouds boundaries are fetched.',
        metres: { default: 20, min: 0, max: 5000 },
      }),
      code: codeNameSchema.default('PARCEL').meta(
        meta({
          label: 'Code',
          help: 'The feature code they get. What was fetched under it before is replaced.',
          quantity: 'name',
        }),
      ),
    }),
} as const satisfies OperationDescription;
export type FetchBoundariesParameters = z.output<ReturnType<typeof fetchBoundaries.parameters>>;
