import { z } from 'zod';
import { productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const importGrid = {
  id: 'import-grid',
  stage: 'terrain',
  title: 'Import grid',
  does: 'Reads an elevation grid as it is: GeoTIFF or ASCII grid, in the system of the job.',
  takesFile: true,
  parameters: () => z.strictObject({ name: productName('What the grid is called in the layers.') }),
} as const satisfies OperationDescription;
export type ImportGridParameters = z.output<ReturnType<typeof importGrid.parameters>>;
