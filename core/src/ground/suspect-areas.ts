import { connectedCells, eachBeyondEdge } from '../raster/index.js';
import { SUSPECT_KINDS, type SuspectArea, type SuspectGrid, type SuspectLimits } from './suspect-area.js';
import { placeOf } from './suspect-place.js';
import { steps } from './suspect-steps.js';
import { standingOut } from './surroundings.js';

/** In metres. What practitioners look for in a shaded surface: common practice, no source; the figures are ours. */
export const suspectLimits: SuspectLimits = { spike: 0.2, hole: 6, roof: 1.2, step: 0.6, share: 0.02 };

const MOST_OF_A_KIND = 200;

/**
 * Areas where the ground found is most likely wrong, the worst first: spikes and pits, holes wider than a limit, ground
 * that stands like a roof over its surroundings, abrupt steps, and ground that rests on few of many points.
 */
export function findSuspectAreas(grid: SuspectGrid, limits: SuspectLimits): SuspectArea[] {
  const found = [
    ...spikes(grid, limits),
    ...holes(grid, limits),
    ...roofs(grid, limits),
    ...steps(grid, limits),
    ...thinSupport(grid, limits),
  ];
  const kept = SUSPECT_KINDS.flatMap((kind) =>
    found
      .filter((area) => area.kind === kind)
      .sort(byWeight)
      .slice(0, MOST_OF_A_KIND),
  );
  return kept.sort(byWeight);
}

function byWeight(a: SuspectArea, b: SuspectArea): number {
  return b.weight - a.weight || a.easting - b.easting || a.northing - b.northing;
}

function spikes(grid: SuspectGrid, { spike }: SuspectLimits): SuspectArea[] {
  const { columns, elevation, settled, all } = grid;
  // Land is not looked for beyond water and buildings, nor beyond where nothing at all was seen, as on water: its edge would be a pit.
  const isEmpty = (i: number): boolean => all[i] === 0;
  const isShut = (i: number): boolean =>
    settled[i]! * 2 > all[i]! ||
    (isEmpty(i) && (isEmpty(i - 1) || isEmpty(i + 1)) && (isEmpty(i - columns) || isEmpty(i + columns)));
  const off = standingOut(grid, elevation, spike, spike / suspectLimits.spike, elevation, isShut);
  return [1, -1].flatMap((sign) =>
    connectedCells(grid, (i) => off[i]! * sign > spike).flatMap((cells): SuspectArea[] => {
      const worst = cells.reduce((best, i) => (Math.abs(off[i]!) > Math.abs(off[best]!) ? i : best));
      const size = Math.abs(off[worst]!);
      return [
        {
          ...placeOf(grid, cells, elevation[worst]!),
          kind: sign > 0 ? 'spike' : 'pit',
          size,
          // A spike of one cell is seen in every contour; one as wide as a bank may be a bank.
          weight: ((2 * Math.min(4, size / spike)) / Math.sqrt(cells.length)) * (1 + doubted(grid, cells)),
        },
      ];
    }),
  );
}

/** Of all that was seen in some cells the share that is no ground: what rests on little is more likely wrong. */
function doubted({ ground, all }: SuspectGrid, cells: readonly number[]): number {
  const of = (counts: Uint32Array): number => cells.reduce((sum, i) => sum + counts[i]!, 0);
  return 1 - of(ground) / Math.max(1, of(all));
}

function holes(grid: SuspectGrid, { hole }: SuspectLimits): SuspectArea[] {
  const { columns, rows, cell, ground, settled, all, elevation } = grid;
  // Steps from the nearest cell that is accounted for, in thirds of a cell (the 3-4 chamfer of Borgefors 1986).
  const far = new Int32Array(columns * rows);
  for (let i = 0; i < far.length; i++) far[i] = ground[i]! > 0 || settled[i]! * 2 > all[i]! ? 0 : 1e8;
  const relax = (i: number, j: number, by: number): void => {
    if (far[j]! + by < far[i]!) far[i] = far[j]! + by;
  };
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (column > 0) relax(i, i - 1, 3);
      if (row > 0) relax(i, i - columns, 3);
      if (row > 0 && column > 0) relax(i, i - columns - 1, 4);
      if (row > 0 && column < columns - 1) relax(i, i - columns + 1, 4);
    }
  for (let row = rows - 1, i = far.length - 1; row >= 0; row--)
    for (let column = columns - 1; column >= 0; column--, i--) {
      if (column < columns - 1) relax(i, i + 1, 3);
      if (row < rows - 1) relax(i, i + columns, 3);
      if (row < rows - 1 && column < columns - 1) relax(i, i + columns + 1, 4);
      if (row < rows - 1 && column > 0) relax(i, i + columns - 1, 4);
    }
  const outside = openLand(grid);
  return connectedCells(grid, (i) => far[i]! > 0 && outside[i] === 0).flatMap((cells): SuspectArea[] => {
    const deepest = cells.reduce((best, i) => (far[i]! > far[best]! ? i : best));
    const width = (2 * far[deepest]! * cell) / 3;
    if (width < hole) return [];
    const points = cells.reduce((sum, i) => sum + all[i]!, 0);
    // A hole with points in it can be fixed; an empty one comes from the flight.
    return [
      {
        ...placeOf(grid, cells, levelAbout(grid, cells, elevation)),
        kind: 'hole',
        size: width,
        weight: (width / hole) * (points > cells.length ? 1.5 : 0.7),
      },
    ];
  });
}

/** 1 for cells that a way over cells without any point leads out of: land beside the survey. */
function openLand({ columns, rows, all }: SuspectGrid): Uint8Array {
  const out = new Uint8Array(columns * rows);
  const queue: number[] = [];
  const enter = (i: number): void => {
    if (all[i] !== 0 || out[i] === 1) return;
    out[i] = 1;
    queue.push(i);
  };
  for (let column = 0; column < columns; column++) {
    enter(column);
    enter((rows - 1) * columns + column);
  }
  for (let row = 0; row < rows; row++) {
    enter(row * columns);
    enter(row * columns + columns - 1);
  }
  while (queue.length > 0) {
    const i = queue.pop()!;
    const column = i % columns;
    if (column > 0) enter(i - 1);
    if (column < columns - 1) enter(i + 1);
    if (i >= columns) enter(i - columns);
    if (i < columns * (rows - 1)) enter(i + columns);
  }
  return out;
}

/** Pieces of ground that hang together, most of whose edge stands over lower ground. */
function roofs(grid: SuspectGrid, { roof, step }: SuspectLimits): SuspectArea[] {
  const { columns, rows, cell, elevation } = grid;
  const isGround = (i: number): boolean => !Number.isNaN(elevation[i]!);
  const apart = Math.max(step, 1.2 * cell);
  const together = (i: number, j: number): boolean => Math.abs(elevation[i]! - elevation[j]!) <= apart;
  // Ground beyond a gap counts as near as this.
  const reach = Math.max(1, Math.ceil(3 / cell));
  return connectedCells(grid, isGround, together).flatMap((cells): SuspectArea[] => {
    const area = cells.length * cell * cell;
    if (cells.length < 3 || area > 0.2 * columns * rows * cell * cell) return [];
    let [edge, over, height] = [0, 0, 0];
    eachBeyondEdge(grid, cells, isGround, reach, (from, to) => {
      edge++;
      const drop = to === undefined ? 0 : elevation[from]! - elevation[to]!;
      if (drop <= roof) return;
      over++;
      height += drop;
    });
    if (over < 0.6 * edge) return [];
    const size = height / over;
    const middle = cells.reduce((sum, i) => sum + elevation[i]!, 0) / cells.length;
    return [
      { ...placeOf(grid, cells, middle), kind: 'roof', size, weight: 3 * (over / edge) * Math.min(3, size / roof) },
    ];
  });
}

const BLOCK_METRES = 5;

function thinSupport(grid: SuspectGrid, { share, hole }: SuspectLimits): SuspectArea[] {
  const { columns, rows, cell, ground, all, settled } = grid;
  // Blocks of about the width of a small hole, so that a tree or two are judged as one.
  const side = Math.max(2, Math.round((hole * BLOCK_METRES) / 6 / cell));
  const blocks = { columns: Math.ceil(columns / side), rows: Math.ceil(rows / side) };
  const count = {
    ground: new Float64Array(blocks.columns * blocks.rows),
    all: new Float64Array(blocks.columns * blocks.rows),
  };
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      const at = Math.floor(row / side) * blocks.columns + Math.floor(column / side);
      count.ground[at]! += ground[i]!;
      count.all[at]! += all[i]! - settled[i]!;
    }
  const wide = {
    east: grid.east,
    north: grid.north,
    cell: cell * side,
    ...blocks,
  };
  const isThin = (i: number): boolean =>
    count.ground[i]! > 0 && count.all[i]! > 60 && count.ground[i]! < share * count.all[i]!;
  return connectedCells(wide, isThin).map((cells): SuspectArea => {
    const of = (values: Float64Array): number => cells.reduce((sum, i) => sum + values[i]!, 0);
    const rests = of(count.ground) / of(count.all);
    const place = placeOf(wide, cells, 0);
    const column = Math.min(columns - 1, Math.floor((place.easting - grid.east) / cell));
    const row = Math.min(rows - 1, Math.floor((place.northing - grid.north) / cell));
    return {
      ...place,
      elevation: nearestElevation(grid, column, row),
      kind: 'thin',
      size: rests,
      weight: Math.min(2, share / rests / 2) * Math.min(2, Math.sqrt(cells.length)),
    };
  });
}

function nearestElevation({ columns, rows, elevation }: SuspectGrid, column: number, row: number): number {
  for (let far = 0; far < Math.max(columns, rows); far++)
    for (let r = Math.max(0, row - far); r <= Math.min(rows - 1, row + far); r++)
      for (let c = Math.max(0, column - far); c <= Math.min(columns - 1, column + far); c++) {
        if (Math.max(Math.abs(r - row), Math.abs(c - column)) !== far) continue;
        const value = elevation[r * columns + c]!;
        if (!Number.isNaN(value)) return value;
      }
  return 0;
}

/** Mean elevation of the ground cells that touch some cells. */
function levelAbout({ columns, rows }: SuspectGrid, cells: readonly number[], elevation: Float64Array): number {
  let [sum, count] = [0, 0];
  for (const i of cells) {
    const column = i % columns;
    const row = (i - column) / columns;
    for (let r = Math.max(0, row - 1); r <= Math.min(rows - 1, row + 1); r++)
      for (let c = Math.max(0, column - 1); c <= Math.min(columns - 1, column + 1); c++) {
        const value = elevation[r * columns + c]!;
        if (Number.isNaN(value)) continue;
        sum += value;
        count++;
      }
  }
  return count === 0 ? 0 : sum / count;
}
