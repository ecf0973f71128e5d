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

  test('in sparse woods, where ground is known in one cell of nine, a point on a bush stands out of it', () => {
    const isSeen = (c: number, r: number): boolean => c % 3 === 0 && r % 3 === 0;
    const found = look(
      land(
        (c, r) => slope(c, r) + (c === 30 && r === 24 ? 0.8 : 0),
        (c, r) => (isSeen(c, r) ? { ground: 1, all: 2 } : { ground: 0, all: 2 }),
      ),
    );
    expect(found.map(({ kind }) => kind)).toEqual(['spike']);
    expect(found[0]!.size).toBeCloseTo(0.8, 6);
    // The cell and those about it.
    expect(found[0]!.outline).toEqual([
      [5029, 9023],
      [5032, 9023],
      [5032, 9026],
      [5029, 9026],
    ]);
  });

  test('the foot of a bank at water is no pit, whether the water sends points back or none', () => {
    // A canal of thirteen metres; at one place its foot is seen, a metre lower than the land.
    const canal = (c: number, r: number): number => (c === 14 && r === 25 ? 2 : Math.abs(c - 20) <= 6 ? 1 : 0);
    for (const water of [
      { ground: 0, all: 0 },
      { ground: 0, all: 3, settled: 3 },
    ])
      expect(
        look(
          land(
            (c, r) => 100 - (canal(c, r) === 2 ? 1 : 0),
            (c, r) => (canal(c, r) === 1 ? water : {}),
          ),
        ).filter(({ kind }) => kind === 'pit'),
      ).toEqual([]);
  });

  test('of two like it the one that rests on less comes first', () => {
    const found = look(
      land(
        (c, r) => slope(c, r) + ((c === 20 || c === 40) && r === 24 ? 0.5 : 0),
        (c) => (c === 40 ? { ground: 2, all: 20 } : {}),
      ),
    );
    expect(found.map(({ kind, easting }) => [kind, easting])).toEqual([
      ['spike', 5040.5],
      ['spike', 5020.5],
    ]);
  });

  test('a wall that turns is one place whose edge goes with it', () => {
    // Up along column 20, then east along row 30.
    const found = look(land((c, r) => 100 + (c < 20 || r > 30 ? 2 : 0)));
    expect(found.map(({ kind }) => kind)).toEqual(['step']);
    const { outline } = found[0]!;
    expect(new Set(outline.map(([e]) => e))).toEqual(new Set([5018, 5019, 5022, 5060]));
    const area = outline.reduce(
      (sum, [e, n], k) => sum + (outline.at(k - 1)![0] * n - e * outline.at(k - 1)![1]) / 2,
      0,
    );
    // Two cells along either side of the wall and one beyond: four by 32 m and four by 41 m, nine of them twice. The box about it has 1 386.
    expect(area).toBe(4 * 32 + 4 * 41 - 9);
  });

  test('on flat land a wall of 0.8 m is a step; on land that falls as much everywhere it is none, nor is a steep bank', () => {
    expect(look(land((c) => 100 + (c >= 30 ? 0.8 : 0))).map(({ kind, size }) => [kind, size.toFixed(1)])).toEqual([
      ['step', '0.8'],
    ]);
    expect(look(land((c) => 100 + 0.7 * c))).toEqual([]);
    expect(look(land((c) => 100 + 0.9 * Math.min(4, Math.max(0, c - 30))))).toEqual([]);
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
