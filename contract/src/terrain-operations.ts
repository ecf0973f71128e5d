import type { LengthUnit } from '@pampero/core/geodesy';
import { GRID_METHODS, type GridMethod } from '@pampero/core/grids';
import { CROSSING_RULES } from '@pampero/core/terrain';
import { z } from 'zod';
import { lengthIn, type ParameterMeta } from './length.js';
import { cloudChoice, meta, productName, type OperationDescription } from './operation-description.js';

/** An elevation that may be left out. */
const elevation = (facts: Omit<ParameterMeta, 'quantity'>) =>
  z
    .preprocess(
      (given) => (typeof given === 'string' ? (given.trim() === '' ? undefined : Number(given)) : given),
      z.number({ error: `${facts.label}: type an elevation.` }).optional(),
    )
    .meta(meta({ ...facts, quantity: 'elevation' }));
const surfaceChoice = (label: string, help: string, more: Partial<ParameterMeta> = {}) =>
  z
    .int()
    .positive()
    .meta(meta({ label, help, quantity: 'surface', ...more }));

const place = z.tuple([z.number(), z.number()]);

/** What was done to a surface by hand, in order; see `SurfaceEdit` in the core. */
const surfaceEdits = z
  .array(
    z.discriminatedUnion('kind', [
      z.strictObject({ kind: z.literal('take-out'), place }),
      z.strictObject({ kind: z.literal('swap'), place }),
      z.strictObject({ kind: z.literal('drop'), place }),
      z.strictObject({ kind: z.literal('drop-within'), outline: z.array(place).min(3).max(5000) }),
      z.strictObject({ kind: z.literal('add'), place, elevation: z.number() }),
    ]),
  )
  .max(20_000);

export const editSurface = {
  id: 'edit-surface',
  stage: 'terrain',
  title: 'Edit surface',
  does: 'Takes points out of a surface, swaps sides, drops triangles, adds points; done again when the surface is rebuilt.',
  method: 'Lawson 1977 for points added, Devillers 1999 for points taken out.',
  isQuick: true,
  parameters: () =>
    z.strictObject({ surfaceId: z.int().positive(), edits: surfaceEdits.min(1, 'Nothing was edited.') }),
} as const satisfies OperationDescription;

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
      edits: surfaceEdits.default([]).meta(meta({ label: 'Edits', help: 'Done by hand.', isHidden: true })),
      name: productName('Name', 'What the surface is called in the layers and in exports.'),
    });
  },
} as const satisfies OperationDescription;

export const drawContours = {
  id: 'draw-contours',
  stage: 'terrain',
  title: 'Draw contours',
  does: 'Traces contours on the triangles of a surface, without a grid between.',
  method:
    'Linear interpolation along triangle sides; evened out within a tolerance after Taubin 1995, SIGGRAPH, 351-358.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        surfaceId: z
          .int()
          .positive()
          .optional()
          .meta(meta({ label: 'Surface', help: 'The surface the contours are traced on.', quantity: 'surface' })),
        gridId: z
          .int()
          .positive()
          .optional()
          .meta(
            meta({
              label: 'Or on a grid',
              help: 'Through the centres of its cells, in place of the surface.',
              quantity: 'grid',
              isAdvanced: true,
            }),
          ),
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
            meta({
              label: 'Pass through',
              help: 'An elevation that the contours pass through.',
              quantity: 'elevation',
            }),
          ),
        indexEvery: z
          .int()
          .min(0)
          .max(100)
          .default(4)
          .meta(
            meta({ label: 'Index every', help: 'Every n-th contour is drawn heavier; 0 for none.', quantity: 'count' }),
          ),
        smoothing: length({
          label: 'Smooth within',
          help: 'They may leave the measured surface by so much in elevation; 0 traces it exactly. They never cross.',
          metres: { default: 0.02, min: 0, max: 100 },
        }),
        dashedFrom: length({
          label: 'Dashed where points lie apart',
          help: 'By more than this the ground was hardly seen; 0 for no dashes.',
          metres: { default: 5, min: 0, max: 10_000 },
        }),
        textHeight: length({
          label: 'Height of figures',
          help: 'Along index contours, read uphill; 0 for none.',
          metres: { default: 1.5, min: 0, max: 1000 },
          isAdvanced: true,
        }),
        figuresApart: length({
          label: 'Figures apart',
          help: 'Along a contour, from one to the next.',
          metres: { default: 80, min: 1, max: 100_000 },
          isAdvanced: true,
        }),
        from: elevation({
          label: 'From elevation',
          help: 'No contours lower than this; empty for all.',
          isAdvanced: true,
        }),
        to: elevation({
          label: 'To elevation',
          help: 'No contours higher than this; empty for all.',
          isAdvanced: true,
        }),
        shortestLength: length({
          label: 'Leave out shorter than',
          help: 'Contours shorter than this are dropped. 0 keeps all.',
          metres: { default: 5, min: 0, max: 100_000 },
        }),
        name: productName('Name', 'What the contours are called in the layers and in exports.'),
      })
      .refine(({ surfaceId, gridId }) => surfaceId !== undefined || gridId !== undefined, {
        path: ['surfaceId'],
        message: 'Choose a surface or a grid.',
      });
  },
} as const satisfies OperationDescription;

/** What a grid is made of: a surface, or the points in each cell. */
export const GRID_SOURCES = ['tin', 'difference', 'grid-difference', ...GRID_METHODS] as const;
const OF_POINTS: GridMethod[] = [...GRID_METHODS];
const INSIDE_METHODS = ['lowest', 'highest', 'mean', 'median'] as const;

export const makeGrid = {
  id: 'make-grid',
  stage: 'terrain',
  title: 'Make grid',
  does: 'Samples a surface, or sums up the points of each cell, into an elevation grid.',
  method:
    'Linear in the triangles; Shepard 1968 for inverse distance; natural neighbours on cells after Park et al. 2006, IEEE TVCG 12(2), 243-253.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        method: z
          .enum(GRID_SOURCES)
          .default('tin')
          .meta(
            meta({
              label: 'Each cell holds',
              help: 'The surface at its centre, or a figure of the points in it.',
              choices: {
                tin: 'the surface',
                difference: 'the difference of two surfaces',
                'grid-difference': 'the difference of two grids',
                lowest: 'the lowest point',
                highest: 'the highest point',
                mean: 'the mean of its points',
                median: 'the middle of its points',
                count: 'the number of its points',
                'nearest-weighted': 'points by inverse distance',
                natural: 'points by natural neighbours',
              },
            }),
          ),
        surfaceId: surfaceChoice('Surface', 'The surface that is sampled.', {
          appliesTo: { name: 'method', is: ['tin', 'difference'] },
        }).optional(),
        otherId: surfaceChoice(
          'Less the surface',
          'Taken off the first: land as it is less land as it shall be is what is to be cut.',
          {
            appliesTo: { name: 'method', is: 'difference' },
          },
        ).optional(),
        gridId: z
          .int()
          .positive()
          .optional()
          .meta(
            meta({
              label: 'Grid',
              help: 'Its cells are kept.',
              quantity: 'grid-needed',
              appliesTo: { name: 'method', is: 'grid-difference' },
            }),
          ),
        otherGridId: z
          .int()
          .positive()
          .optional()
          .meta(
            meta({
              label: 'Less the grid',
              help: 'Taken off the first, between its centres where its cells lie otherwise.',
              quantity: 'grid-needed',
              appliesTo: { name: 'method', is: 'grid-difference' },
            }),
          ),
        cloudId: cloudChoice('The cloud whose points are taken.').optional(),
        classes: z
          .array(z.int().min(0).max(255))
          .default([2])
          .meta(
            meta({
              label: 'From classes',
              help: 'Points of these classes count.',
              quantity: 'class-list',
              appliesTo: { name: 'method', is: OF_POINTS },
            }),
          ),
        cell: length({
          label: 'Cell',
          help: 'Side of a cell.',
          metres: { default: 0.5, min: 0.01, max: 1000 },
          appliesTo: { name: 'method', is: GRID_SOURCES.filter((method) => method !== 'grid-difference') },
        }),
        reach: length({
          label: 'Fill gaps within',
          help: 'Empty cells with points about them this near are filled; wider voids stay. 0 fills none.',
          metres: { default: 2, min: 0, max: 1000 },
          appliesTo: { name: 'method', is: OF_POINTS.filter((method) => method !== 'count') },
        }),
        outlines: z
          .int()
          .positive()
          .optional()
          .meta(
            meta({
              label: 'Otherwise within',
              help: 'Closed lines of the job, a road or a yard, inside which cells hold something else.',
              quantity: 'lines',
              appliesTo: { name: 'method', is: OF_POINTS.filter((method) => method !== 'count') },
            }),
          ),
        within: z
          .enum(INSIDE_METHODS)
          .default('mean')
          .meta(
            meta({
              label: 'There each cell holds',
              help: 'A figure of its points.',
              choices: {
                lowest: 'the lowest',
                highest: 'the highest',
                mean: 'the mean',
                median: 'the middle',
              },
              appliesTo: { name: 'method', is: OF_POINTS.filter((method) => method !== 'count') },
            }),
          ),
        seam: length({
          label: 'Seam',
          help: 'Width over which the one goes over into the other, so that there is no step.',
          metres: { default: 2, min: 0, max: 100 },
          appliesTo: { name: 'method', is: OF_POINTS.filter((method) => method !== 'count') },
          isAdvanced: true,
        }),
        laid: z
          .array(z.int().positive())
          .default([])
          .meta(
            meta({
              label: 'Laid into it',
              help: 'Water outlines lie flat at their level, breaklines are burnt in.',
              quantity: 'lines-list',
              appliesTo: { name: 'method', is: OF_POINTS.filter((method) => method !== 'count') },
              isAdvanced: true,
            }),
          ),
        name: productName('Name', 'What the grid is called in the layers and in exports.'),
      })
      .refine(
        ({ method, surfaceId, otherId }) =>
          method !== 'difference' || (surfaceId !== undefined && otherId !== undefined && otherId !== surfaceId),
        { path: ['otherId'], message: 'Choose two surfaces.' },
      )
      .refine(({ method, surfaceId }) => method !== 'tin' || surfaceId !== undefined, {
        path: ['surfaceId'],
        message: 'Choose a surface, or let each cell hold a figure of its points.',
      })
      .refine(
        ({ method, gridId, otherGridId }) =>
          method !== 'grid-difference' || (gridId !== undefined && otherGridId !== undefined && gridId !== otherGridId),
        { path: ['otherGridId'], message: 'Choose two grids.' },
      )
      .refine(({ method, cloudId }) => !OF_POINTS.includes(method as GridMethod) || cloudId !== undefined, {
        path: ['cloudId'],
        message: 'Choose the cloud whose points are taken.',
      });
  },
} as const satisfies OperationDescription;

export const measureVolume = {
  id: 'measure-volume',
  stage: 'terrain',
  title: 'Measure volume',
  does: 'Earth between a surface and a level, another surface, or a base drawn from the rim of a heap: exact over the triangles.',
  method: 'Facets clipped by facets (Sutherland and Hodgman 1974); no gridding.',
  parameters: (unit: LengthUnit) =>
    z
      .strictObject({
        surfaceId: surfaceChoice('Surface', 'The land as it is, or as it shall be.'),
        against: z
          .enum(['level', 'surface', 'rim'])
          .default('level')
          .meta(
            meta({
              label: 'Against',
              help: 'What it is held against.',
              choices: { level: 'a level', surface: 'a surface', rim: 'base from the rim' },
            }),
          ),
        level: elevation({ label: 'Level', help: 'An elevation.', appliesTo: { name: 'against', is: 'level' } }),
        otherId: surfaceChoice('The other surface', 'Fill is where the first lies over it, cut where it lies under.', {
          appliesTo: { name: 'against', is: 'surface' },
        }).optional(),
        outline: z
          .int()
          .positive()
          .optional()
          .meta(
            meta({
              label: 'Within',
              help: 'Closed lines of the job; all of the surface where none are chosen.',
              quantity: 'lines',
            }),
          ),
        swell: z
          .number()
          .min(0.5)
          .max(3)
          .default(1)
          .meta(
            meta({
              label: 'Swell of cut',
              help: 'Cut takes up so many times its place once it is loose.',
              isAdvanced: true,
            }),
          ),
        shrink: z
          .number()
          .min(0.3)
          .max(1.5)
          .default(1)
          .meta(
            meta({
              label: 'Shrink of fill',
              help: 'Fill takes up so many times its place once it is packed.',
              isAdvanced: true,
            }),
          ),
        name: productName('Name', 'What the volume is called.'),
      })
      .refine(({ against, level }) => against !== 'level' || level !== undefined, {
        path: ['level'],
        message: `Type the level, in ${unit === 'metre' ? 'metres' : 'feet'}.`,
      })
      .refine(
        ({ against, otherId, surfaceId }) => against !== 'surface' || (otherId !== undefined && otherId !== surfaceId),
        {
          path: ['otherId'],
          message: 'Choose another surface.',
        },
      )
      .refine(({ against, outline }) => against !== 'rim' || outline !== undefined, {
        path: ['outline'],
        message: 'A base from the rim needs the outline of the heap: draw it in Plan and keep it as a boundary.',
      }),
} as const satisfies OperationDescription;

export const stateAccuracy = {
  id: 'state-accuracy',
  stage: 'terrain',
  title: 'State accuracy',
  does: 'Holds a surface against the check points and says how good it is, for the report that is signed.',
  method:
    'ASPRS Positional Accuracy Standards, edition 1 (2014) for NVA and VVA, edition 2 (2023) for the check points.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      surfaceId: surfaceChoice('Surface', 'The surface that is judged.'),
      surveyError: lengthIn(unit)({
        label: 'Check points are good to',
        help: 'Their own RMSE in elevation; taken into account in quadrature.',
        metres: { default: 0.01, min: 0, max: 10 },
      }),
      excluded: z
        .string()
        .trim()
        .max(2000)
        .default('')
        .meta(
          meta({
            label: 'Left out, with reason',
            help: 'Numbers of points that do not count, each with why: K12 on a manhole; K15 moved.',
            quantity: 'name',
          }),
        ),
      name: productName('Name', 'What the statement is called.'),
    }),
} as const satisfies OperationDescription;

export const drawProfile = {
  id: 'draw-profile',
  stage: 'terrain',
  title: 'Draw profile',
  does: 'Cuts surfaces along a line, exactly: a corner wherever it crosses a side of a triangle. Ground points beside the line go with it.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      surfaceIds: z
        .array(z.int().positive())
        .min(1, 'Choose at least one surface.')
        .max(12)
        .meta(meta({ label: 'Surfaces', help: 'The surfaces that are cut.' })),
      line: z
        .array(z.tuple([z.number(), z.number()]))
        .min(2, 'A line has two corners at least.')
        .max(2000)
        .meta(meta({ label: 'Line', help: 'Easting and northing of its corners.' })),
      cloudId: cloudChoice('The cloud whose points are shown beside the surfaces.').optional(),
      depth: length({
        label: 'Points within',
        help: 'Of the line, on either side.',
        metres: { default: 0.5, min: 0, max: 100 },
      }),
      name: productName('Name', 'What the profile is called.'),
    });
  },
} as const satisfies OperationDescription;
