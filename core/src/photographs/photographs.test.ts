import { execFileSync } from 'node:child_process';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import {
  agreementOf,
  axesOf,
  balanceGains,
  depthFrame,
  DepthPicture,
  distort,
  NOTHING_SEEN,
  omegaPhiKappa,
  OverlapSums,
  Projector,
  SeenBest,
  undistort,
  widestAngle,
  type Camera,
  type PairSums,
} from './index.js';

const CAMERA: Camera = {
  columns: 6000,
  rows: 4000,
  focal: 8000,
  principalColumn: 3010,
  principalRow: 1992,
  k1: 0,
  k2: 0,
  k3: 0,
  p1: 0,
  p2: 0,
};
const degrees = (...values: number[]): number[] => values.map((value) => (value * Math.PI) / 180);
const angle = fc.double({ min: -3, max: 3, noNaN: true });
const tilt = fc.double({ min: -1.4, max: 1.4, noNaN: true });

describe('how a camera is turned', () => {
  test('omega, phi and kappa of nothing look straight down, with north at the top', () => {
    expect(axesOf('omega-phi-kappa', 0, 0, 0).map((v) => v + 0)).toEqual([1, 0, 0, 0, -1, 0, 0, 0, -1]);
  });

  // The sequential rotation R3(kappa) R2(phi) R1(omega) of photogrammetry, reckoned by SciPy from rotations about the axes.
  test('rotations are those of SciPy', () => {
    const random = seededRandom(3);
    const cases = Array.from({ length: 40 }, () => [1.4, 1.4, 3].map((most) => most * (2 * random() - 1)));
    const code = `
import sys, json
from scipy.spatial.transform import Rotation as R
out = []
for w, p, k in json.load(sys.stdin):
    m = (R.from_euler('X', w) * R.from_euler('Y', p) * R.from_euler('Z', k)).as_matrix().T
    out.append([*m[0], *(-m[1]), *(-m[2])])
print(json.dumps(out))`;
    const theirs = JSON.parse(execFileSync('/usr/bin/python3', ['-c', code], { input: JSON.stringify(cases), encoding: 'utf8' })) as number[][]; // prettier-ignore
    cases.forEach(([omega, phi, kappa], k) =>
      axesOf('omega-phi-kappa', omega!, phi!, kappa!).forEach((value, axis) =>
        expect(value).toBeCloseTo(theirs[k]![axis]!, 12),
      ),
    );
  });

  test('the three ways to say it agree: an aircraft that flies east, and a camera that looks down with its top to the east', () => {
    const [, , east] = degrees(0, 0, 90) as [number, number, number];
    const [down] = degrees(-90) as [number];
    const close = (one: readonly number[], other: readonly number[]): void =>
      one.forEach((value, k) => expect(value).toBeCloseTo(other[k]!, 12));
    close(axesOf('platform', 0, 0, east), axesOf('omega-phi-kappa', 0, 0, -east));
    close(axesOf('camera-axis', 0, down, east), axesOf('platform', 0, 0, east));
  });

  test('a camera axis of heading 0 and pitch 0 looks north, with the sky at the top; nose up looks up', () => {
    const level = axesOf('camera-axis', 0, 0, 0).map((v) => Math.round(v) + 0);
    expect(level).toEqual([1, 0, 0, 0, 0, -1, 0, 1, 0]);
    expect(axesOf('camera-axis', 0, degrees(20)[0]!, 0)[8]).toBeCloseTo(Math.sin(degrees(20)[0]!), 12);
  });

  test('a camera that is mounted turned by a right angle has its top to the right of the aircraft', () => {
    const mounted = { roll: 0, pitch: 0, heading: Math.PI / 2 };
    const axes = axesOf('platform', 0, 0, 0, mounted);
    [0, -1, 0, -1, 0, 0, 0, 0, -1].forEach((value, k) => expect(axes[k]).toBeCloseTo(value, 12));
    // Flying to the right itself, an aircraft with a camera straight ahead does the same.
    axesOf('platform', 0, 0, Math.PI / 2).forEach((value, k) => expect(axes[k]).toBeCloseTo(value, 12));
  });

  test('whatever the convention: right, down and along are at right angles; and omega, phi, kappa come back', () => {
    fc.assert(
      fc.property(fc.constantFrom('omega-phi-kappa', 'platform', 'camera-axis'), tilt, tilt, angle, (kind, a, b, c) => {
        const axes = axesOf(kind, a, b, c);
        const row = (k: number): number[] => axes.slice(3 * k, 3 * k + 3);
        const dot = (u: number[], v: number[]): number => u.reduce((sum, value, k) => sum + value * v[k]!, 0);
        for (const [i, j] of [[0, 1], [0, 2], [1, 2]] as const) expect(dot(row(i), row(j))).toBeCloseTo(0, 12); // prettier-ignore
        for (const k of [0, 1, 2]) expect(dot(row(k), row(k))).toBeCloseTo(1, 12);
        const [omega, phi, kappa] = omegaPhiKappa(axes);
        axesOf('omega-phi-kappa', omega, phi, kappa).forEach((value, k) => expect(value).toBeCloseTo(axes[k]!, 9));
      }),
    );
  });
});

describe('where a place is seen', () => {
  test('by hand: straight down from 120, a place 15 east and 6 north lies 1000 pixels right and 400 up of the principal point', () => {
    const projector = new Projector(CAMERA, { east: 500, north: 900, up: 150, axes: axesOf('omega-phi-kappa', 0, 0, 0) }); // prettier-ignore
    const place = new Float64Array(3);
    expect(projector.see(515, 906, 30, place)).toBe(true);
    expect([...place]).toEqual([3010 + 1000, 1992 - 400, 120]);
  });

  // The collinearity equations with rotations of SciPy 1.17: omega 3.2, phi -7.5, kappa 112.4 degrees, f = 800 pixels,
  // a place 12.5 east, 31 south and 104.25 below the camera: x = -260.902104, y = 115.652567 (y up the picture).
  test('turned in all three ways, against the collinearity equations reckoned apart', () => {
    const camera = { ...CAMERA, focal: 800, principalColumn: 3000, principalRow: 2000 };
    const [omega, phi, kappa] = degrees(3.2, -7.5, 112.4) as [number, number, number];
    const projector = new Projector(camera, { east: 0, north: 0, up: 0, axes: axesOf('omega-phi-kappa', omega, phi, kappa) }); // prettier-ignore
    const place = new Float64Array(3);
    expect(projector.see(12.5, -31, -104.25, place)).toBe(true);
    expect(place[0]! - 3000).toBeCloseTo(-260.9021036339812, 9);
    expect(2000 - place[1]!).toBeCloseTo(115.65256697552715, 9);
  });

  test('nothing behind the camera and nothing beside the picture is seen', () => {
    const projector = new Projector(CAMERA, { east: 0, north: 0, up: 100, axes: axesOf('omega-phi-kappa', 0, 0, 0) });
    const place = new Float64Array(3);
    expect(projector.see(0, 0, 200, place)).toBe(false);
    expect(projector.see(0, 0, 100, place)).toBe(false);
    expect(projector.see(80, 0, 0, place)).toBe(false);
  });

  test('the window of a box holds every place of it that is seen', () => {
    const camera = { ...CAMERA, k1: -0.09, k2: 0.02, p1: 0.001, p2: -0.002 };
    const at = fc.double({ min: -60, max: 60, noNaN: true });
    const size = fc.double({ min: 1, max: 40, noNaN: true });
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(at, at, size, size, share, share, share, tilt, angle, (e, n, wide, high, u, v, w, phi, kappa) => {
        const projector = new Projector(camera, { east: 0, north: 0, up: 100, axes: axesOf('omega-phi-kappa', 0.3 * phi, 0.5 * phi, kappa) }); // prettier-ignore
        const place = new Float64Array(3);
        if (!projector.see(e + u * wide, n + v * wide, w * high, place)) return;
        const window = projector.window({ min: [e, n, 0], max: [e + wide, n + wide, high] })!;
        expect(place[0]).toBeGreaterThanOrEqual(window.columns[0]);
        expect(place[0]).toBeLessThanOrEqual(window.columns[1]);
        expect(place[1]).toBeGreaterThanOrEqual(window.rows[0]);
        expect(place[1]).toBeLessThanOrEqual(window.rows[1]);
        expect(projector.maySee(e + wide / 2, n + wide / 2, high / 2, Math.hypot(wide, wide, high) / 2)).toBe(true);
      }),
      { numRuns: 400 },
    );
  });
});

describe('the lens (Brown 1971)', () => {
  test('by hand: at x = 0.3, y = -0.4, where r² is a quarter', () => {
    const camera = { ...CAMERA, k1: -0.2, k2: 0.08, k3: -0.016, p1: 0.01, p2: -0.02 };
    const out = new Float64Array(2);
    distort(camera, 0.3, -0.4, out);
    // 1 - 0.05 + 0.005 - 0.00025 = 0.95475; p1 (0.25 + 0.18) + 2 p2 x y = 0.0043 + 0.0048; p2 (0.25 + 0.32) + 2 p1 x y = -0.0114 - 0.0024.
    expect(out[0]).toBeCloseTo(0.3 * 0.95475 + 0.0043 + 0.0048, 15);
    expect(out[1]).toBeCloseTo(-0.4 * 0.95475 - 0.0114 - 0.0024, 15);
  });

  test('there and back', () => {
    const camera = { ...CAMERA, k1: -0.12, k2: 0.05, k3: -0.01, p1: 0.002, p2: -0.001 };
    const out = new Float64Array(2);
    const at = fc.double({ min: -0.5, max: 0.5, noNaN: true });
    fc.assert(
      fc.property(at, at, (x, y) => {
        distort(camera, x, y, out);
        const [u, v] = undistort(camera, out[0]!, out[1]!);
        expect(u).toBeCloseTo(x, 12);
        expect(v).toBeCloseTo(y, 12);
      }),
    );
  });

  test('what lies far beside does not come into the picture again, and a lens that folds it over is refused', () => {
    const bent = { ...CAMERA, k1: -0.25 };
    // At x = 2 the polynomial gives nothing: 2 (1 - 0.25 · 4) = 0, the middle of the picture.
    const projector = new Projector(bent, { east: 0, north: 0, up: 100, axes: axesOf('omega-phi-kappa', 0, 0, 0) });
    expect(projector.see(200, 0, 0, new Float64Array(3))).toBe(false);
    expect(() => widestAngle({ ...CAMERA, k1: -40 })).toThrow('folds the picture over');
  });
});

describe('what stands before what', () => {
  const frame = depthFrame({ ...CAMERA, columns: 100, rows: 100 }, 10);
  const empty = (): DepthPicture => new DepthPicture(frame, new Int32Array(100).fill(NOTHING_SEEN));

  test('a roof hides the ground below it, and not itself', () => {
    const picture = empty();
    for (let c = 5; c < 100; c += 10) for (let r = 5; r < 100; r += 10) picture.enter(c, r, 80);
    expect(picture.isSeen(55, 55, 80.1, 0.5)).toBe(true);
    expect(picture.isSeen(55, 55, 86, 0.5)).toBe(false);
  });

  test('a gap between its points hides too; beside it the ground is seen', () => {
    const picture = empty();
    for (let c = 5; c < 55; c += 10)
      for (let r = 5; r < 100; r += 10) if (c !== 25 || r !== 45) picture.enter(c, r, 80);
    for (let c = 55; c < 100; c += 10) for (let r = 5; r < 100; r += 10) picture.enter(c, r, 86);
    expect(picture.isSeen(25, 45, 86, 0.5)).toBe(false);
    expect(picture.isSeen(65, 45, 86, 0.5)).toBe(true);
  });
});

describe('the photograph that sees a point best', () => {
  const CENTRED = { ...CAMERA, principalColumn: 3000, principalRow: 2000 };
  const plain = (grey: number) => ({ sample: (_c: number, _r: number, out: Float64Array) => (out.fill(grey), true) });
  const over = (east: number, grey: number, gain = 1) => ({
    projector: new Projector(CENTRED, { east, north: 0, up: 100, axes: axesOf('omega-phi-kappa', 0, 0, 0) }),
    source: plain(grey),
    shrunk: 1,
    depthCell: 10,
    gains: [gain, gain, gain] as const,
  });
  const colourAt = (e: number, photographs: Parameters<typeof over>[]): number => {
    const best = new SeenBest(photographs.map((each) => over(...each)));
    expect(best.look(e, 0, 0)).toBeGreaterThan(0);
    const out = new Float64Array(3);
    best.mix(out);
    return out[1]!;
  };

  test('is the one above it; half-way two mix', () => {
    const two: [number, number][] = [[0, 50], [40, 150]]; // prettier-ignore
    expect(colourAt(2, two)).toBe(50);
    expect(colourAt(38, two)).toBe(150);
    expect(colourAt(20, two)).toBeCloseTo(100, 9);
  });

  test('a gain is applied, and what is too light stays white', () => {
    expect(colourAt(0, [[0, 100, 1.2]])).toBeCloseTo(120, 9);
    expect(colourAt(0, [[0, 200, 1.9]])).toBe(255);
  });
});

describe('a wall, seen from the side', () => {
  test('takes its colour from the nearer of two that look at it level', () => {
    const beside = (north: number, grey: number) => ({
      projector: new Projector({ ...CAMERA, principalColumn: 3000, principalRow: 2000 }, { east: 0, north, up: 5, axes: axesOf('camera-axis', 0, 0, 0) }), // prettier-ignore
      source: { sample: (_c: number, _r: number, out: Float64Array) => (out.fill(grey), true) },
      shrunk: 1,
      depthCell: 10,
      gains: [1, 1, 1] as const,
    });
    const best = new SeenBest([beside(-40, 60), beside(-20, 200)]);
    expect(best.look(0, 0, 5)).toBe(2);
    const out = new Float64Array(3);
    best.mix(out);
    expect([...out]).toEqual([200, 200, 200]);
  });
});

describe('photographs with one another', () => {
  test('the four that see a point best are compared, each pair once, the earlier one first', () => {
    const count = 7;
    const sums = new OverlapSums(count);
    const quality = Float64Array.of(0.2, 0.9, 0, 0.5, 0.7, 0.1, 0.6);
    sums.add({ quality, colours: new Float64Array(21).fill(90) } as unknown as SeenBest, [0, 1, 2, 3, 4, 5, 6]);
    expect(sums.list().map(({ one, other }) => [one, other])).toEqual([[1, 3], [1, 4], [1, 6], [3, 4], [3, 6], [4, 6]]); // prettier-ignore
  });

  const pair = (one: number, other: number, ratio: number): PairSums => ({ one, other, count: 400, ratio: [400 * ratio, 0, 0], light: [0, 0, 0, 0, 0] }); // prettier-ignore

  test('gains take away what a chain of exposures differs by', () => {
    const light = [0, 0.2, -0.1, 0.15];
    const pairs = [[0, 1], [1, 2], [2, 3], [0, 2]].map(([a, b]) => pair(a!, b!, light[b!]! - light[a!]!)); // prettier-ignore
    const gains = balanceGains(4, pairs);
    const made = gains.map(([red], k) => Math.log(red) + light[k]!);
    for (const value of made) expect(value).toBeCloseTo(made[0]!, 2);
    for (const [, green, blue] of gains) expect([green, blue]).toEqual([1, 1]);
    // All together stay as light as they were.
    expect(gains.reduce((sum, [red]) => sum + Math.log(red), 0)).toBeCloseTo(0, 6);
  });

  test('agreement is the correlation within pairs, whatever their exposures; without pairs it is not known', () => {
    const random = seededRandom(8);
    const sums = (noise: number, light: number): PairSums => {
      const out: PairSums = { one: 0, other: 1, count: 5000, ratio: [0, 0, 0], light: [0, 0, 0, 0, 0] };
      for (let k = 0; k < 5000; k++) {
        const x = random();
        const y = light * (x + noise * (random() - 0.5));
        [x, y, x * x, y * y, x * y].forEach((value, at) => (out.light[at]! += value));
      }
      return out;
    };
    expect(agreementOf([sums(0, 1.3)]).correlation).toBeCloseTo(1, 9);
    // Two spreads of the same size: the correlation is one through the root of two.
    expect(agreementOf([sums(1, 1)]).correlation).toBeCloseTo(Math.SQRT1_2, 1);
    expect(agreementOf([]).correlation).toBeNaN();
  });
});
