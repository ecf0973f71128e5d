import type { ProductHome } from './product-home.js';

export const home: ProductHome<'accuracy'> = {
  kind: 'accuracy',
  writers: {
    // The library that writes PDF is loaded when one is asked for.
    pdf: async ({ job }, product) => ({ stream: (await import('./accuracy-report.js')).accuracyPdf(job, product) }),
    csv: async (_, product) => ({ bytes: (await import('./accuracy-report.js')).accuracyCsv(product) }),
  },
};
