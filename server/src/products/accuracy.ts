import { accuracyCsv, accuracyPdf } from './accuracy-report.js';
import type { ProductHome } from './product-home.js';

export const home: ProductHome<'accuracy'> = {
  kind: 'accuracy',
  writers: {
    pdf: ({ job }, product) => Promise.resolve({ stream: accuracyPdf(job, product) }),
    csv: (_, product) => Promise.resolve({ bytes: accuracyCsv(product) }),
  },
};
