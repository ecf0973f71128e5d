import { z } from 'zod';

/** Where the pixels of something lie: see `PictureFrame` of the core. */
export const placementFields = {
  columns: z.int(),
  rows: z.int(),
  east: z.number(),
  eastPerColumn: z.number(),
  eastPerRow: z.number(),
  north: z.number(),
  northPerColumn: z.number(),
  northPerRow: z.number(),
};
