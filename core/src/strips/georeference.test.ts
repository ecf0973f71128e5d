import { execFileSync } from 'node:child_process';
import { seededRandom } from '../task/index.js';
import { expect, test } from 'vitest';
import { bodyToLocal, rotateBy, toRadians } from './attitude.js';
import { correctedTrajectory } from './corrected-trajectory.js';
import { Corrector, noCorrection, type Correction } from './correction.js';
import { georeference, PLAIN_SENSOR, type ScanLimits } from './georeference.js';
import { PoseFinder, type Trajectory } from './trajectory.js';

const EVERYTHING: ScanLimits = { shortest: 0, longest: 1e9, widest: Math.PI, from: -Infinity, to: Infinity };

const still = (place: readonly [number, number, number], angles: readonly [number, number, number]): Trajectory => {
  const both = (value: number): Float64Array => Float64Array.of(value, value);
  const [east, north, up] = place.map(both) as [Float64Array, Float64Array, Float64Array];
  const [roll, pitch, heading] = angles.map(both) as [Float64Array, Float64Array, Float64Array];
  return { time: Float64Array.of(0, 0.1), east, north, up, roll, pitch, heading };
};

const beam = (range: number, across: number) => ({
  count: 1,
  time: Float64Array.of(0.05),
  range: Float64Array.of(range),
  across: Float64Array.of(across),
});

const placeOf = (trajectory: Trajectory, range: number, across: number, sensor = PLAIN_SENSOR): number[] => {
  const found = georeference(beam(range, across), new PoseFinder(trajectory), sensor, EVERYTHING);
  return [found.east[0]!, found.north[0]!, found.up[0]!];
};

// Direct georeferencing, worked by hand from the equation of Skaloud and Lichti 2006 (ISPRS Journal 61(1), equation 1).
test('flying north and level, a beam straight down comes from under the platform', () => {
  expect(placeOf(still([100, 200, 80], [0, 0, 0]), 80, 0)).toEqual([100, 200, 0]);
});

test('flying north, a beam 30 degrees to the right lies east by half of its length', () => {
  const [east, north, up] = placeOf(still([100, 200, 80], [0, 0, 0]), 100, toRadians(30));
  expect(east).toBeCloseTo(150, 9);
  expect(north).toBeCloseTo(200, 9);
  expect(up).toBeCloseTo(80 - 100 * Math.cos(toRadians(30)), 9);
});

test('flying east, the right is south', () => {
  const [east, north] = placeOf(still([100, 200, 80], [0, 0, toRadians(90)]), 100, toRadians(30));
  expect(east).toBeCloseTo(100, 9);
  expect(north).toBeCloseTo(150, 9);
});

test('right side down by 10 degrees, the beam straight down looks 10 degrees to the left', () => {
  const [east, , up] = placeOf(still([0, 0, 0], [toRadians(10), 0, 0]), 100, 0);
  expect(east).toBeCloseTo(-100 * Math.sin(toRadians(10)), 9);
  expect(up).toBeCloseTo(-100 * Math.cos(toRadians(10)), 9);
});

test('nose up by 10 degrees, the beam straight down looks 10 degrees ahead', () => {
  const [, north, up] = placeOf(still([0, 0, 0], [0, toRadians(10), 0]), 100, 0);
  expect(north).toBeCloseTo(100 * Math.sin(toRadians(10)), 9);
  expect(up).toBeCloseTo(-100 * Math.cos(toRadians(10)), 9);
});

test('the lever arm is forward, right, down of the platform; boresight turns the beam and not the arm', () => {
  const sensor = { ...PLAIN_SENSOR, leverArm: [1, 2, 3] as const, boresight: [toRadians(1), 0, 0] as const };
  const [east, north, up] = placeOf(still([0, 0, 100], [0, 0, toRadians(90)]), 50, 0, sensor);
  expect(east).toBeCloseTo(1, 9);
  expect(north).toBeCloseTo(-2 + 50 * Math.sin(toRadians(1)), 9);
  expect(up).toBeCloseTo(97 - 50 * Math.cos(toRadians(1)), 9);
});

test('rotations are those of SciPy, at random attitudes', () => {
  const random = seededRandom(8);
  const attitudes = Array.from({ length: 40 }, () => [
    (random() - 0.5) * 2,
    (random() - 0.5) * 2,
    (random() - 0.5) * 2 * Math.PI,
  ]) as [number, number, number][];
  const vectors = attitudes.map(() => [random() - 0.5, random() - 0.5, random() - 0.5] as [number, number, number]);
  const script = `
import json, sys
import numpy as np
from scipy.spatial.transform import Rotation
given = json.load(sys.stdin)
# Intrinsic heading, pitch, roll: body to north, east, down.
ned = Rotation.from_euler('ZYX', [[h, p, r] for r, p, h in given['attitudes']]).as_matrix()
enu = np.array([[0, 1, 0], [1, 0, 0], [0, 0, -1]]) @ ned
turned = Rotation.from_rotvec(given['attitudes']).apply(given['vectors'])
print(json.dumps({'enu': enu.reshape(-1, 9).tolist(), 'turned': turned.tolist()}))`;
  const answer = JSON.parse(
    execFileSync('/usr/bin/python3', ['-c', script], { input: JSON.stringify({ attitudes, vectors }) }).toString(),
  ) as { enu: number[][]; turned: number[][] };
  const [matrix, turned] = [new Float64Array(9), new Float64Array(3)];
  attitudes.forEach((attitude, k) => {
    bodyToLocal(...attitude, matrix);
    matrix.forEach((value, i) => expect(value).toBeCloseTo(answer.enu[k]![i]!, 12));
    rotateBy(...attitude, vectors[k]!, turned);
    turned.forEach((value, i) => expect(value).toBeCloseTo(answer.turned[k]![i]!, 12));
  });
});

test('what is outside the limits or the trajectory is counted, not guessed', () => {
  const scan = {
    count: 4,
    time: Float64Array.of(0.05, 0.05, 5, 0.05),
    range: Float64Array.of(0.5, 80, 80, 80),
    across: Float64Array.of(0, 0, 0, 1.2),
  };
  const found = georeference(scan, new PoseFinder(still([0, 0, 0], [0, 0, 0])), PLAIN_SENSOR, {
    ...EVERYTHING,
    shortest: 1,
    widest: 1,
  });
  expect([...found.beams]).toEqual([1]);
  expect([found.outside, found.withoutPose]).toEqual([2, 1]);
});

test('the accuracy of a point grows with its range by the accuracy of the attitude', () => {
  const trajectory = { ...still([0, 0, 0], [0, 0, 0]), tiltAccuracy: Float64Array.of(1e-3, 1e-3) };
  const at = (range: number) =>
    georeference(
      beam(range, 0),
      new PoseFinder(trajectory),
      { ...PLAIN_SENSOR, rangeNoise: 0.02, beamDivergence: 0 },
      EVERYTHING,
    );
  expect(at(100).planAccuracy[0]).toBeCloseTo(0.1, 6);
  expect(at(200).planAccuracy[0]).toBeCloseTo(0.2, 6);
  // Straight down, tilting does not change the height; the ranging noise does.
  expect(at(100).heightAccuracy[0]).toBeCloseTo(0.02, 6);
});

test('headings are interpolated over north, and gaps are not filled', () => {
  const time = Float64Array.from([0, 0.01, 0.02, 0.03, 5, 5.01]);
  const zero = new Float64Array(6);
  const heading = Float64Array.from([3.13, 3.13, 3.14, -3.14, 0, 0]);
  const finder = new PoseFinder({ time, east: zero, north: zero, up: zero, roll: zero, pitch: zero, heading });
  const pose = new Float64Array(12);
  expect(finder.at(0.025, pose)).toBe(true);
  // Halfway between 3.14 and -3.14 is south, not north.
  expect(pose[3 + 3]).toBeCloseTo(-1, 5);
  expect(finder.at(2, pose)).toBe(false);
  expect(finder.at(-0.1, pose)).toBe(false);
});

test('georeferenced anew by the corrected trajectory, points lie where the correction puts them', () => {
  const random = seededRandom(7);
  const records = 400;
  const column = (of: (t: number) => number): Float64Array =>
    Float64Array.from({ length: records }, (_, k) => of(k / 10));
  const trajectory: Trajectory = {
    time: column((t) => t),
    east: column((t) => 1000 + 8 * t),
    north: column((t) => 500 + Math.sin(t)),
    up: column((t) => 90 + 0.3 * Math.cos(t / 2)),
    roll: column((t) => 0.05 * Math.sin(t / 3)),
    pitch: column((t) => 0.03 * Math.cos(t / 4)),
    heading: column((t) => toRadians(88) + 0.02 * Math.sin(t / 5)),
  };
  const correction: Correction = {
    ...noCorrection([
      { from: 1, to: 15 },
      { from: 20, to: 38 },
    ]),
    strips: [
      { shift: [0.1, -0.05, 0.2], tilt: [0.002, -0.001, 0.003], drift: [0, 0, 0.1] },
      { shift: [0, 0, -0.3], tilt: [0, 0.001, 0], drift: [0.02, 0, 0] },
    ],
    spline: {
      start: -10,
      step: 10,
      count: 8,
      values: [
        [],
        [],
        Array.from({ length: 8 }, () => 0.1 * random()),
        Array.from({ length: 8 }, () => 0.001 * random()),
        [],
        [],
      ],
    },
  };
  const times = [2, 7.53, 14.2, 21.1, 30, 37.9];
  const scan = {
    count: times.length,
    time: Float64Array.from(times),
    range: Float64Array.from(times, () => 80 + 20 * random()),
    across: Float64Array.from(times, () => 0.8 * (random() - 0.5)),
  };
  const before = georeference(scan, new PoseFinder(trajectory), PLAIN_SENSOR, EVERYTHING);
  const anew = georeference(
    scan,
    new PoseFinder(correctedTrajectory(trajectory, correction)),
    PLAIN_SENSOR,
    EVERYTHING,
  );
  const corrector = new Corrector(correction, new PoseFinder(trajectory));
  times.forEach((time, k) => {
    corrector.correct(before.east[k]!, before.north[k]!, before.up[k]!, time, time < 16 ? 0 : 1);
    // Records are a tenth of a second apart: between them a straight line stands for the spline.
    expect(anew.east[k]! - corrector.point[0]!).toBeCloseTo(0, 4);
    expect(anew.north[k]! - corrector.point[1]!).toBeCloseTo(0, 4);
    expect(anew.up[k]! - corrector.point[2]!).toBeCloseTo(0, 4);
  });
});

test('a scan angle scale widens beams, and the field of view is that of the widened ones', () => {
  const trajectory = still([0, 0, 100], [0, 0, 0]);
  const [east] = placeOf(trajectory, 100, 0.5, { ...PLAIN_SENSOR, angleScale: 0.01 });
  expect(east).toBeCloseTo(100 * Math.sin(0.505), 9);
});
