import type { LengthUnit } from '@pampero/core/geodesy';
import { z } from 'zod';
import { choice, count, elevation, elevationOr, lengthIn, one, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

export const LABEL_READINGS = ['from-below', 'uphill'] as const;

export const drawContours = {
  id: 'draw-contours',
  stage: 'terrain',
  title: 'Draw contours',
  does: 'Traces contours on the triangles of a surface, or on a grid.',
  method: 'Linear interpolation along edges; smoothed within a tolerance after Taubin 1995, SIGGRAPH, 351-358.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        on: choice(['surface', 'grid'], {
          default: 'surface',
          label: 'Trace on',
          help: 'A surface is exact. A grid is traced through the centres of its cells.',
          choices: { surface: 'a surface', grid: 'a grid' },
        }),
        surfaceId: one('surface', {
          label: 'Surface',
          help: 'The surface to trace.',
          appliesTo: { name: 'on', is: 'surface' },
        }).optional(),
        gridId: one('grid', {
          label: 'Grid',
          help: 'The grid to trace.',
          appliesTo: { name: 'on', is: 'grid' },
        }).optional(),
        interval: length({
          label: 'Interval',
          help: 'Height from one contour to the next.',
          metres: { default: 0.25, min: 0.005, max: 1000 },
          feet: 1,
        }),
        baseElevation: elevationOr(0, {
          label: 'Base elevation',
          help: 'Contours are counted from this elevation.',
        }),
        indexEvery: count({
          default: unit === 'metre' ? 4 : 5,
          min: 0,
          max: 100,
          label: 'Index contour every',
          help: 'Draws every n-th contour heavier. 0 for none.',
        }),
        smoothing: length({
          label: 'Smoothing tolerance',
          help: 'Contours may leave the surface by this height. 0 traces it exactly. They never cross.',
          metres: { default: 0.02, min: 0, max: 100 },
        }),
        dashFrom: length({
          label: 'Dash where point spacing exceeds',
          help: 'The ground was hardly seen there. 0 for no dashes.',
          metres: { default: 5, min: 0, max: 10_000 },
        }),
        labelHeight: length({
          label: 'Label height',
          help: 'Of the elevations along index contours. 0 for none.',
          metres: { default: 1.2, min: 0, max: 1000 },
          isAdvanced: true,
        }),
        labelSpacing: length({
          label: 'Label spacing',
          help: 'From one label to the next along a contour.',
          metres: { default: 80, min: 1, max: 100_000 },
          isAdvanced: true,
        }),
        labelReading: choice(LABEL_READINGS, {
          default: 'from-below',
          label: 'Labels read',
          help: 'From below: never upside down. Uphill: their tops point up the slope.',
          choices: { 'from-below': 'from below', uphill: 'uphill' },
          isAdvanced: true,
        }),
        from: elevation({
          label: 'From elevation',
          help: 'No contours below it. Empty for all.',
          isAdvanced: true,
        }),
        to: elevation({
          label: 'To elevation',
          help: 'No contours above it. Empty for all.',
          isAdvanced: true,
        }),
        minimumLength: length({
          label: 'Minimum length',
          help: 'Leaves out shorter contours. 0 keeps all.',
          metres: { default: 5, min: 0, max: 100_000 },
        }),
        name: productName('What the contours are called in the layers and in exports.'),
      })
      .refine(({ on, surfaceId }) => on !== 'surface' || surfaceId !== undefined, {
        path: ['surfaceId'],
        message: 'Choose a surface.',
      })
      .refine(({ on, gridId }) => on !== 'grid' || gridId !== undefined, {
        path: ['gridId'],
        message: 'Choose a grid.',
      });
  },
} as const satisfies OperationDescription;
export type DrawContoursParameters = z.output<ReturnType<typeof drawContours.parameters>>;
