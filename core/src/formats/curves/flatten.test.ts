import { describe, expect, test } from 'vitest';
import { readDxfLines } from '../dxf/index.js';
import { flattenArc, flattenBulge, flattenSpline, splineFault } from './index.js';

const O = { x: 0, y: 0, z: 0 };

describe('arcs as legs', () => {
  test('legs stay within the tolerance: the middle of each lies r (1 − cos t/2) inside', () => {
    const places = flattenArc(O, 10, 0, Math.PI, 0.01);
    for (let k = 1; k < places.length; k++) {
      const [a, b] = [places[k - 1]!, places[k]!];
      expect(10 - Math.hypot((a.x + b.x) / 2, (a.y + b.y) / 2)).toBeLessThanOrEqual(0.01 + 1e-9);
    }
    expect(places.length).toBeGreaterThan(20);
    expect(places.length).toBeLessThan(60);
  });

  test('a bulge of 1 is half a circle, to the right of the way; of −1 to the left (public DXF reference, group 42)', () => {
    const lowest = (bulge: number): number[] =>
      flattenBulge({ x: 0, y: 0, z: 0 }, { x: 2, y: 0, z: 0 }, bulge, 0.001).map(({ y }) => y);
    expect(Math.min(...lowest(1))).toBeCloseTo(-1, 3);
    expect(Math.max(...lowest(-1))).toBeCloseTo(1, 3);
  });

  test('a quarter circle has the bulge tan(90° / 4): all of it at one distance from its centre', () => {
    const arc = flattenBulge({ x: 1, y: 0, z: 0 }, { x: 0, y: 1, z: 0 }, Math.tan(Math.PI / 8), 0.0001);
    for (const { x, y } of arc) expect(Math.hypot(x, y)).toBeCloseTo(1, 9);
  });
});

describe('splines as legs', () => {
  // A rational quadratic spline is exactly a circle: weights 1, cos 45°, 1 (Piegl and Tiller 1997, The NURBS Book, 7.3; from memory).
  const quarter = {
    degree: 2,
    knots: [0, 0, 0, 1, 1, 1],
    control: [{ x: 1, y: 0, z: 5 }, { x: 1, y: 1, z: 5 }, { x: 0, y: 1, z: 5 }], // prettier-ignore
    weights: [1, Math.SQRT1_2, 1],
  };

  test('a quarter of a circle, its ends exact', () => {
    const places = flattenSpline(quarter, 0.001);
    for (const { x, y, z } of places) {
      expect(Math.hypot(x, y)).toBeCloseTo(1, 9);
      expect(z).toBeCloseTo(5, 9);
    }
    expect([places[0]!.x, places[0]!.y]).toEqual([1, 0]);
    expect(places.at(-1)!.y).toBeCloseTo(1, 12);
  });

  test.each([
    ['too few control points', { ...quarter, control: quarter.control.slice(1) }],
    ['knots that go back', { ...quarter, knots: [0, 0, 1, 0, 1, 1] }],
    ['a knot too few', { ...quarter, knots: [0, 0, 0, 1, 1] }],
    ['a weight of 0', { ...quarter, weights: [1, 0, 1] }],
  ])('%s is no spline', (_, spline) => expect(splineFault(spline)).toBeDefined());
});

describe('curves of a drawing', () => {
  const drawing = (...groups: (string | number)[]): string =>
    ['0', 'SECTION', '2', 'ENTITIES', ...groups.map(String), '0', 'ENDSEC', '0', 'EOF'].join('\n');

  test('an arc from 0 to 90 degrees about 100, 200', () => {
    const text = drawing(0, 'ARC', 8, 'KERB', 10, 100, 20, 200, 30, 7, 40, 5, 50, 0, 51, 90);
    const [line] = readDxfLines(text, 'arc.dxf', 0.001);
    expect(line!.layer).toBe('KERB');
    expect([line!.easting[0], line!.northing[0], line!.elevation[0]]).toEqual([105, 200, 7]);
    expect(line!.northing.at(-1)).toBeCloseTo(205, 9);
  });

  test('a circle closes; a polyline with a bulge goes round', () => {
    const [circle] = readDxfLines(drawing(0, 'CIRCLE', 8, 'X', 10, 0, 20, 0, 30, 3, 40, 2), 'c.dxf', 0.001);
    expect(circle!.isClosed).toBe(true);
    const bulged = drawing(0, 'LWPOLYLINE', 8, 'X', 38, 4, 10, 0, 20, 0, 42, 1, 10, 2, 20, 0);
    const [line] = readDxfLines(bulged, 'b.dxf', 0.001);
    expect(Math.min(...line!.northing)).toBeCloseTo(-1, 3);
  });

  test('a spline of a drawing, and one that is none, told with its line', () => {
    const spline = (knots: number[]): string => drawing(0, 'SPLINE', 8, 'X', 71, 2, ...knots.flatMap((k) => [40, k]), 10, 0, 20, 0, 30, 1, 10, 1, 20, 2, 30, 1, 10, 2, 20, 0, 30, 1); // prettier-ignore
    const [line] = readDxfLines(spline([0, 0, 0, 1, 1, 1]), 's.dxf', 0.001);
    // The middle of a quadratic: a quarter of its ends and half of the vertex between.
    expect(Math.max(...line!.northing)).toBeCloseTo(1, 3);
    expect(() => readDxfLines(spline([0, 0, 1]), 's.dxf')).toThrow(/3 knots/);
  });
});
