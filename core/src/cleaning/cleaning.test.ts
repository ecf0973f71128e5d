import { spawnSync } from 'node:child_process';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import {
  addDistanceSums,
  floatingPoints,
  isolatedPoints,
  lowPoints,
  meanNeighbourDistances,
  outlierThreshold,
  statisticalOutliers,
  sumDistances,
  type Places,
} from './index.js';

function places(list: readonly (readonly [number, number, number])[]): Places {
  return {
    count: list.length,
    x: Float64Array.from(list, ([x]) => x),
    y: Float64Array.from(list, ([, y]) => y),
    z: Float64Array.from(list, ([, , z]) => z),
  };
}

/** Rolling land of one point a quarter metre, with scatter, and whatever is planted in it. */
function land(planted: readonly (readonly [number, number, number])[] = [], side = 40, step = 0.5, seed = 3): Places {
  const random = seededRandom(seed);
  const list: [number, number, number][] = [];
  for (let x = 0; x < side; x += step)
    for (let y = 0; y < side; y += step)
      list.push([
        x + random() * step * 0.8,
        y + random() * step * 0.8,
        2 * Math.sin(x / 9) + y * 0.05 + (random() - 0.5) * 0.06,
      ]);
  return places([...list, ...planted.map(([x, y, z]): [number, number, number] => [x, y, z])]);
}
const groundAt = (x: number, y: number): number => 2 * Math.sin(x / 9) + y * 0.05;

/** Asks SciPy's k-d tree; the same packages the other comparisons use. */
function scipy(script: string, points: Places): number[] {
  const input = JSON.stringify({ p: Array.from(points.x, (x, i) => [x, points.y[i], points.z[i]]) });
  const done = spawnSync(
    'python3',
    [
      '-c',
      `import json,sys\nimport numpy as np\nfrom scipy.spatial import cKDTree\np=np.array(json.load(sys.stdin)["p"])\n${script}`,
    ],
    { input, encoding: 'utf8', maxBuffer: 1 << 28 },
  );
  expect(done.stderr).toBe('');
  return JSON.parse(done.stdout) as number[];
}

describe('isolated points', () => {
  test('four in a row at a metre: the one further off is alone', () => {
    const row = places([[0, 0, 0], [1, 0, 0], [2, 0, 0], [9, 0, 0]]); // prettier-ignore
    expect([...isolatedPoints(row, { radius: 1, leastNeighbours: 1 })]).toEqual([0, 0, 0, 1]);
    expect([...isolatedPoints(row, { radius: 1, leastNeighbours: 2 })]).toEqual([1, 0, 1, 1]);
    expect([...isolatedPoints(row, { radius: 1, leastNeighbours: 0 })]).toEqual([0, 0, 0, 0]);
  });

  test('the same as SciPy’s cKDTree counts', () => {
    const random = seededRandom(8);
    const cloud = land(Array.from({ length: 300 }, () => [random() * 40, random() * 40, random() * 30 - 10] as const));
    const counts = scipy(
      't=cKDTree(p)\nprint(json.dumps([int(n)-1 for n in t.query_ball_point(p,0.9,return_length=True)]))',
      cloud,
    );
    for (const least of [1, 3, 6])
      expect([...isolatedPoints(cloud, { radius: 0.9, leastNeighbours: least })]).toEqual(
        counts.map((n) => (n < least ? 1 : 0)),
      );
  });

  test('land in tiles with a margin gives what it gives whole', () => {
    const random = seededRandom(4);
    const cloud = land(Array.from({ length: 200 }, () => [random() * 40, random() * 40, random() * 20] as const));
    const whole = isolatedPoints(cloud, { radius: 1, leastNeighbours: 4 });
    for (const cut of [7.3, 20, 31.1]) {
      const own: number[] = [];
      const margin: number[] = [];
      for (let i = 0; i < cloud.count; i++)
        if (cloud.x[i]! < cut) own.push(i);
        else if (cloud.x[i]! < cut + 1) margin.push(i);
      const all = [...own, ...margin];
      const part = places(all.map((i) => [cloud.x[i]!, cloud.y[i]!, cloud.z[i]!]));
      const mask = isolatedPoints(part, { radius: 1, leastNeighbours: 4 }, own.length);
      own.forEach((i, k) => expect(mask[k]).toBe(whole[i]));
    }
  });
});

describe('statistical outliers (Rusu et al. 2008)', () => {
  test('mean distances are those of SciPy’s k nearest neighbours', () => {
    const random = seededRandom(9);
    const cloud = land(Array.from({ length: 60 }, () => [random() * 40, random() * 40, random() * 30] as const));
    const exact = scipy(
      't=cKDTree(p)\nd,_=t.query(p,k=9)\nprint(json.dumps([float(v) for v in d[:,1:].mean(axis=1)]))',
      cloud,
    );
    const ours = meanNeighbourDistances(cloud, 8, 60);
    ours.forEach((d, i) => expect(d).toBeCloseTo(exact[i]!, 5));
  });

  test('a worked case: five on a line a metre apart and one ten off, k 2', () => {
    const line = places([[0, 0, 0], [1, 0, 0], [2, 0, 0], [3, 0, 0], [4, 0, 0], [14, 0, 0]]); // prettier-ignore
    const distances = meanNeighbourDistances(line, 2, 100);
    expect([...distances]).toEqual([1.5, 1, 1, 1, 1.5, 10.5]);
    // Mean 16.5/6 = 2.75, variance (2·1.25² + 3·1.75² + 7.75²)/6 = 12.0625 (population), σ 3.473.
    expect(outlierThreshold(sumDistances(distances), 1)).toBeCloseTo(2.75 + Math.sqrt(12.0625), 6);
    expect([...statisticalOutliers(line, { neighbours: 2, deviations: 1 }, 100)]).toEqual([0, 0, 0, 0, 0, 1]);
  });

  test('sums of parts are the sum of the whole', () => {
    const d = Float32Array.from({ length: 1000 }, (_, i) => Math.abs(Math.sin(i)));
    const parts = addDistanceSums(sumDistances(d.subarray(0, 333)), sumDistances(d.subarray(333)));
    expect(outlierThreshold(parts, 2)).toBeCloseTo(outlierThreshold(sumDistances(d), 2), 9);
  });

  test('duplicates, a single point and none at all are no trouble', () => {
    expect(statisticalOutliers(places([]), { neighbours: 8, deviations: 2 }, 5).length).toBe(0);
    expect([...statisticalOutliers(places([[1, 1, 1]]), { neighbours: 8, deviations: 2 }, 5)]).toEqual([0]);
    const same = places(Array.from({ length: 500 }, () => [5, 5, 5] as const));
    expect(Math.max(...statisticalOutliers(same, { neighbours: 8, deviations: 2 }, 5))).toBe(0);
    expect(Math.max(...isolatedPoints(same, { radius: 1, leastNeighbours: 5 }))).toBe(0);
  });
});

describe('low points', () => {
  const options = { radius: 3, drop: 0.5, largestCluster: 4 };

  test('planted ones, alone and by threes, are found and nothing else is', () => {
    const planted = [
      [10, 10, groundAt(10, 10) - 2],
      [25, 12, groundAt(25, 12) - 1.4],
      [30, 30, groundAt(30, 30) - 5],
      [30.3, 30.1, groundAt(30, 30) - 5.2],
      [30.1, 30.4, groundAt(30, 30) - 4.9],
    ] as const;
    const cloud = land(planted);
    const mask = lowPoints(cloud, options);
    expect([...mask.subarray(cloud.count - 5)]).toEqual([1, 1, 1, 1, 1]);
    expect(mask.subarray(0, cloud.count - 5).reduce((sum, bit) => sum + bit, 0)).toBe(0);
  });

  test('sparse returns from water between banks are no low points', () => {
    const random = seededRandom(6);
    const list: [number, number, number][] = [];
    for (let x = 0; x < 40; x += 0.5)
      for (let y = 0; y < 40; y += 0.5) {
        const isWater = Math.abs(x - 20) < 5;
        if (!isWater || random() < 0.05) list.push([x + random() * 0.3, y + random() * 0.3, isWater ? -2 : 0]);
      }
    expect(Math.max(...lowPoints(places(list), options))).toBe(0);
  });

  test('each point is judged by all others about it: the rule done word for word gives the same', () => {
    for (const [seed, depth, near] of [
      [1, 1, 0.5],
      [2, 3, 0.9],
      [3, 0.6, 0.12],
    ] as const) {
      const random = seededRandom(seed);
      const list: [number, number, number][] = [];
      // Land with holes in it, crowns that thin out, and false points alone and in heaps.
      for (let i = 0; i < 1500; i++) {
        const [x, y] = [24 * random(), 24 * random()];
        const u = random();
        if (x > 8 && x < 12 && u > 0.1) continue;
        list.push([x, y, u < 0.04 ? -depth * (1 + random()) : u < 0.3 ? 6 * random() ** 2 : 0.03 * random()]);
      }
      const own = { radius: 3, drop: near, largestCluster: 4 };
      const cloud = places(list);
      const byWord = list.map(([x, y, z]) => {
        let [below, higher] = [0, 0];
        const alike = [0, 0, 0, 0];
        for (const [u, v, w] of list) {
          const d = Math.hypot(u - x, v - y);
          if (d > own.radius) continue;
          const side = (u >= x ? 0 : 2) + (v >= y ? 0 : 1);
          if (w >= z + own.drop) higher |= 1 << side;
          else if (w >= z + own.drop - 0.3 * d) alike[side]!++;
          else below++;
        }
        const sides = alike.filter((n, side) => higher & (1 << side) && n < 3).length;
        return below <= own.largestCluster && sides >= 3 ? 1 : 0;
      });
      expect([...lowPoints(cloud, own)]).toEqual(byWord);
      expect(byWord.reduce((sum: number, bit) => sum + bit, 0)).toBeGreaterThan(5);
    }
  });

  test('a ditch is no low point, neither is a bank’s foot', () => {
    const list: [number, number, number][] = [];
    for (let x = 0; x < 30; x += 0.5)
      for (let y = 0; y < 30; y += 0.5)
        list.push([x, y, Math.abs(x - 15) < 1 ? -1.5 : x > 20 ? Math.min(4, (x - 20) * 2) : 0]);
    expect(Math.max(...lowPoints(places(list), options))).toBe(0);
  });
});

describe('points floating about a hard surface', () => {
  test('a haze over a road is found; grass, walls and the road itself are not', () => {
    const random = seededRandom(2);
    const list: [number, number, number][] = [];
    for (let x = 0; x < 30; x += 0.3)
      for (let y = 0; y < 12; y += 0.3) list.push([x, y, x * 0.03 + (random() - 0.5) * 0.02]);
    const road = list.length;
    // Grass: no plane in it.
    for (let k = 0; k < 3000; k++) list.push([random() * 30, 14 + random() * 10, random() * 0.6]);
    const grass = list.length;
    for (let k = 0; k < 40; k++) {
      const [x, y] = [2 + random() * 26, 2 + random() * 8];
      list.push([x, y, x * 0.03 + (k % 2 === 0 ? 1 : -1) * (0.15 + random() * 0.3)]);
    }
    const mask = floatingPoints(places(list), { radius: 1, within: 0.08, hardness: 0.8 });
    const sum = (from: number, to: number) => mask.subarray(from, to).reduce((s, bit) => s + bit, 0);
    expect(sum(0, road)).toBe(0);
    expect(sum(road, grass)).toBeLessThan(30);
    expect(sum(grass, list.length)).toBe(40);
  });
});
