import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { channelsOf, flowOver, sinksOf } from './index.js';

const grid = (columns: number, rows: number, z: (column: number, row: number) => number): Float64Array =>
  Float64Array.from({ length: columns * rows }, (_, at) => z(at % columns, Math.floor(at / columns)));
const frame = (columns: number, rows: number, cell = 1) => ({ east: 0, north: 0, cell, columns, rows });

describe('flow over land whose slope is known', () => {
  test('down a plane that falls to the east every cell runs east, and each row gathers from west to east', () => {
    const flow = flowOver(grid(6, 5, (column) => -column), frame(6, 5)); // prettier-ignore
    for (let row = 1; row < 4; row++)
      for (let column = 0; column < 5; column++) {
        expect(flow.to[row * 6 + column]).toBe(row * 6 + column + 1);
        expect(flow.gathered[row * 6 + column]).toBe(column + 1);
      }
    expect(flow.to[2 * 6 + 5]).toBe(-1);
  });

  test('down a plane that falls to the north-east it runs across the corners', () => {
    const flow = flowOver(grid(6, 6, (column, row) => -column - row), frame(6, 6)); // prettier-ignore
    expect(flow.to[2 * 6 + 2]).toBe(3 * 6 + 3);
  });

  test('off a cone water runs away from its top, every cell further out than the one before', () => {
    const size = 41;
    const far = (at: number): number => Math.hypot((at % size) - 20, Math.floor(at / size) - 20);
    const flow = flowOver(
      grid(size, size, (column, row) => -Math.hypot(column - 20, row - 20)),
      frame(size, size),
    );
    for (const at of flow.order) if (flow.to[at]! >= 0) expect(far(flow.to[at]!)).toBeGreaterThan(far(at));
  });

  test('into a funnel all of it gathers at the bottom, which overflows where the rim is lowest', () => {
    const size = 21;
    const z = grid(
      size,
      size,
      (column, row) => Math.hypot(column - 10, row - 10) - (row === 10 && column > 17 ? 2 : 0),
    );
    const flow = flowOver(z, frame(size, size));
    const [sink] = sinksOf(z, flow, frame(size, size), 0.5);
    expect(sink).toMatchObject({ easting: 10.5, northing: 10.5, elevation: 0 });
    // It overflows at the notch: 10 cells out and 2 lower.
    expect(sink!.depth).toBeCloseTo(8, 9);
    // Half of what leaves the land leaves by the notch at least.
    expect(flow.gathered[10 * size + 20]).toBeGreaterThan(200);
  });
});

describe('on any land', () => {
  const land = fc.tuple(fc.integer({ min: 3, max: 9 }), fc.integer({ min: 3, max: 9 })).chain(([columns, rows]) =>
    fc
      .array(
        fc.oneof({ weight: 9, arbitrary: fc.integer({ min: 0, max: 6 }) }, { weight: 1, arbitrary: fc.constant(NaN) }),
        { minLength: columns * rows, maxLength: columns * rows },
      ) // prettier-ignore
      .map((z) => ({ columns, rows, z: Float64Array.from(z) })),
  );

  /** The lowest surface without pits over a grid, the slow way (Planchon and Darboux 2001): lowered until nothing changes. */
  function filledSlowly(z: Float64Array, columns: number, rows: number): Float64Array {
    const isOut = (c: number, r: number): boolean => c < 0 || r < 0 || c >= columns || r >= rows || Number.isNaN(z[r * columns + c]!); // prettier-ignore
    const neighbours = (at: number): [number, number][] => [-1, 0, 1].flatMap((dr) => [-1, 0, 1].map((dc): [number, number] => [(at % columns) + dc, Math.floor(at / columns) + dr])); // prettier-ignore
    const w = z.map((value, at) => (neighbours(at).some(([c, r]) => isOut(c, r)) ? value : Infinity));
    for (let changes = true; changes;) {
      changes = false;
      z.forEach((value, at) => {
        if (Number.isNaN(value)) return;
        for (const [c, r] of neighbours(at)) {
          if (isOut(c, r)) continue;
          const level = Math.max(value, w[r * columns + c]!);
          if (level < w[at]!) [w[at], changes] = [level, true];
        }
      });
    }
    return w;
  }

  test('pits are filled to where they overflow and no higher; all water leaves; nothing runs uphill or round', () => {
    fc.assert(
      fc.property(land, ({ columns, rows, z }) => {
        const flow = flowOver(z, { columns, rows });
        expect([...flow.filled]).toEqual([...filledSlowly(z, columns, rows)]);
        const known = z.filter((value) => !Number.isNaN(value)).length;
        let left = 0;
        for (const at of flow.order) {
          if (flow.to[at]! < 0) left += flow.gathered[at]!;
          else expect(flow.filled[flow.to[at]!]).toBeLessThanOrEqual(flow.filled[at]!);
        }
        expect(left).toBe(known);
      }),
      { seed: 1707, numRuns: 300 },
    );
  });
});

test('a valley with an arm: two channels meet in one, elevations never rise down the water', () => {
  const [columns, rows] = [60, 60];
  // A valley along x = 30 that falls to the south, an arm from the west that joins it at y = 30.
  const z = grid(columns, rows, (c, r) => Math.min(Math.abs(c - 30) * 0.5 + r * 0.1, Math.abs(r - 30) * 0.5 + (30 - c) * 0.12 + 3 + (c > 30 ? 99 : 0))); // prettier-ignore
  const flow = flowOver(z, frame(columns, rows, 2));
  const channels = channelsOf(z, flow, frame(columns, rows, 2), 1200);
  expect(channels.length).toBeGreaterThanOrEqual(3);
  const main = channels[0]!;
  expect(main.shape.northing.at(-1)).toBeLessThan(6);
  expect(Math.abs(main.shape.easting.at(-1)! - 61)).toBeLessThan(3);
  for (const { shape } of channels)
    for (let k = 1; k < shape.elevation.length; k++) expect(shape.elevation[k]).toBeLessThanOrEqual(shape.elevation[k - 1]!); // prettier-ignore
});
