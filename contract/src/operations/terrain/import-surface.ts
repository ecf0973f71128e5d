import { z } from 'zod';
import { productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const importSurface = {
  id: 'import-surface',
  stage: 'terrain',
  title: 'Import surface',
  does: 'Reads a surface as it is, such as a design: LandXML, DXF with 3D faces, or an ASCII grid.',
  takesFile: true,
  parameters: () => z.strictObject({ name: productName('What the surface is called in the layers.') }),
} as const satisfies OperationDescription;
export type ImportSurfaceParameters = z.output<ReturnType<typeof importSurface.parameters>>;
