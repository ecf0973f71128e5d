import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { applySimilarity, checkShift, fitSimilarity, undoSimilarity } from './index.js';

test('a similarity is found again from what it did, and undone', () => {
  const put = { east: 1.2, north: -0.7, turn: 0.002, scale: 1.0005, centre: [100, 50] as const };
  const offsets = [
    [0, 0],
    [200, 10],
    [180, 120],
    [20, 90],
  ].map(([e, n]) => {
    const [me, mn] = applySimilarity(put, e!, n!);
    return { e: e!, n: n!, east: me - e!, north: mn - n!, weight: 1 };
  });
  const found = fitSimilarity(offsets, false);
  expect(found.turn).toBeCloseTo(0.002, 10);
  expect(found.scale).toBeCloseTo(1.0005, 10);
  for (const { e, n } of offsets) {
    const [a, b] = applySimilarity(found, e, n);
    const [x, y] = applySimilarity(put, e, n);
    expect(Math.hypot(a - x, b - y)).toBeLessThan(1e-9);
    const [be, bn] = undoSimilarity(found, a, b);
    expect(Math.hypot(be - e, bn - n)).toBeLessThan(1e-9);
  }
});

describe('the shift of a picture against a cloud', () => {
  const [columns, rows, cell] = [320, 256, 0.4];
  const frame = { east: 0, north: 0, cell, columns, rows };
  /** Fields, tracks and roofs with sharp edges: lightness and what a laser has of them, which is another thing. */
  const scene = (seed: number): ((e: number, n: number) => [number, number]) => {
    const random = seededRandom(seed);
    const shapes = Array.from({ length: 60 }, () => ({
      e: random() * columns * cell,
      n: random() * rows * cell,
      half: 2 + 6 * random(),
      thin: 1 + 3 * random(),
      turn: Math.PI * random(),
      light: 60 + 160 * random(),
      back: 60 + 160 * random(),
    }));
    return (e, n) => {
      let found: [number, number] = [110, 140];
      for (const s of shapes) {
        const [x, y] = [e - s.e, n - s.n];
        if (x * x + y * y > 100) continue;
        const [u, v] = [x * Math.cos(s.turn) + y * Math.sin(s.turn), y * Math.cos(s.turn) - x * Math.sin(s.turn)];
        if (Math.abs(u) < s.half && Math.abs(v) < s.thin) found = [s.light, s.back];
      }
      return found;
    };
  };
  const raster = (of: (e: number, n: number) => number, seed: number, noise: number): Float32Array => {
    const random = seededRandom(seed);
    return Float32Array.from({ length: columns * rows }, (_, at) => {
      const [c, r] = [at % columns, Math.floor(at / columns)];
      let sum = 0;
      for (const [x, y] of [[0.25, 0.25], [0.75, 0.25], [0.25, 0.75], [0.75, 0.75]] as const) sum += of((c + x) * cell, (r + y) * cell) / 4; // prettier-ignore
      return sum + noise * (random() + random() + random() - 1.5);
    });
  };

  test.each([
    [11, 0, 0],
    [12, 1.37, -0.86],
    [13, -2.9, 0.31],
    [14, 0.1, 2.55],
  ])('scene %i shifted by %f, %f is found within 0.3 of a cell, and said to be sure', (seed, de, dn) => {
    const land = scene(seed);
    const cloud = raster((e, n) => land(e, n)[1], seed + 1, 60);
    const picture = raster((e, n) => land(e - de, n - dn)[0], seed + 2, 20);
    const found = checkShift(picture, [{ name: 'intensity', values: () => cloud }], frame);
    expect(found.sureness).toBe('sure');
    expect(Math.hypot(found.east - de, found.north - dn)).toBeLessThan(0.3 * cell);
  });

  test('land that is not the same is never sure', () => {
    for (const seed of [21, 22, 23, 24, 25, 26]) {
      const [one, two] = [scene(seed), scene(seed + 100)];
      const cloud = raster((e, n) => one(e, n)[1], seed + 1, 30);
      const picture = raster((e, n) => two(e, n)[0], seed + 2, 20);
      expect(checkShift(picture, [{ name: 'intensity', values: () => cloud }], frame).sureness).not.toBe('sure');
    }
  });

  test('a witness that is clear speaks alone; one that says nothing is passed over', () => {
    const land = scene(31);
    const one = { name: 'intensity', values: () => raster((e, n) => land(e, n)[1], 1, 60) };
    const mute = { name: 'colours', values: () => raster(() => 100, 2, 60) };
    const picture = raster((e, n) => land(e - 0.8, n)[0], 3, 20);
    const alone = checkShift(picture, [one], frame);
    expect(checkShift(picture, [one, mute], frame)).toEqual(alone);
    expect(checkShift(picture, [mute, one], frame).witness).toBe('intensity');
  });

  test('shade to one side of everything that stands pulls nothing: what is dark does not count', () => {
    const land = scene(41);
    const cloud = raster((e, n) => land(e, n)[1], 1, 40);
    // Each thing throws a shade of two and a half metres to the south-east.
    const isShade = (e: number, n: number): boolean =>
      land(e, n)[0] === 110 && [0.5, 1, 1.5, 2, 2.5].some((d) => land(e - 0.7 * d, n + 0.7 * d)[0] !== 110);
    const picture = raster((e, n) => (isShade(e, n) ? 50 : Math.max(100, land(e, n)[0])), 2, 10);
    const found = checkShift(picture, [{ name: 'intensity', values: () => cloud }], frame);
    expect(Math.hypot(found.east, found.north)).toBeLessThan(0.4 * cell);
  });
});
