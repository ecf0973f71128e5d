import { shapeOf } from '@pampero/core/lines';
import { describe, expect, test } from 'vitest';
import { coarserSegments, shapeSegments } from './line-segments';

const line = (places: readonly (readonly [number, number, number?])[], isClosed = false) =>
  shapeOf(
    places.map(([e, n, z]) => ({ e: 5_512_000 + e, n: 6_150_000 + n, z: z ?? NaN, source: 0 })),
    isClosed,
  );
const origin = [5_512_000, 6_150_000, 20] as const;

describe('segments of lines about the scene’s origin', () => {
  test('one a leg; a ring has one more', () => {
    const places = [[0, 0, 21], [4, 0, 22], [4, 3, 23]] as const; // prettier-ignore
    expect([...shapeSegments([line(places)], origin, 'solid', 1)]).toEqual([0, 0, 1, 4, 0, 2, 4, 0, 2, 4, 3, 3]);
    expect(shapeSegments([line(places, true)], origin, 'solid', 1)).toHaveLength(18);
  });

  test('a corner without an elevation lies at that of the one before it', () => {
    expect([...shapeSegments([line([[0, 0, 25], [1, 0]])], origin, 'solid', 1)]).toEqual([0, 0, 5, 1, 0, 5]); // prettier-ignore
    expect([...shapeSegments([line([[0, 0], [1, 0]])], origin, 'solid', 1)].filter((_, k) => k % 3 === 2)).toEqual([0, 0]); // prettier-ignore
  });

  test('dashes of 2.4 m and gaps of 1.6 m go on round a corner', () => {
    const dashed = shapeSegments([line([[0, 0, 20], [4, 0, 20], [4, 4, 20]])], origin, 'dashed', 1); // prettier-ignore
    const lengths = Array.from({ length: dashed.length / 6 }, (_, k) => Math.hypot(dashed[6 * k + 3]! - dashed[6 * k]!, dashed[6 * k + 4]! - dashed[6 * k + 1]!)); // prettier-ignore
    expect(lengths.map((length) => Number(length.toFixed(3)))).toEqual([2.4, 2.4]);
  });
});

describe('fewer legs while the view moves', () => {
  const segments = (...lines: ReturnType<typeof line>[]) => shapeSegments(lines, origin, 'solid', 1);

  test('legs are joined until they span far enough; another line is not joined to them', () => {
    const way = line([[0, 0, 20], [1, 0, 20], [2, 1, 20], [3, 0, 20], [4, 0, 20]]); // prettier-ignore
    const two = segments(way, line([[9, 9, 20], [9, 8, 20]])); // prettier-ignore
    expect([...coarserSegments(two, 3)]).toEqual([0, 0, 0, 3, 0, 0, 3, 0, 0, 4, 0, 0, 9, 9, 0, 9, 8, 0]);
  });

  test('a leg that is long already stays as it is', () => {
    const long = segments(line([[0, 0, 20], [50, 0, 20], [50, 1, 20], [50, 60, 20]])); // prettier-ignore
    expect([...coarserSegments(long, 10)]).toEqual([0, 0, 0, 50, 0, 0, 50, 0, 0, 50, 60, 0]);
  });

  test('a ring smaller than the span does not vanish: it is a leg to its farthest vertex', () => {
    const ring = line([[0, 0, 20], [4, 0, 20], [4, 3, 20], [0, 3, 20]], true); // prettier-ignore
    expect([...coarserSegments(segments(ring), 100)]).toEqual([0, 0, 0, 4, 3, 0]);
    const after = line([[9, 9, 20], [9, 8, 20]]); // prettier-ignore
    expect([...coarserSegments(segments(ring, after), 100)]).toEqual([0, 0, 0, 4, 3, 0, 9, 9, 0, 9, 8, 0]);
  });
});
