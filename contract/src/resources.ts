import { SUSPECT_KINDS } from '@pampero/core/ground';
import { SURFACE_FAULTS } from '@pampero/core/terrain';
import { z } from 'zod';
import { jobClassSchema } from './classes.js';
import { featureCodeSchema } from './feature-codes.js';
import { figureSchema } from './figures.js';
import { pinSchema } from './pins.js';
import { productKindIds, productSchema } from './products/index.js';
import { stageSchema } from './stages.js';
import { lineOfText } from './text.js';

export const lengthUnitSchema = z.enum(['metre', 'us-survey-foot', 'international-foot']);

export const crsSchema = z.strictObject({
  epsg: z.int().positive().optional(),
  /** A PROJ string, where the system is the surveyor's own. */
  definition: z.string().optional(),
  name: z.string().optional(),
  horizontalUnit: lengthUnitSchema.optional(),
  verticalUnit: lengthUnitSchema.optional(),
  isGeographic: z.boolean().optional(),
});
export type Crs = z.infer<typeof crsSchema>;

/** A found entry of the EPSG list. */
export const crsEntrySchema = z.strictObject({
  epsg: z.int(),
  name: z.string(),
  area: z.string(),
  unit: lengthUnitSchema,
});
export type CrsEntry = z.infer<typeof crsEntrySchema>;

export const jobIdSchema = z
  .string()
  .regex(/^[a-z0-9][a-z0-9-]{0,79}$/, 'A job id is made of small letters, digits and dashes.');

export const newJobSchema = z.strictObject({
  name: lineOfText(120, 'A job name has at most 120 letters.').min(1, 'Give the job a name.'),
  epsg: z.int().positive().optional().meta({ help: 'EPSG code of a projected system; leave out for a local one.' }),
  /** A system of one's own as a PROJ string, in place of a code. */
  definition: lineOfText(2000).min(6).optional(),
  unit: lengthUnitSchema
    .optional()
    .meta({ help: 'Of a local system; a system with a code or definition has its own. Metres if left out.' }),
});
export type NewJob = z.input<typeof newJobSchema>;

export const jobSchema = z.strictObject({
  id: jobIdSchema,
  name: z.string(),
  crs: crsSchema,
  unit: lengthUnitSchema,
  createdAt: z.iso.datetime(),
  changedAt: z.iso.datetime(),
  fileBytes: z.number(),
  cloudCount: z.int(),
  pointCount: z.number(),
});
export type Job = z.infer<typeof jobSchema>;

/** Something among the job files that cannot be opened as a job, and why. */
export const unreadableJobSchema = z.strictObject({
  fileName: z.string(),
  what: z.string(),
  fix: z.string().optional(),
});
export type UnreadableJob = z.infer<typeof unreadableJobSchema>;

export const boundsSchema = z.strictObject({
  min: z.tuple([z.number(), z.number(), z.number()]),
  max: z.tuple([z.number(), z.number(), z.number()]),
});

const triple = z.tuple([z.number(), z.number(), z.number()]);

export const cloudSchema = z.strictObject({
  id: z.int(),
  name: z.string(),
  pointCount: z.number(),
  bounds: boundsSchema,
  quantisation: z.strictObject({ scale: triple, offset: triple }),
  columns: z.strictObject({
    gpsTime: z.boolean(),
    rgb: z.boolean(),
    nearInfrared: z.boolean(),
    wavePacket: z.boolean(),
    extraBytesLength: z.int(),
  }),
  /** The source says how sure it is of each point. */
  hasConfidence: z.boolean(),
  /** ... or how well its elevation is known: a standard deviation. */
  hasAccuracy: z.boolean(),
  /** Points of each class, by code. */
  classCounts: z.record(z.string(), z.number()),
  /** Least and greatest intensity that 2 % and 98 % of the points stay under. */
  intensityRange: z.tuple([z.number(), z.number()]),
  source: z.strictObject({
    fileName: z.string(),
    fileBytes: z.number(),
    /** What the file is: "LAS 1.4, points 6", "PLY, ascii", "text". */
    format: z.string(),
    generatingSoftware: z.string(),
    crs: crsSchema.optional(),
    /** 1-99 % of elevations, so that a stray point does not set the colours. */
    elevationRange: z.tuple([z.number(), z.number()]),
    strips: z.array(z.int()),
  }),
  warnings: z.array(z.strictObject({ code: z.string(), message: z.string() })),
  /** GPS times are adjusted standard time, not seconds of a week. */
  isStandardGpsTime: z.boolean(),
  /** The set of colours its points are shown in; 0 for those they came with. */
  colours: z.int(),
  /** Which positions its points are shown at: 0 for those they came with, else one of the sets they were moved to. */
  positions: z.strictObject({
    shown: z.int(),
    sets: z.array(z.strictObject({ id: z.int(), name: z.string() })),
  }),
  /** Changes with every edit of classes and flags; undo brings the earlier one back. */
  revision: z.int(),
  /** Changes with classes and with what is withheld: what a surface is made of. */
  classRevision: z.int(),
});
export type Cloud = z.infer<typeof cloudSchema>;

export const cloudNodeSchema = z.strictObject({
  id: z.int(),
  level: z.int(),
  count: z.int(),
  /** Distance between neighbouring points, job units; 0 where the node keeps all it was given. */
  spacing: z.number(),
  /** Scaled integers, as the geometry has them. */
  min: triple,
  max: triple,
  /** Changes when the node's classes do. */
  revision: z.int(),
  /** The set of positions that the bounds are of. */
  positions: z.int(),
  /** The set of colours that its points are shown in. */
  colours: z.int(),
});
export type CloudNode = z.infer<typeof cloudNodeSchema>;
export const cloudNodesSchema = z.strictObject({ nodes: z.array(cloudNodeSchema) });

/** The points within an outline. */
export const windowSchema = z.strictObject({
  points: z.number(),
  classCounts: z.record(z.string(), z.number()),
  /** Missing where there are no points. */
  lowest: z.number().optional(),
  highest: z.number().optional(),
  /** Nodes that had to be read, of all. */
  nodesRead: z.int(),
  nodes: z.int(),
});
export type CloudWindow = z.infer<typeof windowSchema>;

export const controlRoleSchema = z.enum(['control', 'check']);

/** A surveyed point, with what the cloud says there. */
export const controlPointSchema = z.strictObject({
  id: z.int(),
  number: z.string(),
  northing: z.number(),
  easting: z.number(),
  elevation: z.number(),
  code: z.string(),
  role: controlRoleSchema,
  /** Missing where the cloud has too few points near it. */
  cloudElevation: z.number().optional(),
  /** Cloud less survey. */
  difference: z.number().optional(),
  /** Points the cloud's elevation rests on. */
  nearPoints: z.int(),
});
export type ControlPoint = z.infer<typeof controlPointSchema>;

export const controlLookSchema = z.strictObject({
  /** How far round each point the cloud was looked at, job units. */
  radius: z.number(),
  points: z.array(controlPointSchema),
  pattern: z
    .strictObject({
      count: z.int(),
      mean: z.number(),
      rmse: z.number(),
      worst: z.number(),
      tilt: z.number(),
      isTilted: z.boolean(),
      bow: z.number(),
      isBowed: z.boolean(),
      unitRatio: z.enum(['feet-as-metres', 'metres-as-feet', 'survey-foot']).optional(),
    })
    .optional(),
});
export type ControlLook = z.infer<typeof controlLookSchema>;

/** What was gathered of a cloud as it came in. */
export const cloudReportSchema = z.strictObject({
  /** Findings for the surveyor, the gravest first. */
  findings: z.array(z.strictObject({ level: z.enum(['warning', 'note']), message: z.string() })),
  intensity: z.strictObject({ low: z.number(), high: z.number(), counts: z.array(z.number()) }),
  elevation: z.strictObject({ low: z.number(), high: z.number(), counts: z.array(z.number()) }),
  /** Points that are the only, the first, an intermediate or the last return of their pulse. */
  returns: z.strictObject({ single: z.number(), first: z.number(), intermediate: z.number(), last: z.number() }),
  /** Standard GPS seconds or seconds of the week, as the file has them. */
  time: z.strictObject({ first: z.number(), last: z.number() }).optional(),
  density: z.strictObject({
    /** Points and pulses a square unit where there are any. */
    points: z.number(),
    pulses: z.number(),
    spacing: z.number(),
    /** Area with points, square units. */
    area: z.number(),
    /** Cells without a point inside the cloud's outline, share of all. */
    voidShare: z.number(),
    map: z.strictObject({ columns: z.int(), rows: z.int(), cell: z.number(), counts: z.array(z.number()) }),
  }),
});
export type CloudReport = z.infer<typeof cloudReportSchema>;

/** Something that stands on the ground; see `ObjectGroup` in the core. */
export const objectGroupSchema = z.strictObject({
  classCode: z.int(),
  easting: z.number(),
  northing: z.number(),
  elevation: z.number(),
  height: z.number(),
  points: z.int(),
  area: z.number(),
  width: z.number(),
  footprint: z.array(z.tuple([z.number(), z.number()])),
  confidence: z.number(),
});
export type ObjectGroupResource = z.infer<typeof objectGroupSchema>;

/** What settings for ground would change in a window: points that would become ground, points that would cease to be. */
export const groundPreviewSchema = z.strictObject({
  gained: z.int(),
  lost: z.int(),
  /**
   * Points that would become ground or cease to be, one bit each, as base 64: by the settings, and by those they are held
   * against. The ones that only one of them changes are those counted.
   */
  nodes: z.array(z.strictObject({ nodeId: z.int(), bits: z.string(), kept: z.string().optional() })),
});
export type GroundPreview = z.infer<typeof groundPreviewSchema>;

/** A place of a surface to be looked at; see `SurfaceFault` in the core. */
export const surfaceFaultSchema = z.strictObject({
  kind: z.enum(SURFACE_FAULTS),
  easting: z.number(),
  northing: z.number(),
  elevation: z.number(),
  size: z.number(),
});
export type SurfaceFaultResource = z.infer<typeof surfaceFaultSchema>;

/** A place where the ground is most likely wrong; see `SuspectArea` in the core. */
export const suspectAreaSchema = z.strictObject({
  /** The same for the same place as long as the ground there stays. */
  key: z.string(),
  kind: z.enum(SUSPECT_KINDS),
  easting: z.number(),
  northing: z.number(),
  elevation: z.number(),
  width: z.number(),
  size: z.number(),
  outline: z.array(z.tuple([z.number(), z.number()])),
  weight: z.number(),
});
export type SuspectAreaResource = z.infer<typeof suspectAreaSchema>;

/** Settings proposed from what a cloud tells of itself, and why, a sentence each. */
export const settingsProposalSchema = z.strictObject({
  parameters: z.record(z.string(), z.union([z.number(), z.string(), z.boolean()])),
  reasons: z.array(z.string()),
});
export type SettingsProposal = z.infer<typeof settingsProposalSchema>;

export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.int(),
  detail: z.string(),
  instance: z.string().optional(),
  code: z.string(),
  fix: z.string().optional(),
  errors: z.array(z.strictObject({ pointer: z.string(), detail: z.string() })).optional(),
});
export type Problem = z.infer<typeof problemSchema>;

export const historyStateSchema = z.enum([
  'running',
  'done',
  'undone',
  'dropped',
  'failed',
  'cancelled',
  'interrupted',
]);
export const historyEntrySchema = z.strictObject({
  id: z.int(),
  operation: z.string(),
  stage: stageSchema,
  title: z.string(),
  parameters: z.record(z.string(), z.unknown()),
  state: historyStateSchema,
  /** One line: what changed. */
  outcome: z.string(),
  figures: z.array(figureSchema),
  startedAt: z.iso.datetime(),
  durationMs: z.number(),
  /** Clouds and products that it brought. */
  made: z.array(z.strictObject({ kind: z.enum(['cloud', 'product']), id: z.int() })),
});
export type HistoryEntry = z.infer<typeof historyEntrySchema>;
export const historySchema = z.strictObject({
  entries: z.array(historyEntrySchema),
  /** The step that undo takes back next and the one that redo brings back; null where there is none. */
  undoes: z.int().nullable(),
  redoes: z.int().nullable(),
});
export type History = z.infer<typeof historySchema>;

export const runSchema = z.strictObject({
  id: z.string(),
  operation: z.string(),
  title: z.string(),
  state: z.enum(['queued', 'running', 'done', 'failed', 'cancelled']),
  /** 0 to 1. */
  progress: z.number(),
  /** What it is at: "Writing nodes". */
  step: z.string(),
  startedAt: z.iso.datetime(),
  elapsedMs: z.number(),
  secondsLeft: z.number().optional(),
  outcome: z.string().optional(),
  /** The field book's entry, once done. */
  historyId: z.int().optional(),
  /** What it made: a cloud or a product. */
  productId: z.int().optional(),
  error: problemSchema.optional(),
});
export type Run = z.infer<typeof runSchema>;

/** What the server tells an open page: a run has moved on, or part of the job has changed and is worth reading again. */
export const jobEventSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('run'), run: runSchema }),
  z.strictObject({
    kind: z.literal('changed'),
    parts: z.array(z.enum(['clouds', 'products', 'control', 'history', 'pins', 'sheet-runs'])),
  }),
]);
export type JobEvent = z.infer<typeof jobEventSchema>;

/** What a job holds, and how much room it takes. */
export const holdingsSchema = z.strictObject({
  things: z.array(
    z.strictObject({
      kind: z.enum(['cloud', 'control', ...productKindIds]),
      /** Of survey points: the step that brought them in. */
      id: z.int(),
      name: z.string(),
      bytes: z.int(),
      /** Names of the products that were made from it. */
      usedBy: z.array(z.string()),
    }),
  ),
  /** What nothing but Undo needs: removed and replaced clouds and products, their bytes with those of earlier classes. */
  undo: z.strictObject({ bytes: z.int(), clouds: z.int(), products: z.int() }),
});
export type Holdings = z.infer<typeof holdingsSchema>;

export const workbenchSchema = z.strictObject({
  job: jobSchema,
  clouds: z.array(cloudSchema),
  /** Clouds on their way in, as far as they can be looked at: an even sample, and what is stored by now. */
  comingIn: z.array(cloudSchema),
  products: z.array(productSchema),
  /** Surveyed points there are. */
  controlCount: z.int(),
  history: historySchema,
  runs: z.array(runSchema),
  /** Names and colours that the surveyor gave to classes. */
  classes: z.array(jobClassSchema),
  /** The code list. */
  codes: z.array(featureCodeSchema),
  /** What the surveyor pinned down: places, measures, views and selections by name. */
  pins: z.array(pinSchema),
});
export type Workbench = z.infer<typeof workbenchSchema>;
