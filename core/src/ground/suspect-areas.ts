import { connectedCells, eachBeyondEdge, type RasterFrame } from '../raster/index.js';

export const SUSPECT_KINDS = ['spike', 'pit', 'hole', 'roof', 'step', 'thin'] as const;
export type SuspectKind = (typeof SUSPECT_KINDS)[number];

/** A place where the ground is most likely wrong. */
export interface SuspectArea {
  readonly kind: SuspectKind;
  readonly easting: number;
  readonly northing: number;
  /** Of the ground there; of the ground about it where there is none; half way up a step. */
  readonly elevation: number;
  /** Across, job units. */
  readonly width: number;
  /** How far off or how high, job units; for thin support the share of points that are ground. */
  readonly size: number;
  /** Corners of the place's outline, counter-clockwise, job units. */
  readonly outline: readonly (readonly [number, number])[];
  /** More is more likely wrong, or worse if wrong. */
  readonly weight: number;
}

/** What is known of each cell. */
export interface SuspectGrid extends RasterFrame {
  /** Ground points and their mean elevation, NaN where there are none. */
  readonly ground: Uint32Array;
  readonly elevation: Float64Array;
  /** Points that account for a cell without ground: buildings, water. */
  readonly settled: Uint32Array;
  /** All points but noise. */
  readonly all: Uint32Array;
}

export interface SuspectLimits {
  /** A cell this far off the line through its neighbours is a spike or a pit, job units. */
  readonly spike: number;
  /** A place without ground this wide is a hole, job units. */
  readonly hole: number;
  /** Ground that stands this high over what lies about it is like a roof, job units. */
  readonly roof: number;
  /** A step this high between neighbouring cells is abrupt, job units. */
  readonly step: number;
  /** Fewer of the points than this are ground: thin support. */
  readonly share: number;
}

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

const DIRECTIONS = [
  [1, 0],
  [0, 1],
  [1, 1],
  [1, -1],
] as const;

/**
 * How far each cell lies off the middle of opposite neighbours, in the direction in which it does so next to least, at two
 * distances: the foot of a bank is off the line across the bank but not along it, a spike is in every direction.
 */
export function offLine({ columns, rows, elevation }: SuspectGrid): Float64Array {
  const out = new Float64Array(columns * rows);
  const off: number[] = [];
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (Number.isNaN(elevation[i]!)) continue;
      off.length = 0;
      let signs = 0;
      for (const [dc, dr] of DIRECTIONS)
        for (const far of [1, 2]) {
          const [ca, ra, cb, rb] = [column + dc * far, row + dr * far, column - dc * far, row - dr * far];
          if (Math.min(ca, cb, ra, rb) < 0 || Math.max(ca, cb) >= columns || Math.max(ra, rb) >= rows) continue;
          const middle = (elevation[ra * columns + ca]! + elevation[rb * columns + cb]!) / 2;
          if (Number.isNaN(middle)) continue;
          off.push(Math.abs(elevation[i]! - middle));
          signs += Math.sign(elevation[i]! - middle);
        }
      // At most one direction may say otherwise.
      if (off.length < 5 || Math.abs(signs) < off.length - 2) continue;
      off.sort((a, b) => a - b);
      out[i] = Math.sign(signs) * off[off.length < 8 ? 0 : 1]!;
    }
  return out;
}

function spikes(grid: SuspectGrid, { spike }: SuspectLimits): SuspectArea[] {
  const off = offLine(grid);
  return [1, -1].flatMap((sign) =>
    connectedCells(grid, (i) => off[i]! * sign > spike).flatMap((cells): SuspectArea[] => {
      const worst = cells.reduce((best, i) => (Math.abs(off[i]!) > Math.abs(off[best]!) ? i : best));
      const size = Math.abs(off[worst]!);
      return [
        {
          ...placeOf(grid, cells, grid.elevation[worst]!),
          kind: sign > 0 ? 'spike' : 'pit',
          size,
          // A spike of one cell is seen in every contour; one as wide as a bank may be a bank.
          weight: (2 * Math.min(4, size / spike)) / Math.sqrt(cells.length),
        },
      ];
    }),
  );
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

function steps(grid: SuspectGrid, { step }: SuspectLimits): SuspectArea[] {
  const { columns, rows, cell, elevation } = grid;
  const least = Math.max(step, 1.5 * cell);
  const size = new Float64Array(columns * rows);
  // Half way up: which side of it a point is on says whether it is above or below the step.
  const middle = new Float64Array(columns * rows);
  const enter = (i: number, j: number): void => {
    const drop = Math.abs(elevation[i]! - elevation[j]!);
    if (!(drop > least)) return;
    for (const k of [i, j]) {
      if (drop <= size[k]!) continue;
      size[k] = drop;
      middle[k] = (elevation[i]! + elevation[j]!) / 2;
    }
  };
  for (let row = 0, i = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, i++) {
      if (column < columns - 1) enter(i, i + 1);
      if (row < rows - 1) enter(i, i + columns);
    }
  return connectedCells(grid, (i) => size[i]! > 0).map((cells): SuspectArea => {
    const worst = cells.reduce((best, i) => (size[i]! > size[best]! ? i : best));
    // A long even step is a wall or a bank; a short one is more likely a mistake.
    return {
      ...placeOf(grid, cells, middle[worst]!, worst),
      kind: 'step',
      size: size[worst]!,
      weight: Math.min(3, size[worst]! / least) / Math.sqrt(1 + cells.length / 12),
    };
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

/** Where some cells lie: their middle, or the cell named; and the box about them, half a cell wider. */
function placeOf(
  { east, north, cell, columns }: RasterFrame,
  cells: readonly number[],
  elevation: number,
  at?: number,
): Pick<SuspectArea, 'easting' | 'northing' | 'elevation' | 'width' | 'outline'> {
  let [west, south, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const i of cells) {
    const [column, row] = [i % columns, Math.floor(i / columns)];
    west = Math.min(west, column);
    right = Math.max(right, column + 1);
    south = Math.min(south, row);
    top = Math.max(top, row + 1);
  }
  const e = (column: number): number => east + column * cell;
  const n = (row: number): number => north + row * cell;
  const [column, row] =
    at === undefined ? [(west + right) / 2, (south + top) / 2] : [(at % columns) + 0.5, Math.floor(at / columns) + 0.5];
  const more = 0.5;
  return {
    easting: e(column),
    northing: n(row),
    elevation,
    width: Math.max(right - west, top - south) * cell,
    outline: [
      [e(west - more), n(south - more)],
      [e(right + more), n(south - more)],
      [e(right + more), n(top + more)],
      [e(west - more), n(top + more)],
    ],
  };
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
