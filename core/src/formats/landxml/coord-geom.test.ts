import { describe, expect, test } from 'vitest';
import { alignmentElevation, coordGeomPlaces } from './index.js';

const at = (x: number, y: number) => ({ x, y, z: NaN });

describe('the geometry of an alignment', () => {
  test('a line and a curve that begins where it ends: the corner in common is said once', () => {
    const places = coordGeomPlaces(
      [
        { kind: 'line', start: at(0, 0), end: at(10, 0) },
        { kind: 'curve', start: at(10, 0), centre: at(10, 5), end: at(15, 5), isClockwise: false },
      ],
      0.001,
    );
    expect(places.filter(({ x, y }) => x === 10 && y === 0)).toHaveLength(1);
    for (const { x, y } of places.slice(1)) expect(Math.hypot(x - 10, y - 5)).toBeCloseTo(5, 9);
  });

  test('clockwise goes the other way round', () => {
    const curve = { kind: 'curve', start: at(0, 5), centre: at(0, 0), end: at(5, 0), isClockwise: true } as const;
    for (const { x, y } of coordGeomPlaces([curve], 0.001)) expect(Math.min(x, y)).toBeGreaterThanOrEqual(-1e-9);
  });

  test('a clothoid of 60 into a curve of 300: x = L (1 − L²/40R² + …), y = L²/6R (1 − L²/56R² + …), the series of every handbook', () => {
    const [length, radius] = [60, 300];
    const t = (length * length) / (radius * radius);
    const end = at(
      length * (1 - t / 40 + (t * t) / 3456),
      (length * length * (1 - t / 56 + (t * t) / 7040)) / (6 * radius),
    );
    const spiral = coordGeomPlaces(
      [{ kind: 'spiral', start: at(0, 0), tangent: at(40, 0), end, length, radiusStart: Infinity, radiusEnd: radius, isClockwise: false }], // prettier-ignore
      0.01,
    );
    expect(spiral.at(-1)!.x).toBeCloseTo(end.x, 6);
    // Near the beginning y = x³ / 6RL.
    const first = spiral.filter(({ x }) => x > 5 && x < 35);
    expect(first.length).toBeGreaterThan(3);
    for (const { x, y } of first) expect(Math.abs(y - x ** 3 / (6 * radius * length))).toBeLessThan(0.002);
  });
});

describe('the profile of an alignment', () => {
  const profile = [
    { station: 0, elevation: 100, length: 0 },
    { station: 100, elevation: 104, length: 40 },
    { station: 200, elevation: 102, length: 0 },
  ];

  test('straight grades outside the curve', () => {
    expect(alignmentElevation(profile, 50)).toBeCloseTo(102, 9);
    expect(alignmentElevation(profile, 150)).toBeCloseTo(103, 9);
  });

  test('at the vertex the parabola lies (g1 − g2) L / 8 below: 6 % over 40 is 0.30', () => {
    expect(alignmentElevation(profile, 100)).toBeCloseTo(104 - 0.3, 9);
    // Where it begins and ends it meets the grades.
    expect(alignmentElevation(profile, 80)).toBeCloseTo(103.2, 9);
    expect(alignmentElevation(profile, 120)).toBeCloseTo(103.6, 9);
  });

  test('there is none beyond its ends', () => {
    expect(alignmentElevation(profile, -1)).toBeNaN();
    expect(alignmentElevation(profile, 201)).toBeNaN();
  });
});
