import { lengthUnits } from '@pampero/core/geodesy';
import { csvTable } from './csv-table.js';
import { inputsInWords, type ProductHome } from './product-home.js';

export const home: ProductHome<'volume'> = {
  kind: 'volume',
  writers: {
    csv: ({ job }, { name, madeAt, isStale, facts, parameters, inputs }) => {
      const { short } = lengthUnits[job.unit];
      const { cut, fill, cutArea, fillArea, uncovered } = facts;
      const { swell = 1, shrink = 1 } = parameters as { swell?: number; shrink?: number };
      return Promise.resolve({
        bytes: csvTable([
          ['what', 'value', 'unit'],
          ['Job', job.name, ''],
          ['Volume', name, isStale ? 'stale' : ''],
          ['Measured', madeAt, ''],
          ['Made from', inputsInWords(inputs), ''],
          ['Method', 'exact over the triangles of both surfaces', ''],
          ['Cut', cut.toFixed(3), `${short}3`],
          ['Fill', fill.toFixed(3), `${short}3`],
          ['Net, fill minus cut', (fill - cut).toFixed(3), `${short}3`],
          ['Area of cut', cutArea.toFixed(2), `${short}2`],
          ['Area of fill', fillArea.toFixed(2), `${short}2`],
          ['Swell of cut', String(swell), ''],
          ['Cut, loose', (cut * swell).toFixed(3), `${short}3`],
          ['Shrink of fill', String(shrink), ''],
          ['Fill to bring', (fill / shrink).toFixed(3), `${short}3`],
          ['Area left out: no second surface there', uncovered.toFixed(2), `${short}2`],
        ]),
      });
    },
  },
};
