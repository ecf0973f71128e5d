import { lengthUnits } from '@pampero/core/geodesy';
import { csvTable } from './csv-table.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'class-table'> = {
  kind: 'class-table',
  writers: {
    csv: ({ job }, { facts: { rows } }) => {
      const { short } = lengthUnits[job.unit];
      const all = rows.reduce((sum, { points, withheld }) => sum + points + withheld, 0);
      const elevation = (value: number | undefined): string => value?.toFixed(3) ?? '';
      return Promise.resolve({
        bytes: csvTable([
          ['class', 'name', 'points', 'withheld', 'share', `lowest ${short}`, `highest ${short}`],
          ...rows.map(({ code, name, points, withheld, lowest, highest }) => [
            String(code),
            name,
            String(points),
            String(withheld),
            ((points + withheld) / all).toFixed(6),
            elevation(lowest),
            elevation(highest),
          ]),
        ]),
      });
    },
  },
};
