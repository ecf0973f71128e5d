import { z } from 'zod';
import { lineOfText } from './text.js';
import { boundsSchema } from './resources/cloud.js';
import { crsSchema, lengthUnitSchema } from './resources/crs.js';
import { textLayoutSchema } from './text-layout.js';

/** A file that is to come in: sent in pieces before, or lying in the folder that the server's settings name. */
export const incomingFileSchema = z.union([
  z.strictObject({
    uploadId: z.string().regex(/^[a-zA-Z0-9-]{8,64}$/, 'That is no upload.'),
    fileName: lineOfText(255).min(1),
  }),
  z.strictObject({ folderPath: lineOfText(1000).min(1) }),
]);
export type IncomingFile = z.infer<typeof incomingFileSchema>;

/** The system a file's coordinates are in: one of the EPSG list, or a definition of one's own as a PROJ string. */
export const crsChoiceSchema = z.union([
  z.strictObject({ epsg: z.int().positive() }),
  z.strictObject({
    definition: lineOfText(2000).min(6),
    /** To WGS 84 by position vector: three shifts in metres, three turns in seconds of arc, parts per million. */
    sevenParameters: z
      .tuple([z.number(), z.number(), z.number(), z.number(), z.number(), z.number(), z.number()])
      .optional(),
  }),
]);
export type CrsChoice = z.infer<typeof crsChoiceSchema>;

/** What is done to elevations on the way in. */
export const heightsSchema = z.strictObject({
  /** What the file's elevations are in; what it says, or the unit of its coordinates, when left out. */
  unit: lengthUnitSchema.optional(),
  /** Added to every elevation, in the job's unit. */
  shift: z.number().min(-10_000).max(10_000).default(0),
  /** A geoid grid: elevations are above the ellipsoid and become heights above the geoid. */
  geoid: lineOfText(120).min(1).optional(),
});

export const findingSchema = z.strictObject({ level: z.enum(['warning', 'note']), message: z.string() });
export type Finding = z.infer<typeof findingSchema>;

/** What a file says of itself before any of it comes in. */
export const fileLookSchema = z.strictObject({
  fileName: z.string(),
  fileBytes: z.number(),
  format: z.string(),
  /** Missing where the format does not say and only reading all of it would tell. */
  pointCount: z.number().optional(),
  software: z.string().optional(),
  crs: crsSchema.optional(),
  /** In the file's own numbers: as its header states, or those of the points looked at. */
  bounds: boundsSchema.optional(),
  /** Points that were looked at for the bounds; 0 where the header states them. */
  sampledPoints: z.number(),
  /** Where it would lie in the job, if it can be told. */
  boundsInJob: boundsSchema.optional(),
  attributes: z.array(z.string()),
  /** Scans of an E57 file that lie far from the others, metres. */
  scansApart: z.array(z.strictObject({ number: z.int(), name: z.string(), distance: z.number() })).optional(),
  findings: z.array(findingSchema),
  /** First lines of a text file, and how they would be read. */
  text: z.strictObject({ lines: z.array(z.string()), layout: textLayoutSchema.optional() }).optional(),
});
export type FileLook = z.infer<typeof fileLookSchema>;

export const folderSchema = z.strictObject({
  /** False where no folder is set: then there is nothing to pick from. */
  isSet: z.boolean(),
  path: z.string(),
  entries: z.array(
    z.strictObject({ name: z.string(), isFolder: z.boolean(), bytes: z.number(), changedAt: z.iso.datetime() }),
  ),
});
export type Folder = z.infer<typeof folderSchema>;

export const geoidSchema = z.strictObject({
  name: z.string(),
  /** South, west, north, east, in degrees. */
  area: z.tuple([z.number(), z.number(), z.number(), z.number()]),
});
export type Geoid = z.infer<typeof geoidSchema>;
