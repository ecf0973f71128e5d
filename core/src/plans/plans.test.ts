import { describe, expect, test } from 'vitest';
import {
  clipLine,
  fittingScale,
  FOOT_SCALES,
  METRIC_SCALES,
  paperLayout,
  PAPERS,
  planSheets,
  roundPlaces,
  roundUnder,
  windowAt,
} from './index.js';

const square = { west: 0, south: 0, east: 10, north: 10 };

describe('paper', () => {
  // ISO 216: A0 has a square metre, sides as 1 to the root of 2, each size half of the one before, whole millimetres.
  test.each([
    ['A1', 1],
    ['A2', 2],
    ['A3', 3],
    ['A4', 4],
  ] as const)('%s is as ISO 216 has it', (paper, halvings) => {
    const [short, long] = PAPERS[paper];
    expect(Math.abs(long / short - Math.SQRT2)).toBeLessThan(0.005);
    expect(Math.abs(short * long - 1e6 / 2 ** halvings) / 1e6).toBeLessThan(0.001);
  });

  test('the map and the strip share the sheet within its border, wider on the left (ISO 5457: 20 and 10 mm)', () => {
    const { width, height, map, strip } = paperLayout('A3', 'landscape');
    expect([width, height]).toEqual([420, 297]);
    expect([map.x, map.y]).toEqual([20, 10]);
    expect(map.x + map.width).toBe(410);
    expect(strip.y).toBe(map.y + map.height);
    expect(strip.y + strip.height).toBe(287);
  });
});

describe('scale and sheets', () => {
  const layout = paperLayout('A3', 'landscape');

  test('a millimetre on paper is a scale of millimetres on land, in feet as in metres', () => {
    const metric = windowAt(layout, 500, 1, 0, 0);
    expect(metric.east - metric.west).toBeCloseTo((layout.map.width / 1000) * 500, 9);
    // One inch to forty feet is 1 to 480.
    const feet = windowAt(layout, 480, 0.3048, 0, 0);
    expect((feet.east - feet.west) / (layout.map.width / 25.4)).toBeCloseTo(40, 9);
  });

  test('the largest scale that fits is chosen; land that fits none has the smallest', () => {
    const land = { west: 0, south: 0, east: 180, north: 100 };
    expect(fittingScale(layout, land, 1, METRIC_SCALES)).toBe(500);
    expect(fittingScale(layout, { ...land, east: 190, north: 109 }, 1, METRIC_SCALES)).toBe(1000);
    expect(fittingScale(layout, { ...land, east: 1e7 }, 1, METRIC_SCALES)).toBe(25_000);
    expect(fittingScale(layout, land, 0.3048, FOOT_SCALES)).toBe(240);
  });

  test('sheets cover all of the land, overlap by a centimetre, and are named from the north-west', () => {
    const land = { west: 1000, south: 5000, east: 1900, north: 5400 };
    const { sheets, columns, rows } = planSheets(layout, land, 1000, 1);
    expect([columns, rows]).toEqual([3, 2]);
    expect(sheets.map(({ name }) => name)).toEqual(['A1', 'A2', 'A3', 'B1', 'B2', 'B3']);
    const [a1, a2, , b1] = sheets.map(({ window }) => window);
    expect(a1!.east - a2!.west).toBeCloseTo(10, 9);
    expect(b1!.north - a1!.south).toBeCloseTo(10, 9);
    expect(Math.min(...sheets.map(({ window }) => window.west))).toBeLessThanOrEqual(land.west);
    expect(Math.max(...sheets.map(({ window }) => window.north))).toBeGreaterThanOrEqual(land.north);
  });

  test('sheets that nobody would want are counted and not laid out', () => {
    const { sheets, columns, rows } = planSheets(layout, { west: 0, south: 0, east: 1e7, north: 1e7 }, 100, 1);
    expect(sheets).toEqual([]);
    expect(columns * rows).toBeGreaterThan(1e9);
  });

  test('land that fits one sheet has one, in the middle', () => {
    const { sheets } = planSheets(layout, { west: 0, south: 0, east: 100, north: 60 }, 500, 1);
    expect(sheets).toHaveLength(1);
    expect((sheets[0]!.window.west + sheets[0]!.window.east) / 2).toBeCloseTo(50, 9);
  });
});

describe('round numbers', () => {
  test.each([
    [50, 50],
    [49.9, 20],
    [0.3, 0.2],
    [1, 1],
    [99, 50],
    [0.1, 0.1],
  ])('under %d: %d', (length, round) => expect(roundUnder(length)).toBeCloseTo(round, 12));

  test('places are multiples of the step, both ends counted', () => {
    expect(roundPlaces(95, 305, 100)).toEqual([100, 200, 300]);
    expect(roundPlaces(100, 300, 100)).toEqual([100, 200, 300]);
    expect(roundPlaces(101, 199, 100)).toEqual([]);
    expect(roundPlaces(-15, 15, 10)).toEqual([-10, 0, 10]);
  });
});

describe('lines cut by a window', () => {
  test('what lies inside stays as it is, in one piece', () => {
    expect(clipLine([1, 5, 9], [1, 6, 1], square)).toEqual([[1, 1, 5, 6, 9, 1]]);
  });

  test('a line through it is cut at both edges, one that leaves and comes back is two pieces', () => {
    expect(clipLine([-5, 15], [5, 5], square)).toEqual([[0, 5, 10, 5]]);
    expect(clipLine([5, 15, 15, 5], [2, 2, 8, 8], square)).toEqual([
      [5, 2, 10, 2],
      [10, 8, 5, 8],
    ]);
  });

  test('what passes by is nothing; what runs along an edge is kept', () => {
    expect(clipLine([-5, 15], [11, 11], square)).toEqual([]);
    expect(clipLine([-5, 5], [8, 18], square)).toEqual([]);
    expect(clipLine([-5, 15], [10, 10], square)).toEqual([[0, 10, 10, 10]]);
  });

  test('pieces have the length of the line within: a spiral against the sum over small steps', () => {
    const count = 4000;
    const at = Array.from({ length: count }, (_, k) => [
      5 + 0.002 * k * Math.cos(k / 40),
      5 + 0.002 * k * Math.sin(k / 40),
    ]);
    const [x, y] = [at.map(([e]) => e!), at.map(([, n]) => n!)];
    const lengthOf = (piece: readonly number[]): number => {
      let sum = 0;
      for (let v = 2; v < piece.length; v += 2)
        sum += Math.hypot(piece[v]! - piece[v - 2]!, piece[v + 1]! - piece[v - 1]!);
      return sum;
    };
    const inside = (e: number, n: number): boolean => e >= 0 && e <= 10 && n >= 0 && n <= 10;
    let sum = 0;
    const steps = 50;
    for (let k = 0; k + 1 < count; k++)
      for (let s = 0; s < steps; s++) {
        const t = (s + 0.5) / steps;
        if (inside(x[k]! + t * (x[k + 1]! - x[k]!), y[k]! + t * (y[k + 1]! - y[k]!)))
          sum += Math.hypot(x[k + 1]! - x[k]!, y[k + 1]! - y[k]!) / steps;
      }
    const cut = clipLine(x, y, square).reduce((total, piece) => total + lengthOf(piece), 0);
    expect(cut).toBeCloseTo(sum, 1);
  });
});
