import { z } from 'zod';
import type { OperationDescription } from '../operation-description.js';
import { surfaceEdits } from './surface-edits.js';

export const editSurface = {
  id: 'edit-surface',
  stage: 'terrain',
  title: 'Edit surface',
  does: 'Removes points from a surface, swaps edges, drops triangles, adds points. Rebuilding the surface does it again.',
  method: 'Lawson 1977 for points added, Devillers 1999 for points taken out.',
  isQuick: true,
  parameters: () =>
    z.strictObject({ surfaceId: z.int().positive(), edits: surfaceEdits.min(1, 'Nothing was edited.') }),
} as const satisfies OperationDescription;
export type EditSurfaceParameters = z.output<ReturnType<typeof editSurface.parameters>>;
