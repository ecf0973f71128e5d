import fc from 'fast-check';
import { expect, test } from 'vitest';
import { squaredDistances } from './index.js';

test('are those to the nearest source, as trying them all tells', () => {
  const sizes = fc.tuple(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 12 }));
  const raster = sizes.chain(([columns, rows]) =>
    fc.tuple(fc.constant({ columns, rows }), fc.array(fc.constantFrom(0, 0, 0, 1), { minLength: columns * rows, maxLength: columns * rows })),
  ); // prettier-ignore
  fc.assert(
    fc.property(raster, ([{ columns, rows }, isSource]) => {
      const found = squaredDistances({ columns, rows }, isSource);
      for (let at = 0; at < found.length; at++) {
        let nearest = Infinity;
        isSource.forEach((is, k) => {
          const [dx, dy] = [(at % columns) - (k % columns), Math.floor(at / columns) - Math.floor(k / columns)];
          if (is === 1) nearest = Math.min(nearest, dx * dx + dy * dy);
        });
        expect(found[at]).toBe(nearest);
      }
    }),
  );
});
