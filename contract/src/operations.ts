import type { LengthUnit } from '@pampero/core/geodesy';
import { THINNING_METHODS } from '@pampero/core/thinning';
import { POINT_ORDERS } from '@pampero/core/formats/point-list';
import { z } from 'zod';
import { cleaningOperations } from './cleaning-operations.js';
import { handOperations } from './hand-operations.js';
import { lengthIn, type ParameterMeta } from './length.js';
import type { Stage } from './stages.js';

/**
 * An operation is the unit of all work. This one description feeds the sheet, the API, its OpenAPI page, the field book and
 * the docs. `parameters` is made for a job's unit, since lengths, their defaults and their ranges are in it.
 */
export interface OperationDescription<S extends z.ZodObject = z.ZodObject> {
  readonly id: string;
  readonly stage: Stage;
  /** What the button says. */
  readonly title: string;
  /** One sentence: what it does. */
  readonly does: string;
  /** Where the method was published. */
  readonly method?: string;
  /** Done by hand and in a moment: nobody is told how far it is, and what follows waits for it. */
  readonly isQuick?: boolean;
  readonly parameters: (unit: LengthUnit) => S;
}

const meta = (facts: ParameterMeta): ParameterMeta & Record<string, unknown> => ({ ...facts });
const productName = (label: string, help: string) =>
  z
    .string()
    .trim()
    .min(1, `${label} cannot be empty.`)
    .max(120)
    .optional()
    .meta(meta({ label, help, quantity: 'name' }));

export const groundByCloth = {
  id: 'ground-by-cloth',
  stage: 'classify',
  title: 'Find ground',
  does: 'Lays a cloth against the lowest points of the cloud and classes the points near it as ground.',
  method: 'Zhang et al. 2016, Remote Sensing 8(6), 501; its resting state computed directly.',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z.strictObject({
      cloudId: z
        .int()
        .positive()
        .meta(meta({ label: 'Cloud', help: 'The cloud whose ground is sought.', quantity: 'cloud' })),
      landShape: z
        .enum(['flat', 'rolling', 'steep'])
        .default('rolling')
        .meta(
          meta({
            label: 'Shape of the land',
            help: 'How far the cloth may bend: flat holds off large halls, steep follows ridges.',
          }),
        ),
      clothCell: length({
        label: 'Cloth cell',
        help: 'Near the spacing of the ground points; larger is quicker and passes over grass.',
        metres: { default: 1, min: 0.1, max: 50 },
      }),
      classDistance: length({
        label: 'Counts as ground within',
        help: 'A point this near the cloth, above or below, is ground.',
        metres: { default: 0.12, min: 0.01, max: 5 },
      }),
      followSteepSlopes: z
        .boolean()
        .default(true)
        .meta(
          meta({
            label: 'Follow steep banks',
            help: 'Lets the cloth climb slopes it has stretched across; walls still stop it.',
          }),
        ),
      steepestDegrees: z
        .number()
        .min(5)
        .max(80)
        .default(40)
        .meta(
          meta({
            label: 'Steepest bank',
            help: 'Slopes above this are taken for walls.',
            quantity: 'degrees',
            isAdvanced: true,
          }),
        ),
      lowPointDrop: length({
        label: 'Low points lie under by',
        help: 'Cells this far under their surroundings hold false points and are left out.',
        metres: { default: 0.5, min: 0.05, max: 20 },
        isAdvanced: true,
      }),
      iterations: z
        .int()
        .min(1)
        .max(5000)
        .default(500)
        .meta(
          meta({
            label: 'Most iterations',
            help: 'The cloth is left to rest sooner when it no longer moves.',
            quantity: 'count',
            isAdvanced: true,
          }),
        ),
    });
  },
} as const satisfies OperationDescription;

export const findObjects = {
  id: 'find-objects',
  stage: 'classify',
  title: 'Class vegetation, buildings, wires',
  does: 'Classes what is not ground: wires that run as lines, buildings by their roofs, vegetation by its height over the ground.',
  method: 'Covariance of the points about each for planes (Weinmann et al. 2015, ISPRS Journal 105, 286-304).',
  parameters: (unit: LengthUnit) => {
    const length = lengthIn(unit);
    return z
      .strictObject({
        cloudId: z
          .int()
          .positive()
          .meta(
            meta({
              label: 'Cloud',
              help: 'The cloud that is classed; its ground has to be found first.',
              quantity: 'cloud',
            }),
          ),
        lowFrom: length({
          label: 'Low vegetation from',
          help: 'Points lower than this over the ground stay unclassified.',
          metres: { default: 0.2, min: 0, max: 10 },
        }),
        mediumFrom: length({
          label: 'Medium from',
          help: 'Height over the ground.',
          metres: { default: 0.6, min: 0, max: 20 },
        }),
        highFrom: length({
          label: 'High from',
          help: 'Height over the ground.',
          metres: { default: 3, min: 0, max: 50 },
        }),
        buildings: z
          .boolean()
          .default(true)
          .meta(meta({ label: 'Look for buildings', help: 'Plane pieces of some size, high over the ground.' })),
        smallestRoof: length({
          label: 'Smallest roof, side',
          help: 'A roof covers at least a square of this side.',
          metres: { default: 2.5, min: 0.5, max: 100 },
        }),
        leastHeight: length({
          label: 'Roofs are higher than',
          help: 'Over the ground: keeps vehicles and walls out.',
          metres: { default: 2, min: 0.3, max: 50 },
        }),
        wires: z
          .boolean()
          .default(true)
          .meta(meta({ label: 'Look for wires', help: 'Lines that hang high over the ground and run on: class 14.' })),
        wiresFrom: length({
          label: 'Wires hang higher than',
          help: 'Over the ground.',
          metres: { default: 4, min: 1, max: 100 },
          isAdvanced: true,
        }),
        wirePiece: length({
          label: 'Piece of wire looked at',
          help: 'Four other points of the wire should lie this near.',
          metres: { default: 5, min: 0.2, max: 20 },
          isAdvanced: true,
        }),
        roughness: length({
          label: 'Roofs are plane within',
          help: 'Scatter about the plane: two or three times the ranging noise.',
          metres: { default: 0.08, min: 0.005, max: 2 },
          isAdvanced: true,
        }),
        radius: length({
          label: 'Piece of roof looked at',
          help: 'Some ten points should lie within.',
          metres: { default: 1, min: 0.1, max: 20 },
          isAdvanced: true,
        }),
        highest: length({
          label: 'No plant is higher than',
          help: 'What lies higher stays as it is: birds, wires.',
          metres: { default: 40, min: 1, max: 500 },
          isAdvanced: true,
        }),
      })
      .refine(({ lowFrom, mediumFrom, highFrom }) => lowFrom <= mediumFrom && mediumFrom <= highFrom, {
        error: 'Low, medium and high have to begin one over the other.',
        path: ['mediumFrom'],
      });
  },
} as const satisfies OperationDescription;

export const thinCloud = {
  id: 'thin-cloud',
  stage: 'thin',
  title: 'Thin',
  does: 'Keeps fewer points of the chosen classes. The others stay in the cloud and can be brought back.',
  method: 'Poisson-disk elimination by lots drawn from the coordinates (Cook 1986), or one point a cell.',
  parameters: (unit: LengthUnit) =>
    z.strictObject({
      cloudId: z
        .int()
        .positive()
        .meta(meta({ label: 'Cloud', help: 'The cloud that is thinned.', quantity: 'cloud' })),
      classes: z
        .array(z.int().min(0).max(255))
        .min(1, 'Choose at least one class.')
        .default([2])
        .meta(
          meta({ label: 'Of classes', help: 'Points of other classes are left as they are.', quantity: 'class-list' }),
        ),
      method: z
        .enum(THINNING_METHODS)
        .default('spacing')
        .meta(
          meta({
            label: 'Keep',
            help: 'By spacing: evenly, no two nearer. Of each cell: the lowest, the highest, the one nearest the mean height, the median. Or a share at random.',
          }),
        ),
      distance: lengthIn(unit)({
        label: 'Spacing, or side of a cell',
        help: 'Least distance between points that stay; for one a cell, its side in plan.',
        metres: { default: 1, min: 0.01, max: 500 },
      }),
      sharePercent: z
        .number()
        .min(0.01, 'The share cannot be under 0.01 %.')
        .max(100, 'The share cannot be over 100 %.')
        .default(10)
        .meta(meta({ label: 'Share, %', help: 'For points at random.', isAdvanced: true })),
      outcome: z
        .enum(['key-point', 'withhold'])
        .default('key-point')
        .meta(
          meta({
            label: 'What becomes of it',
            help: 'Key-point flags those that stay; withhold flags the others, so that nothing is made from them.',
          }),
        ),
    }),
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
      cloudId: z
        .int()
        .positive()
        .meta(meta({ label: 'Cloud', help: 'The cloud whose points are taken.', quantity: 'cloud' })),
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

/** Import has a file to send, so it has a route of its own; it is described here for the field book and the docs. */
export const importCloud = {
  id: 'import-cloud',
  stage: 'intake',
  title: 'Import cloud',
  does: 'Reads a cloud into the job: LAS, LAZ, COPC, PLY or text. The file itself is never changed.',
  method: 'LAS Specification 1.4 R15, ASPRS 2019.',
  parameters: () =>
    z.strictObject({
      fileName: z
        .string()
        .min(1)
        .max(255)
        .meta(meta({ label: 'File', help: 'The name of the file sent.' })),
      name: productName('Name', 'What the cloud is called in the layers.'),
    }),
} as const satisfies OperationDescription;

export const importControl = {
  id: 'import-control',
  stage: 'intake',
  title: 'Import points',
  does: 'Reads control or check points from a list; the cloud is then looked at round each.',
  parameters: () =>
    z.strictObject({
      fileName: z
        .string()
        .min(1)
        .max(255)
        .meta(meta({ label: 'File', help: 'The name of the list.' })),
      order: z
        .enum(POINT_ORDERS)
        .default('PNEZD')
        .meta(meta({ label: 'Order', help: 'P number, N northing, E easting, Z elevation, D code.' })),
      role: z
        .enum(['control', 'check'])
        .default('control')
        .meta(meta({ label: 'They are', help: 'Control points tie the cloud down; check points judge it.' })),
    }),
} as const satisfies OperationDescription;

/** Operations that are started with their parameters alone. */
export const operations = [
  groundByCloth,
  findObjects,
  thinCloud,
  buildSurface,
  drawContours,
  ...handOperations,
  ...cleaningOperations,
] as const;
export type OperationId = (typeof operations)[number]['id'];

export type GroundByClothParameters = z.output<ReturnType<typeof groundByCloth.parameters>>;
export type FindObjectsParameters = z.output<ReturnType<typeof findObjects.parameters>>;
export type ThinCloudParameters = z.output<ReturnType<typeof thinCloud.parameters>>;
export type BuildSurfaceParameters = z.output<ReturnType<typeof buildSurface.parameters>>;
export type DrawContoursParameters = z.output<ReturnType<typeof drawContours.parameters>>;

export function operationById(id: string): OperationDescription | undefined {
  return operations.find((operation) => operation.id === id);
}

/** One parameter as a form shows it. */
export interface ParameterField extends ParameterMeta {
  readonly name: string;
  readonly type: 'number' | 'integer' | 'string' | 'boolean' | 'choice' | 'array';
  readonly choices?: readonly string[];
  readonly default?: unknown;
  readonly minimum?: number;
  readonly maximum?: number;
}

interface JsonProperty extends Partial<ParameterMeta> {
  type?: string;
  enum?: string[];
  default?: unknown;
  minimum?: number;
  maximum?: number;
}

/** The parameters of an operation in a job's unit, in the order they are declared. */
export function parameterFields(operation: OperationDescription, unit: LengthUnit): ParameterField[] {
  const schema = z.toJSONSchema(operation.parameters(unit), { io: 'output', unrepresentable: 'any' }) as {
    properties: Record<string, JsonProperty>;
  };
  return Object.entries(schema.properties).map(([name, property]) => ({
    name,
    type: property.enum ? 'choice' : (property.type as ParameterField['type']),
    label: property.label ?? name,
    help: property.help ?? '',
    ...(property.quantity && { quantity: property.quantity }),
    ...(property.isAdvanced && { isAdvanced: true }),
    ...(property.enum && { choices: property.enum }),
    ...(property.default !== undefined && { default: property.default }),
    ...(property.minimum !== undefined && { minimum: property.minimum }),
    ...(property.maximum !== undefined && { maximum: property.maximum }),
  }));
}
