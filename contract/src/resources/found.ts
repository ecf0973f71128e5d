import { SUSPECT_KINDS } from '@pampero/core/ground';
import { SURFACE_FAULTS } from '@pampero/core/terrain';
import { z } from 'zod';

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
