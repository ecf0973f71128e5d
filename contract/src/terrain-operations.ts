import type { LengthUnit } from '@pampero/core/geodesy';
import { CROSSING_RULES } from '@pampero/core/terrain';
import { z } from 'zod';
import { lengthIn } from './length.js';
import { cloudChoice, meta, productName, type OperationDescription } from './operation-description.js';

export const buildSurface = {
  id: 'build-surface',
  stage: 'terrain',
  title: 'Build surface',
  does: 'Triangulates the points of the chosen classes into a TIN.',
  method: 'Delaunay triangulation with robust predicates.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId: cloudChoice('The cloud whose points are taken.'),
      classes: z
        .array(z.int().min(0).max(255))
        .min(1, 'Choose at least one class.')
        .default([2])
        .meta(
          meta({
            label: 'From classes',
            help: 'Points of these classes become corners of the surface.',
            quantity: 'class-list',
          }),
        ),
      thinCell: length({
        label: 'One point per cell of',
        help: 'Of each cell the point nearest the mean height: calms the scatter of the ranging. 0 takes every point.',
        metres: { default: 1, min: 0, max: 100 },
      }),
      longestSide: length({
        label: 'Longest side',
        help: 'Triangles with a longer side are left out, so that no false ground bridges a gap. 0 keeps all.',
        metres: { default: 30, min: 0, max: 100_000 },
      }),
      smallestAngle: z
        .number()
        .min(0)
        .max(30)
        .default(0)
        .meta(
          meta({
            label: 'Smallest angle at the rim',
            help: 'Slivers along the rim with a smaller angle are taken off. 0 keeps all.',
            quantity: 'degrees',
            isAdvanced: true,
          }),
        ),
      lines: z
        .array(z.int().positive())
        .default([])
        .meta(
          meta({
            label: 'With lines',
            help: 'Breaklines are held as sides of triangles, boundaries and water outlines are kept.',
            quantity: 'lines-list',
          }),
        ),
      lineOffset: length({
        label: 'Points beside lines left out within',
        help: 'Either side of a line, so that kerbs stay clean.',
        metres: { default: 0.3, min: 0, max: 100 },
        isAdvanced: true,
      }),
      lineStep: length({
        label: 'Corners along lines at most',
        help: 'Apart; long sides are divided. 0 leaves lines as they are.',
        metres: { default: 5, min: 0, max: 10_000 },
        isAdvanced: true,
      }),
      crossing: z
        .enum(CROSSING_RULES)
        .default('mean')
        .meta(
          meta({
            label: 'Where lines cross',
            help: 'Which elevation the crossing gets; crossings that disagree are reported.',
            choices: { mean: 'mean', lowest: 'lower', highest: 'higher', first: 'first line' },
            isAdvanced: true,
          }),
        ),
      name: productName('Name', 'What the surface is called in the layers and in exports.'),
    });
  },
} as const satisfies OperationDescription;

export const drawContours = {
  id: 'draw-contours',
  stage: 'terrain',
  title: 'Draw contours',
  does: 'Traces contours on the triangles of a surface, exactly.',
  method: 'Linear interpolation along triangle sides; no gridding, no smoothing.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      surfaceId: z
        .int()
        .positive()
        .meta(meta({ label: 'Surface', help: 'The surface the contours are traced on.', quantity: 'surface' })),
      interval: length({
        label: 'Interval',
        help: 'Height between one contour and the next.',
        metres: { default: 0.25, min: 0.005, max: 1000 },
      }),
      base: z
        .preprocess(
          (given) => (typeof given === 'string' && given.trim() !== '' ? Number(given) : given),
          z.number({ error: 'Pass through: type an elevation.' }),
        )
        .default(0)
        .meta(
          meta({ label: 'Pass through', help: 'An elevation that the contours pass through.', quantity: 'elevation' }),
        ),
      indexEvery: z
        .int()
        .min(0)
        .max(100)
        .default(4)
        .meta(
          meta({ label: 'Index every', help: 'Every n-th contour is drawn heavier; 0 for none.', quantity: 'count' }),
        ),
      shortestLength: length({
        label: 'Leave out shorter than',
        help: 'Contours shorter than this are dropped. 0 keeps all.',
        metres: { default: 5, min: 0, max: 100_000 },
      }),
      name: productName('Name', 'What the contours are called in the layers and in exports.'),
    });
  },
} as const satisfies OperationDescription;
