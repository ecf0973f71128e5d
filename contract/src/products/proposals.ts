import { BREAK_KINDS } from '@pampero/core/breaks';
import { formatCounted } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

/** Lines that were found and wait to be accepted or refused. */
export const proposals = productKind({
  id: 'proposals',
  name: { one: 'Proposed lines', many: 'Proposed lines' },
  facts: z.strictObject({
    kind: z.enum(BREAK_KINDS),
    proposed: z.int(),
    accepted: z.int(),
    refused: z.int(),
    /** Of those that wait, all together. */
    length: z.number(),
  }),
  layer: { unit: 'waiting', count: ({ proposed, accepted, refused }) => proposed - accepted - refused },
  describe: ({ proposed, accepted, refused }) =>
    `${formatCounted(proposed, 'proposal')}, ${accepted} accepted, ${refused} refused`,
  formats: [{ id: 'geojson', label: 'GeoJSON', ending: '.geojson', mediaType: 'application/geo+json' }],
  cannotRebuild: ({ accepted, refused }) =>
    accepted + refused > 0 ? 'Some of its proposals were judged. Find breaks again for new ones.' : undefined,
});
