import { z } from 'zod';
import { flag } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const importCodes = {
  id: 'import-codes',
  stage: 'lines',
  title: 'Import code list',
  does: 'Reads feature codes from a CSV file with the columns code, meaning, use, colour, style and layer.',
  takesFile: true,
  parameters: () =>
    z.strictObject({
      keepOthers: flag({
        default: true,
        label: 'Keep codes that are not in the file',
        help: 'Otherwise the list becomes the file; codes that have lines stay in any case.',
      }),
    }),
} as const satisfies OperationDescription;
export type ImportCodesParameters = z.output<ReturnType<typeof importCodes.parameters>>;
