import { describe, expect, test } from 'vitest';
import { seededRandom } from '../task/index.js';
import { adjustStrips, type AdjustmentSettings } from './adjustment.js';
import { toDegrees, toRadians } from './attitude.js';
import { balancedPairs } from './choose-pairs.js';
import { Corrector, noCorrection, type Correction } from './correction.js';
import { summariseByPair } from './differences.js';
import { proposeGroups } from './propose-groups.js';
import { fitPatches, pairPatches, type PatchPairs } from './patches.js';
import { PoseFinder, type Trajectory } from './trajectory.js';

const SETTINGS: AdjustmentSettings = {
  groups: ['boresight', 'stripHeight'],
  metre: 1,
  timeStep: 10,
  stiffness: 0.02,
};
const SPANS = [
  { from: 0, to: 40 },
  { from: 60, to: 100 },
  { from: 120, to: 160 },
];
/** Two strips along, opposite ways, and one across, 80 over the land. */
const LEGS = [
  { from: [0, 60], to: [320, 60] },
  { from: [320, 110], to: [0, 110] },
  { from: [160, -60], to: [160, 260] },
] as const;

function flight(tilt = 1): Trajectory {
  const rows: number[][] = [];
  SPANS.forEach(({ from, to }, k) => {
    const leg = LEGS[k]!;
    for (let t = from - 1; t <= to + 1; t += 0.05) {
      const share = (t - from) / (to - from);
      rows.push([
        t,
        leg.from[0] + share * (leg.to[0] - leg.from[0]),
        leg.from[1] + share * (leg.to[1] - leg.from[1]),
        80 + Math.sin(t / 3),
        tilt * 0.03 * Math.sin(t / 2),
        tilt * 0.02 * Math.cos(t / 2.7),
        Math.atan2(leg.to[0] - leg.from[0], leg.to[1] - leg.from[1]),
      ]);
    }
  });
  const column = (k: number): Float64Array => Float64Array.from(rows, (row) => row[k]!);
  return {
    time: column(0),
    east: column(1),
    north: column(2),
    up: column(3),
    roll: column(4),
    pitch: column(5),
    heading: column(6),
  };
}

const house = (x: number, y: number): number => {
  // Roofs in rows: two slopes of 35 degrees each, ridges both ways.
  const [u, v] = [((x % 40) + 40) % 40, ((y % 40) + 40) % 40];
  if (u < 8 || u > 32 || v < 8 || v > 32) return 0;
  const isTurned = (Math.floor(x / 40) + Math.floor(y / 40)) % 2 === 0;
  return 12 - 0.7 * Math.abs((isTurned ? u : v) - 20);
};

const LANDS: Readonly<Record<string, (x: number, y: number) => number>> = {
  'one plane': () => 10,
  'a tilted plane and another': (x, y) => (x < 160 ? 0.15 * x + 0.1 * y : 24 + 0.1 * y - 0.2 * (x - 160)),
  'roofs of houses': house,
};

const finder = new PoseFinder(flight());
const steady = new PoseFinder(flight(0));

/** Points of the land as each strip sees them, moved by the inverse of what would correct them. */
function surveyed(land: (x: number, y: number) => number, wrong: Correction, noise = 0, seed = 1, way = finder) {
  const random = seededRandom(seed);
  const x: number[] = [];
  const y: number[] = [];
  const z: number[] = [];
  const time: number[] = [];
  const strip: number[] = [];
  SPANS.forEach(({ from, to }, s) => {
    const leg = LEGS[s]!;
    const isAcross = s === 2;
    for (let k = 0; k < 60_000; k++) {
      const [px, py] = [20 + 280 * random(), 20 + 130 * random()];
      const share = isAcross
        ? (py - leg.from[1]) / (leg.to[1] - leg.from[1])
        : (px - leg.from[0]) / (leg.to[0] - leg.from[0]);
      const off = isAcross ? px - 160 : py - leg.from[1];
      if (share < 0 || share > 1 || Math.abs(off) > 70) continue;
      const t = from + share * (to - from);
      // Where it must lie now, so that the correction brings it onto the land: a few steps of a fixed point.
      const corrector = new Corrector(wrong, way);
      const aim = [px, py, land(px, py) + noise * (random() + random() + random() - 1.5)] as const;
      const now = [...aim] as [number, number, number];
      for (let round = 0; round < 4; round++) {
        corrector.correct(...now, t, s);
        for (let axis = 0; axis < 3; axis++) now[axis]! += aim[axis]! - corrector.point[axis]!;
      }
      x.push(now[0]);
      y.push(now[1]);
      z.push(now[2]);
      time.push(t);
      strip.push(s);
    }
  });
  return {
    count: x.length,
    x: Float64Array.from(x),
    y: Float64Array.from(y),
    z: Float64Array.from(z),
    time: Float64Array.from(time),
    strip: Uint16Array.from(strip),
  };
}

const FRAME = { west: 0, south: 0, cell: 4, columns: 80, rows: 45 };
const pairsOf = (points: ReturnType<typeof surveyed>, roughness: number): PatchPairs =>
  pairPatches(fitPatches(points, FRAME), { roughness, slope: 2, slopeApart: 0.2 });

/** Adjusts, makes patches of the corrected points, adjusts again: as the whole chain does. */
function adjusted(points: ReturnType<typeof surveyed>, settings: AdjustmentSettings, roughness: number) {
  let correction = noCorrection(SPANS);
  let result = adjustStrips(pairsOf(points, roughness), [], { spans: SPANS, leverArm: [0, 0, 0] }, finder, settings);
  const total = new Map(result.unknowns.map((u, k) => [k, u.value]));
  for (let loop = 0; loop < 3; loop++) {
    correction = {
      ...correction,
      boresight: correction.boresight.map((v, k) => v + result.correction.boresight[k]!) as [number, number, number],
      strips: correction.strips.map((part, k) => ({
        ...part,
        shift: part.shift.map((v, axis) => v + result.correction.strips[k]!.shift[axis]!) as [number, number, number],
      })),
    };
    const corrector = new Corrector(correction, finder);
    const moved = { ...points, x: points.x.slice(), y: points.y.slice(), z: points.z.slice() };
    for (let i = 0; i < points.count; i++) {
      corrector.correct(points.x[i]!, points.y[i]!, points.z[i]!, points.time[i]!, points.strip[i]!);
      [moved.x[i], moved.y[i], moved.z[i]] = [...corrector.point] as [number, number, number];
    }
    result = adjustStrips(pairsOf(moved, roughness), [], { spans: SPANS, leverArm: [0, 0, 0] }, finder, settings);
    result.unknowns.forEach((u, k) => total.set(k, total.get(k)! + u.value));
  }
  return { result, values: result.unknowns.map((_, k) => total.get(k)!) };
}

const WRONG: Correction = {
  ...noCorrection(SPANS),
  boresight: [toRadians(0.1), toRadians(-0.06), toRadians(0.12)],
  strips: [0.04, -0.05, 0.01].map((up) => ({ shift: [0, 0, up], tilt: [0, 0, 0], drift: [0, 0, 0] })),
};

describe('closed cases: an error put in is found again', () => {
  test('roofs tell all three angles and the heights', () => {
    const { values } = adjusted(surveyed(house, WRONG), SETTINGS, 0.002);
    const [roll, pitch, heading, ...heights] = values as [number, number, number, ...number[]];
    expect(toDegrees(roll)).toBeCloseTo(0.1, 3);
    expect(toDegrees(pitch)).toBeCloseTo(-0.06, 3);
    expect(toDegrees(heading)).toBeCloseTo(0.12, 3);
    [0.04, -0.05, 0.01].forEach((up, k) => expect(heights[k]).toBeCloseTo(up, 3));
  });

  test('two planes with noise: within three of the standard deviations that are stated', () => {
    const { values, result } = adjusted(surveyed(LANDS['a tilted plane and another']!, WRONG, 0.02), SETTINGS, 0.03);
    const truth = [...WRONG.boresight, 0.04, -0.05, 0.01];
    result.unknowns.forEach((unknown, k) => {
      if (!unknown.isHeld)
        expect(Math.abs(values[k]! - truth[k]!), `${unknown.group} ${unknown.axis}`).toBeLessThan(
          3 * unknown.standardDeviation + 1e-5,
        );
    });
  });

  test('one level plane under a steady platform tells the roll and not the heading, which is held and named', () => {
    const wrong = { ...noCorrection(SPANS), boresight: [toRadians(0.1), 0, 0] as [number, number, number] };
    const pairs = pairsOf(surveyed(LANDS['one plane']!, wrong, 0, 1, steady), 0.002);
    const result = adjustStrips(pairs, [], { spans: SPANS, leverArm: [0, 0, 0] }, steady, SETTINGS);
    const of = (axis: number) => result.unknowns.find(({ group, axis: a }) => group === 'boresight' && a === axis)!;
    expect(of(0).isHeld).toBe(false);
    expect(of(2).isHeld).toBe(true);
    expect(of(2).value).toBe(0);
  });
});

test('nothing wrong: nothing found beyond three standard deviations', () => {
  const { values, result } = adjusted(surveyed(house, noCorrection(SPANS), 0.02, 9), SETTINGS, 0.03);
  result.unknowns.forEach((unknown, k) =>
    expect(Math.abs(values[k]!)).toBeLessThanOrEqual(3 * unknown.standardDeviation + 1e-6),
  );
});

test('without a trajectory the heights of strips are found, and their mean stays', () => {
  const heights = noCorrection(SPANS);
  heights.strips.forEach(({ shift }, k) => (shift[2] = [0.1, -0.02, 0.01][k]!));
  const points = surveyed(house, heights);
  const found = adjustStrips(pairsOf(points, 0.002), [], { spans: SPANS, leverArm: [0, 0, 0] }, undefined, {
    ...SETTINGS,
    groups: ['stripHeight'],
  });
  [0.07, -0.05, -0.02].forEach((up, k) => expect(found.unknowns[k]!.value).toBeCloseTo(up, 4));
});

test('control ties the heights down', () => {
  const heights = noCorrection(SPANS);
  heights.strips.forEach(({ shift }, k) => (shift[2] = [0.1, -0.02, 0.01][k]!));
  const points = surveyed(LANDS['one plane']!, heights);
  const control = [0, 1, 2, 3].map((k) => ({
    number: `C${k}`,
    strip: 0,
    time: 10 + k,
    x: 60 + 20 * k,
    y: 70,
    z: 9.9,
    slopeEast: 0,
    slopeNorth: 0,
    elevation: 10,
    sigma: 0.01,
  }));
  const found = adjustStrips(pairsOf(points, 0.002), control, { spans: SPANS, leverArm: [0, 0, 0] }, undefined, {
    ...SETTINGS,
    groups: ['stripHeight'],
  });
  [0.1, -0.02, 0.01].forEach((up, k) => expect(found.unknowns[k]!.value).toBeCloseTo(up, 3));
});

test('moving everything together changes no difference between strips', () => {
  const points = surveyed(house, WRONG);
  const before = summariseByPair(pairsOf(points, 0.01));
  const moved = {
    ...points,
    x: points.x.map((v) => v + 4000),
    y: points.y.map((v) => v - 8000),
    z: points.z.map((v) => v + 55),
  };
  const patches = fitPatches(moved, { ...FRAME, west: 4000, south: -8000 });
  const after = summariseByPair(pairPatches(patches, { roughness: 0.01, slope: 2, slopeApart: 0.2 }));
  expect(after.all.count).toBe(before.all.count);
  expect(after.all.rmsd).toBeCloseTo(before.all.rmsd, 9);
  expect(after.all.median).toBeCloseTo(before.all.median, 9);
});

test('a choice of pairs keeps the slopes that are few, and is the same in whichever order they come', () => {
  const pairs = pairsOf(surveyed(house, WRONG), 0.01);
  const few = balancedPairs(pairs, 300);
  expect(few.count).toBeLessThanOrEqual(300);
  const steep = (p: PatchPairs): number =>
    p.slopeEast.reduce((n, e, k) => n + (Math.hypot(e, p.slopeNorth[k]!) > 0.1 ? 1 : 0), 0);
  expect(steep(few) / few.count).toBeGreaterThan(steep(pairs) / pairs.count);
});

describe('what a flight is to be corrected by, told by the flight', () => {
  const base = { spans: SPANS, leverArm: [0, 0, 0] as [number, number, number] };
  const { groups: _, ...settings } = SETTINGS;
  const proposedFor = (wrong: Correction, noise = 0.02) =>
    proposeGroups(pairsOf(surveyed(house, wrong, noise, 5), 0.06), [], base, finder, settings);

  test('nothing more than the usual where nothing more is wrong', () => {
    expect(proposedFor(noCorrection(SPANS))).toEqual({ groups: ['boresight', 'stripHeight'], because: [] });
    expect(proposedFor(WRONG).groups).toEqual(['boresight', 'stripHeight']);
  });

  test('heights that drift along each strip', () => {
    const wrong = noCorrection(SPANS);
    wrong.strips.forEach(({ drift }, k) => (drift[2] = [0.12, -0.1, 0.08][k]!));
    const { groups, because } = proposedFor(wrong);
    expect(groups).toContain('stripDrift');
    expect(because[0]!.with).toBeLessThan(0.8 * because[0]!.without);
  });

  test('scan angles that are too narrow', () => {
    const wrong = { ...noCorrection(SPANS), angleScale: 0.004 };
    expect(proposedFor(wrong).groups).toContain('angleScale');
  });

  test('without a trajectory heights alone, and drifts where there are some', () => {
    const pairs = pairsOf(surveyed(house, noCorrection(SPANS), 0.02, 5), 0.06);
    expect(proposeGroups(pairs, [], base, undefined, settings).groups).toEqual(['stripHeight']);
  });
});

test('no overlap, nothing to solve, and more unknowns than can be: told in words', () => {
  const pairs = pairsOf(surveyed(house, noCorrection(SPANS)), 0.01);
  const base = { spans: SPANS, leverArm: [0, 0, 0] as [number, number, number] };
  const none = balancedPairs(pairs, 0);
  expect(() => adjustStrips(none, [], base, finder, SETTINGS)).toThrow(/share 0 smooth patches/);
  expect(() => adjustStrips(pairs, [], base, finder, { ...SETTINGS, groups: [] })).toThrow(/Nothing is to be solved/);
  expect(() => adjustStrips(pairs, [], base, finder, { ...SETTINGS, groups: ['timeTilt'], timeStep: 0.1 })).toThrow(
    /are more than the 800/,
  );
});
