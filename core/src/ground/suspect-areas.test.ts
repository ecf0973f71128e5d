import { describe, expect, test } from 'vitest';
import { suspectLimits, findSuspectAreas, type SuspectGrid, type SuspectArea } from './index.js';

const [COLUMNS, ROWS] = [60, 50];

/** Land of one-metre cells, ten points each, all ground; `change` may put a cell otherwise. */
function land(
  height: (column: number, row: number) => number,
  change: (column: number, row: number) => { ground?: number; all?: number; settled?: number } = () => ({}),
): SuspectGrid {
  const cells = COLUMNS * ROWS;
  const grid = {
    east: 5000,
    north: 9000,
    cell: 1,
    columns: COLUMNS,
    rows: ROWS,
    ground: new Uint32Array(cells),
    elevation: new Float64Array(cells),
    settled: new Uint32Array(cells),
    all: new Uint32Array(cells),
  };
  for (let i = 0; i < cells; i++) {
    const [column, row] = [i % COLUMNS, Math.floor(i / COLUMNS)];
    const { ground = 10, all = 10, settled = 0 } = change(column, row);
    grid.ground[i] = ground;
    grid.all[i] = all;
    grid.settled[i] = settled;
    grid.elevation[i] = ground > 0 ? height(column, row) : NaN;
  }
  return grid;
}

const slope = (column: number, row: number): number => 100 + 0.3 * column + 0.1 * row;
const look = (grid: SuspectGrid): SuspectArea[] => findSuspectAreas(grid, suspectLimits);

describe('suspect areas of the ground', () => {
  test('even land, a slope, a V-shaped ditch and the foot of a bank are not suspect', () => {
    expect(look(land(slope))).toEqual([]);
    expect(look(land((column) => 100 + 0.5 * Math.abs(column - 30)))).toEqual([]);
    expect(look(land((column) => 100 + Math.max(0, column - 30) * 0.6))).toEqual([]);
  });

  test('a spike and a pit are found where they are, by their size', () => {
    const found = look(land((c, r) => slope(c, r) + (c === 20 && r === 10 ? 0.5 : c === 40 && r === 30 ? -0.9 : 0)));
    expect(found.map(({ kind, size }) => [kind, Number(size.toFixed(6))])).toEqual([
      ['pit', 0.9],
      ['spike', 0.5],
    ]);
    expect([found[0]!.easting, found[0]!.northing]).toEqual([5040.5, 9030.5]);
    expect(found[0]!.elevation).toBeCloseTo(slope(40, 30) - 0.9, 9);
  });

  test('a hole is as wide as the widest circle in it; under a building or water it is none', () => {
    const inside = (c: number, r: number): boolean => c >= 10 && c < 22 && r >= 10 && r < 40;
    const hole = look(land(slope, (c, r) => (inside(c, r) ? { ground: 0 } : {})));
    expect(hole.map(({ kind }) => kind)).toEqual(['hole']);
    expect(hole[0]!.size).toBeCloseTo(12, 0);
    expect(look(land(slope, (c, r) => (inside(c, r) ? { ground: 0, settled: 10 } : {})))).toEqual([]);
    // Three cells across is no hole at a limit of six metres.
    expect(look(land(slope, (c, r) => (c >= 10 && c < 13 && r > 5 && r < 40 ? { ground: 0 } : {})))).toEqual([]);
  });

  test('land without points that is open to the outside is not part of the survey', () => {
    expect(look(land(slope, (c) => (c < 15 ? { ground: 0, all: 0 } : {})))).toEqual([]);
  });

  test('ground on a roof stands over its surroundings, across a gap as well', () => {
    const on = (c: number, r: number): boolean => c >= 30 && c < 40 && r >= 20 && r < 28;
    const rim = (c: number, r: number): boolean => c >= 29 && c < 41 && r >= 19 && r < 29 && !on(c, r);
    const found = look(
      land(
        (c, r) => slope(c, r) + (on(c, r) ? 4 : 0),
        (c, r) => (rim(c, r) ? { ground: 0 } : {}),
      ),
    );
    expect(found[0]!.kind).toBe('roof');
    expect(found[0]!.size).toBeCloseTo(4, 0);
    expect(found[0]!.width).toBe(10);
  });

  test('an abrupt step is one place along its whole length', () => {
    const found = look(land((c, r) => 100 + (c >= 30 ? 2 : 0) + 0.01 * r));
    expect(found.map(({ kind }) => kind)).toEqual(['step']);
    expect(found[0]!.size).toBeCloseTo(2, 6);
    expect(found[0]!.width).toBe(ROWS);
  });

  test('ground that rests on one point in a hundred is thin', () => {
    const found = look(land(slope, (c, r) => (c >= 20 && c < 30 && r >= 20 && r < 30 ? { ground: 1, all: 100 } : {})));
    expect(found.map(({ kind }) => kind)).toEqual(['thin']);
    expect(found[0]!.size).toBeCloseTo(0.01, 6);
  });
});
