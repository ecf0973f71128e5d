import { z } from 'zod';
import { meta, one } from '../../parameters/index.js';
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
    z.strictObject({
      surfaceId: one('surface', { label: 'Surface', help: 'The surface to edit.' }),
      edits: surfaceEdits
        .min(1, 'Nothing was edited.')
        .meta(meta({ label: 'Edits', help: 'Each edit and its place.', isHidden: true })),
    }),
} as const satisfies OperationDescription;
export type EditSurfaceParameters = z.output<ReturnType<typeof editSurface.parameters>>;
