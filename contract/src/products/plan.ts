import { formatCounted } from '@pampero/core/wording';
import { z } from 'zod';
import { productKind } from './product-kind.js';

export const plan = productKind({
  id: 'plan',
  name: { one: 'Plan', many: 'Plans' },
  facts: z.strictObject({
    /** 1 to so many. */
    scale: z.number(),
    /** As it is said: "A3 landscape". */
    paper: z.string(),
    sheets: z.int(),
  }),
  describe: ({ scale, paper, sheets }) => `1 : ${scale}, ${formatCounted(sheets, 'sheet')} of ${paper}`,
  formats: [{ id: 'pdf', label: 'PDF', ending: '.pdf', mediaType: 'application/pdf', suits: ['cad', 'client'] }],
});
