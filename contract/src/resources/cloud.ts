import { z } from 'zod';
import { crsSchema } from './crs.js';

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
