import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { priorityOf, thinningMargin, thinPoints, THINNING_METHODS, type ThinningOptions } from './thin-points.js';

const random = seededRandom(31);
const points = Array.from({ length: 12_000 }, () => {
  const [x, y] = [random() * 60, random() * 60];
  return [x, y, Math.sin(x / 9) * 2 + random() * 0.2] as const;
});
function asPlaces(list: readonly (readonly [number, number, number])[]) {
  return {
    places: {
      count: list.length,
      x: Float64Array.from(list, (p) => p[0]),
      y: Float64Array.from(list, (p) => p[1]),
      z: Float64Array.from(list, (p) => p[2]),
    },
    priorities: Uint32Array.from(list, ([x, y, z]) =>
      priorityOf(Math.round(x * 1000), Math.round(y * 1000), Math.round(z * 1000)),
    ),
  };
}
const thin = (list: readonly (readonly [number, number, number])[], options: ThinningOptions, count = list.length) => {
  const { places, priorities } = asPlaces(list);
  return thinPoints(places, priorities, options, count);
};

describe('spacing', () => {
  const options: ThinningOptions = { method: 'spacing', distance: 1.5, share: 1 };
  const thinned = thin(points, options);
  const kept = points.filter((_, i) => thinned[i] === 1);
  function near([ax, ay, az]: readonly number[], [bx, by, bz]: readonly number[]): number {
    return Math.hypot(ax! - bx!, ay! - by!, az! - bz!);
  }

  test('no two that stay are nearer than the spacing', () => {
    for (let i = 0; i < kept.length; i++)
      for (let j = i + 1; j < kept.length; j++) expect(near(kept[i]!, kept[j]!)).toBeGreaterThanOrEqual(1.5);
  });

  test('every one that went has one that stayed within the spacing', () => {
    points.forEach((point, i) => {
      if (thinned[i] === 0) expect(kept.some((other) => near(point, other) < 1.5)).toBe(true);
    });
  });

  test('a single point stays, of two at one place one', () => {
    expect([...thin([[1, 1, 1]], options)]).toEqual([1]);
    expect([...thin([[1, 1, 1], [1, 1, 1]], options)].sort()).toEqual([0, 1]); // prettier-ignore
    expect(thin([], options)).toHaveLength(0);
  });
});
test('one a cell: the lowest, the highest, the middle one and the one nearest the mean', () => {
  const cell = [[0.1, 0.1, 5], [0.2, 0.2, 1], [0.3, 0.1, 2], [0.4, 0.4, 9], [0.1, 0.4, 3]] as const; // prettier-ignore
  const stays = (method: ThinningOptions['method']) =>
    cell[thin(cell, { method, distance: 1, share: 1 }).indexOf(1)]![2];
  expect(stays('lowest')).toBe(1);
  expect(stays('highest')).toBe(9);
  expect(stays('median')).toBe(3);
  expect(stays('nearest-mean')).toBe(3); // the mean is 4; of 3 and 5, as near, the lower
});

test('a share at random is about that share, and the same points each time', () => {
  const options: ThinningOptions = { method: 'random', distance: 1, share: 0.25 };
  const mask = thin(points, options);
  expect(mask.reduce((sum, bit) => sum + bit, 0) / points.length).toBeCloseTo(0.25, 1);
  expect(thin([...points].reverse(), options)).toEqual(mask.slice().reverse());
});

test.each(THINNING_METHODS)('%s: land in pieces with a margin, in any order, gives what it gives whole', (method) => {
  const options: ThinningOptions = { method, distance: 1, share: 0.3 };
  const whole = thin(points, options);
  const margin = thinningMargin(options);
  for (const isWest of [true, false]) {
    const own = points.filter(([x]) => x < 30 === isWest).reverse();
    const rest = points.filter(([x]) => x < 30 !== isWest && Math.abs(x - 30) <= margin);
    const part = thin([...own, ...rest], options, own.length);
    const expected = new Map(points.map((point, i) => [point, whole[i]]));
    own.forEach((point, k) => expect(part[k]).toBe(expected.get(point)));
  }
});
