import type { LengthUnit } from '@pampero/core/geodesy';
import { CROSSING_RULES } from '@pampero/core/terrain';
import { z } from 'zod';
import { any, choice, classList, clouds, degrees, flag, lengthIn, meta, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';
import { surfaceEdits } from './surface-edits.js';

/** What the land under water looks like in a surface. */
export const WATER_TREATMENTS = ['as-it-is', 'flat', 'left-out'] as const;

export const buildSurface = {
  id: 'build-surface',
  stage: 'terrain',
  title: 'Build surface',
  does: 'Triangulates the points of the chosen classes into a TIN.',
  method: 'Delaunay triangulation with robust predicates.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      clouds: clouds('The clouds whose points are used, together.'),
      classes: classList({ label: 'Classes', help: 'Points of these classes become vertices of the surface.' }),
      thinCell: length({
        label: 'One point per cell of',
        help: 'Uses the point nearest the mean height of each cell, which calms the noise. 0 uses every point.',
        metres: { default: 1, min: 0, max: 100 },
      }),
      keepBreaks: flag({
        default: true,
        label: 'Keep more points where the land breaks',
        help: 'Cells of a half and a quarter at kerbs, walls and the foot of banks, found by how points scatter there.',
      }),
      maximumEdge: length({
        label: 'Maximum edge length',
        help: 'Leaves out triangles with a longer edge, so that gaps are not bridged. 0 keeps all.',
        metres: { default: 30, min: 0, max: 100_000 },
      }),
      minimumAngle: degrees({
        default: 0,
        min: 0,
        max: 30,
        label: 'Minimum angle at the boundary',
        help: 'Removes thinner triangles along the boundary of the surface. 0 keeps all.',
        isAdvanced: true,
      }),
      water: choice(WATER_TREATMENTS, {
        default: 'as-it-is',
        label: 'Water',
        help: 'Where points have class 9: lay each piece of water flat at its level, or leave it out along its edge.',
        choices: { 'as-it-is': 'as it is', flat: 'lay flat', 'left-out': 'leave out' },
      }),
      lines: any('lines', {
        label: 'Lines',
        help: 'Breaklines become edges of triangles. Boundaries, holes and water outlines shape the surface.',
      }),
      lineOffset: length({
        label: 'Leave out points near breaklines',
        help: 'Within this distance on either side, so that kerbs stay clean.',
        metres: { default: 0.3, min: 0, max: 100 },
        isAdvanced: true,
      }),
      vertexSpacing: length({
        label: 'Vertex spacing at most',
        help: 'Adds vertices to long legs of lines. 0 leaves lines as they are.',
        metres: { default: 5, min: 0, max: 10_000 },
        isAdvanced: true,
      }),
      crossing: choice(CROSSING_RULES, {
        default: 'mean',
        label: 'Where lines cross',
        help: 'The elevation used there. Crossings that disagree are reported.',
        choices: { mean: 'mean', lowest: 'lower', highest: 'higher', first: 'first line' },
        isAdvanced: true,
      }),
      edits: surfaceEdits.default([]).meta(meta({ label: 'Edits', help: 'Done by hand.', isHidden: true })),
      name: productName('What the surface is called in the layers and in exports.'),
    });
  },
} as const satisfies OperationDescription;
export type BuildSurfaceParameters = z.output<ReturnType<typeof buildSurface.parameters>>;
