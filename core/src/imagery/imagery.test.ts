import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import {
  applySimilarity,
  checkShift,
  colourDepth,
  fitSimilarity,
  isNorthUp,
  labDistance,
  labOf,
  picturePlan,
  pixelOfPlace,
  pixelSize,
  placeOfPixel,
  readWorldFile,
  toFullDepth,
  undoSimilarity,
  writeWorldFile,
} from './index.js';

describe('where pixels lie', () => {
  test('a world file gives the centre of the upper left pixel, a placement its outer corner', () => {
    const p = readWorldFile('0.5\n0\n0\n-0.5\n1000.25\n2000.75\n', 'a.tfw');
    expect([p.east, p.north]).toEqual([1000, 2001]);
    expect(isNorthUp(p)).toBe(true);
    expect(picturePlan({ ...p, columns: 10, rows: 4 })).toEqual({ west: 1000, south: 1999, east: 1005, north: 2001 });
    expect(writeWorldFile(p)).toBe('0.5\n0\n0\n-0.5\n1000.25\n2000.75\n');
  });

  test('a turned one goes there and back, by hand: columns run 30 degrees north of east', () => {
    const [cos, sin] = [Math.cos(Math.PI / 6), Math.sin(Math.PI / 6)];
    const p = readWorldFile(`${0.2 * cos} ${0.2 * sin} ${0.2 * sin} ${-0.2 * cos} 500 900`, 'b.wld');
    expect(pixelSize(p)).toBeCloseTo(0.2, 12);
    expect(isNorthUp(p)).toBe(false);
    const [e, n] = placeOfPixel(p, 0.5 + 10, 0.5);
    expect([e, n].map((v) => v.toFixed(9))).toEqual([500 + 2 * cos, 900 + 2 * sin].map((v) => v.toFixed(9)));
    const back = pixelOfPlace(p)(e, n);
    expect(back[0]).toBeCloseTo(10.5, 9);
    expect(back[1]).toBeCloseTo(0.5, 9);
  });

  test('what is no world file is refused with what is wrong', () => {
    expect(() => readWorldFile('0.5\n0\n0\n-0.5\n1000', 'c.tfw')).toThrow('It holds 5 numbers; a world file has six.');
    expect(() => readWorldFile('0.5\nzero\n0\n-0.5\n1\n2', 'c.tfw')).toThrow('“zero” is no number.');
    expect(() => readWorldFile('', 'c.tfw')).toThrow('It holds 0 numbers');
    expect(() => pixelSizeless()).toThrow('no size on the ground');
  });
});

const pixelSizeless = (): unknown => pixelOfPlace(readWorldFile('0 0 0 0 1 2', 'flat.tfw'));

describe('colours', () => {
  // sRGB primaries in CIE L*a*b* under D65, to two places, as handbooks of colour give them; values from memory.
  test.each([
    [
      [255, 0, 0],
      [53.24, 80.09, 67.2],
    ],
    [
      [0, 255, 0],
      [87.73, -86.18, 83.18],
    ],
    [
      [0, 0, 255],
      [32.3, 79.19, -107.86],
    ],
    [
      [255, 255, 255],
      [100, 0, 0],
    ],
    [
      [0, 0, 0],
      [0, 0, 0],
    ],
    [
      [119, 119, 119],
      [50.03, 0, 0],
    ],
  ] as const)('sRGB %j is L*a*b* %j', ([r, g, b], [l, a, bb]) => {
    const lab = labOf(r, g, b);
    expect(Math.abs(lab[0] - l)).toBeLessThan(0.02);
    expect(Math.abs(lab[1] - a)).toBeLessThan(0.02);
    expect(Math.abs(lab[2] - bb)).toBeLessThan(0.02);
  });

  test('the distance of black and white is 100', () => {
    expect(labDistance(labOf(0, 0, 0), labOf(255, 255, 255))).toBeCloseTo(100, 3);
  });

  test('16 bits that hold only 8 are noticed in either byte, and mended by 257', () => {
    const used = (values: Uint16Array): ReturnType<typeof colourDepth> =>
      colourDepth(
        Math.max(...values),
        values.reduce((a, b) => a | b, 0),
      );
    const low = Uint16Array.of(0, 17, 255);
    const high = Uint16Array.of(0, 17 << 8, 255 << 8);
    expect([used(low), used(high), used(Uint16Array.of(257, 4369))]).toEqual(['low-byte', 'high-byte', 'full']);
    toFullDepth(low, 'low-byte');
    toFullDepth(high, 'high-byte');
    expect([...low]).toEqual([0, 4369, 65535]);
    expect([...high]).toEqual([...low]);
  });
});

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
    const found = checkShift(picture, [{ name: 'intensity', values: cloud }], frame);
    expect(found.sureness).toBe('sure');
    expect(Math.hypot(found.east - de, found.north - dn)).toBeLessThan(0.3 * cell);
  });

  test('land that is not the same is never sure', () => {
    for (const seed of [21, 22, 23, 24, 25, 26]) {
      const [one, two] = [scene(seed), scene(seed + 100)];
      const cloud = raster((e, n) => one(e, n)[1], seed + 1, 30);
      const picture = raster((e, n) => two(e, n)[0], seed + 2, 20);
      expect(checkShift(picture, [{ name: 'intensity', values: cloud }], frame).sureness).not.toBe('sure');
    }
  });

  test('a witness that is clear speaks alone; one that says nothing is passed over', () => {
    const land = scene(31);
    const one = { name: 'intensity', values: raster((e, n) => land(e, n)[1], 1, 60) };
    const mute = { name: 'colours', values: raster(() => 100, 2, 60) };
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
    const found = checkShift(picture, [{ name: 'intensity', values: cloud }], frame);
    expect(Math.hypot(found.east, found.north)).toBeLessThan(0.4 * cell);
  });
});
