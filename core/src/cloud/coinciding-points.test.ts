import { describe, expect, test } from 'vitest';
import { buildOctree } from './octree.js';

/** Codes of points at so many places, so many at each. */
function codesAt(
  places: readonly (readonly [number, number, number])[],
  each: number,
): [Int32Array, Int32Array, Int32Array] {
  const count = places.length * each;
  const codes: [Int32Array, Int32Array, Int32Array] = [
    new Int32Array(count),
    new Int32Array(count),
    new Int32Array(count),
  ];
  for (let i = 0; i < count; i++)
    for (const axis of [0, 1, 2] as const) codes[axis][i] = places[i % places.length]![axis];
  return codes;
}

describe('points that coincide', () => {
  test('a quarter of a million at one place are stored in a moment, each once, in nodes of one cell', () => {
    const begun = performance.now();
    const nodes = buildOctree(codesAt([[0, 0, 0]], 250_000));
    expect(performance.now() - begun).toBeLessThan(3000);
    const seen = new Uint8Array(250_000);
    for (const { order } of nodes) {
      expect(order.length).toBeLessThanOrEqual(65_535);
      for (const i of order) seen[i]!++;
    }
    expect(seen.every((times) => times === 1)).toBe(true);
    expect(nodes.length).toBeLessThan(25);
  });

  test('at two far corners they are told apart and stored whole', () => {
    const most = 2 ** 21 - 1;
    const nodes = buildOctree(
      codesAt(
        [
          [0, 0, 0],
          [most, most, most],
        ],
        100_000,
      ),
    );
    expect(nodes.reduce((sum, { order }) => sum + order.length, 0)).toBe(200_000);
    const deepest = nodes.filter(({ level }) => level === 14);
    expect(new Set(deepest.map(({ cell }) => cell.join())).size).toBe(2);
  });

  test('give the same nodes every time', () => {
    const codes = codesAt(
      [
        [5, 9, 2],
        [5, 9, 3],
        [1_000_000, 2, 7],
      ],
      70_000,
    );
    expect(buildOctree(codes)).toEqual(buildOctree(codes));
  });
});
