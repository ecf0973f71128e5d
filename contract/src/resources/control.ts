import { z } from 'zod';

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
