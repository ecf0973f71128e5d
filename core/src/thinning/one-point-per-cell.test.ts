import fc from 'fast-check';
import { expect, test } from 'vitest';
import { onePointPerCell } from './one-point-per-cell.js';

test('of each cell the point nearest the mean height is kept', () => {
  const e = Float64Array.of(0.1, 0.5, 0.9, 5.5);
  const n = Float64Array.of(0.1, 0.5, 0.9, 0.5);
  // Mean of the first cell: (10 + 11 + 15) / 3 = 12; 11 is nearest.
  expect([...onePointPerCell(e, n, Float64Array.of(10, 11, 15, 7), 1)]).toEqual([1, 3]);
});

test('every occupied cell keeps exactly one of its own points, also across zero and at large coordinates', () => {
  const site = fc.tuple(
    fc.integer({ min: -40, max: 40 }),
    fc.integer({ min: -40, max: 40 }),
    fc.integer({ min: 0, max: 9 }),
  );
  fc.assert(
    fc.property(fc.array(site, { maxLength: 200 }), fc.constantFrom(0, 5_512_000), (sites, shift) => {
      const e = Float64Array.from(sites, (s) => shift + s[0] / 4);
      const n = Float64Array.from(sites, (s) => shift + s[1] / 4);
      const kept = onePointPerCell(
        e,
        n,
        Float64Array.from(sites, (s) => s[2]),
        2.5,
      );
      const cellOf = (i: number): string => `${Math.floor(e[i]! / 2.5)} ${Math.floor(n[i]! / 2.5)}`;
      expect(new Set([...kept].map(cellOf)).size).toBe(kept.length);
      expect(kept.length).toBe(new Set(sites.map((_, i) => cellOf(i))).size);
    }),
    { seed: 99, numRuns: 200 },
  );
});
