import { formatCount } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

/** A numbered point, in the coordinates of the job. */
export const spotPointSchema = z.strictObject({
  number: z.string(),
  easting: z.number(),
  northing: z.number(),
  elevation: z.number(),
  code: z.string(),
});
export type SpotPoint = z.infer<typeof spotPointSchema>;

const csv = { ending: '.csv', mediaType: 'text/csv' } as const;

export const spots = productKind({
  id: 'spots',
  name: { one: 'Numbered points', many: 'Numbered points' },
  facts: z.strictObject({
    count: z.int(),
    first: z.string(),
    last: z.string(),
    layer: z.string(),
    decimals: z.int(),
    /** Numbers or codes were changed by hand since. */
    isEdited: z.boolean().optional(),
  }),
  describe: ({ count }) => `${formatCount(count)} numbered points`,
  cannotRebuild: ({ isEdited }) =>
    isEdited ? 'Its numbers or codes were edited by hand: number the points again.' : undefined,
  formats: [
    { id: 'csv-pnezd', label: 'CSV: P N E Z D', ...csv, ending: '-PNEZD.csv', suits: ['cad', 'gis'] },
    { id: 'csv-penzd', label: 'P E N Z D', ...csv, ending: '-PENZD.csv' },
    { id: 'csv-nezd', label: 'N E Z D', ...csv, ending: '-NEZD.csv' },
    { id: 'csv-enzd', label: 'E N Z D', ...csv, ending: '-ENZD.csv' },
    { id: 'dxf', label: 'DXF', ending: '.dxf', mediaType: 'image/vnd.dxf', suits: ['cad'] },
  ],
});
