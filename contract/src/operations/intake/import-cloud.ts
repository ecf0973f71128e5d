import { z } from 'zod';
import { crsChoiceSchema, heightsSchema } from '../../incoming.js';
import { choice, meta, productName } from '../../parameters/index.js';
import { textLayoutSchema } from '../../text-layout.js';
import type { OperationDescription } from '../operation-description.js';

export const importCloud = {
  id: 'import-cloud',
  stage: 'intake',
  title: 'Import cloud',
  does: 'Reads a cloud into the job: LAS, LAZ, COPC, E57, PLY, PTX or text. The file itself is never changed.',
  method: 'LAS Specification 1.4 R15, ASPRS 2019.',
  takesFile: true,
  parameters: () =>
    z.strictObject({
      layout: textLayoutSchema
        .optional()
        .meta(meta({ label: 'Layout', help: 'How to read a text file. Found out where left out.' })),
      leaveOutScans: z
        .array(z.int('Leave out scans: give their numbers, counted from 1.').min(1, 'Scans are counted from 1.'))
        .max(10_000)
        .default([])
        .meta(
          meta({ label: 'Leave out scans', help: 'Numbers of scans of an E57 file that stay out, counted from 1.' }),
        ),
      coordinates: choice(['moved', 'kept'], {
        default: 'moved',
        label: 'Coordinates',
        help: 'Moved into the job’s system, or kept as they are.',
        choices: { moved: 'move into the job’s system', kept: 'keep as they are' },
      }),
      crs: crsChoiceSchema
        .optional()
        .meta(meta({ label: 'Coordinate system', help: 'In place of what the file says.' })),
      heights: heightsSchema.prefault({}).meta(meta({ label: 'Elevations', help: 'Their unit, a shift, a geoid.' })),
      name: productName('What the cloud is called in the layers.'),
    }),
} as const satisfies OperationDescription;
export type ImportCloudParameters = z.output<ReturnType<typeof importCloud.parameters>>;
