import { csvTable } from './csv-table.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'strips'> = {
  kind: 'strips',
  writers: {
    csv: (_site, { facts: { strips } }) =>
      Promise.resolve({
        bytes: csvTable([
          [
            'strip',
            'name',
            'source id',
            'from',
            'to',
            'points',
            'length',
            'heading',
            'speed',
            'height over ground',
            'left out',
          ],
          ...strips.map((s) => [
            String(s.number),
            s.name,
            s.sourceId?.toString() ?? '',
            s.from?.toFixed(3) ?? '',
            s.to?.toFixed(3) ?? '',
            String(s.points),
            s.length?.toFixed(1) ?? '',
            s.heading?.toFixed(1) ?? '',
            s.speed?.toFixed(2) ?? '',
            s.heightOverGround?.toFixed(1) ?? '',
            s.isLeftOut ? 'yes' : 'no',
          ]),
        ]),
      }),
  },
};
