import { expect } from 'vitest';
import type { Tin } from './index.js';
import { nextSide as after } from './half-edges.js';
import { orientation } from './orientation.js';

/** Neighbours agree, every triangle runs counter-clockwise, and every corner is used. */
export function isWhole(tin: Tin): void {
  const { facets, twins, easting: e, northing: n } = tin;
  const used = new Set(facets);
  expect(used.size).toBe(e.length);
  for (let h = 0; h < facets.length; h++) {
    const twin = twins[h]!;
    if (twin >= 0) {
      expect(twins[twin]).toBe(h);
      expect([facets[h], facets[after(h)]]).toEqual([facets[after(twin)], facets[twin]]);
    }
    if (h % 3 === 0) {
      const [a, b, c] = [facets[h]!, facets[h + 1]!, facets[h + 2]!];
      expect(orientation(e[a]!, n[a]!, e[b]!, n[b]!, e[c]!, n[c]!)).toBeGreaterThan(0);
    }
  }
}
