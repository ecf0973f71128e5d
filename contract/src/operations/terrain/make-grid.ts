import type { LengthUnit } from '@pampero/core/geodesy';
import { GRID_METHODS, type GridMethod } from '@pampero/core/grids';
import { z } from 'zod';
import { any, choice, classList, clouds, lengthIn, one, oneOrNone, productName } from '../../parameters/index.js';
import type { OperationDescription } from '../operation-description.js';

/** What a grid is made of: a surface, or the points in each cell. */
export const GRID_SOURCES = ['tin', 'difference', 'grid-difference', ...GRID_METHODS] as const;
const OF_POINTS: GridMethod[] = [...GRID_METHODS];
const FILLED = OF_POINTS.filter((method) => method !== 'count');
const INSIDE_METHODS = ['lowest', 'highest', 'mean', 'median'] as const;

export const makeGrid = {
  id: 'make-grid',
  stage: 'terrain',
  title: 'Make grid',
  does: 'Makes an elevation grid from a surface, or from the points in each cell.',
  method:
    'Linear in the triangles; Shepard 1968 for inverse distance; natural neighbours on cells after Park et al. 2006, IEEE TVCG 12(2), 243-253.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        method: choice(GRID_SOURCES, {
          default: 'tin',
          label: 'Cell value',
          help: 'The surface at the centre of the cell, or a figure from its points.',
          choices: {
            tin: 'surface',
            difference: 'difference of two surfaces',
            'grid-difference': 'difference of two grids',
            lowest: 'lowest point',
            highest: 'highest point',
            mean: 'mean of its points',
            median: 'median of its points',
            count: 'number of its points',
            'nearest-weighted': 'points by inverse distance',
            natural: 'points by natural neighbours',
          },
        }),
        surfaceId: one('surface', {
          label: 'Surface',
          help: 'The surface to sample.',
          appliesTo: { name: 'method', is: ['tin', 'difference'] },
        }).optional(),
        otherId: one('surface', {
          label: 'Minus surface',
          help: 'Existing ground minus design gives the depth of cut.',
          appliesTo: { name: 'method', is: 'difference' },
        }).optional(),
        gridId: one('grid', {
          label: 'Grid',
          help: 'The result has the same cells.',
          appliesTo: { name: 'method', is: 'grid-difference' },
        }).optional(),
        otherGridId: one('grid', {
          label: 'Minus grid',
          help: 'Interpolated where its cells do not match.',
          appliesTo: { name: 'method', is: 'grid-difference' },
        }).optional(),
        clouds: clouds('The clouds whose points are used, together.', {
          appliesTo: { name: 'method', is: OF_POINTS },
        }).optional(),
        classes: classList({
          label: 'Classes',
          help: 'Uses points of these classes.',
          appliesTo: { name: 'method', is: OF_POINTS },
        }),
        cell: length({
          label: 'Cell size',
          help: 'Side of a cell.',
          metres: { default: 0.5, min: 0.01, max: 1000 },
          appliesTo: { name: 'method', is: GRID_SOURCES.filter((method) => method !== 'grid-difference') },
        }),
        fillDistance: length({
          label: 'Fill gaps up to',
          help: 'Fills empty cells with points this near. Wider voids stay. 0 fills none.',
          metres: { default: 2, min: 0, max: 1000 },
          appliesTo: { name: 'method', is: FILLED },
        }),
        outlines: oneOrNone('lines', {
          label: 'Different value inside',
          help: 'Closed lines of the job, such as a road or a yard, whose cells get another value.',
          none: 'nowhere',
          appliesTo: { name: 'method', is: FILLED },
        }),
        insideMethod: choice(INSIDE_METHODS, {
          default: 'mean',
          label: 'Value inside',
          help: 'For cells inside those lines.',
          choices: { lowest: 'lowest', highest: 'highest', mean: 'mean', median: 'median' },
          appliesTo: { name: 'method', is: FILLED },
        }),
        blendWidth: length({
          label: 'Blend width',
          help: 'Blends inside and outside over this width, so that there is no step.',
          metres: { default: 2, min: 0, max: 100 },
          appliesTo: { name: 'method', is: FILLED },
          isAdvanced: true,
        }),
        burnLines: any('lines', {
          label: 'Burn in lines',
          help: 'Lays standing water flat at its level and flowing water along its outline, and writes breaklines, soft lines and contours by hand into the cells.',
          appliesTo: { name: 'method', is: FILLED },
          isAdvanced: true,
        }),
        name: productName('What the grid is called in the layers and in exports.'),
      })
      .refine(
        ({ method, surfaceId, otherId }) =>
          method !== 'difference' || (surfaceId !== undefined && otherId !== undefined && otherId !== surfaceId),
        { path: ['otherId'], message: 'Choose two surfaces.' },
      )
      .refine(({ method, surfaceId }) => method !== 'tin' || surfaceId !== undefined, {
        path: ['surfaceId'],
        message: 'Choose a surface, or use the points as the cell value.',
      })
      .refine(
        ({ method, gridId, otherGridId }) =>
          method !== 'grid-difference' || (gridId !== undefined && otherGridId !== undefined && gridId !== otherGridId),
        { path: ['otherGridId'], message: 'Choose two grids.' },
      )
      .refine(({ method, clouds: chosen }) => !OF_POINTS.includes(method as GridMethod) || chosen !== undefined, {
        path: ['clouds'],
        message: 'Choose the clouds whose points are used.',
      });
  },
} as const satisfies OperationDescription;
export type MakeGridParameters = z.output<ReturnType<typeof makeGrid.parameters>>;
