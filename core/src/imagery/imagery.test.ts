import { describe, expect, test } from 'vitest';
import {
  colourDepth,
  isNorthUp,
  labDistance,
  labOf,
  picturePlan,
  pixelOfPlace,
  pixelSize,
  placeOfPixel,
  readWorldFile,
  toFullDepth,
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
      colourDepth(values.reduce((a, b) => a | b, 0));
    const low = Uint16Array.of(0, 17, 255);
    const high = Uint16Array.of(0, 17 << 8, 255 << 8);
    expect([used(low), used(high), used(Uint16Array.of(257, 4369))]).toEqual(['low-byte', 'high-byte', 'full']);
    toFullDepth(low, 'low-byte');
    toFullDepth(high, 'high-byte');
    expect([...low]).toEqual([0, 4369, 65535]);
    expect([...high]).toEqual([...low]);
  });
});
