import { columnFrom } from '../columns/index.js';
import type { LineRole } from '../lines/index.js';
import { cellRings, connectedCells, eachNeighbour, planBounds, type RasterFrame } from '../raster/index.js';
import type { TerrainLine } from './terrain-lines.js';

/** Points in plan with their elevation, full coordinates. */
interface Points {
  readonly easting: Float64Array;
  readonly northing: Float64Array;
  readonly elevation: Float64Array;
}

/** A pond or a reach: where its edge runs, and how high it stands. */
export interface WaterPiece {
  readonly lines: readonly TerrainLine[];
  /** Median elevation of its points. */
  readonly level: number;
  /** From the 10th to the 90th percentile: much of it is a slope or noise, and one level does not say all. */
  readonly spread: number;
  /** In plan, square units. */
  readonly area: number;
}

export interface WaterOptions {
  /** Cells in which water is told from land; job units. */
  readonly cell: number;
  /** Smaller pieces are left as they are; square units. */
  readonly minimumArea: number;
  /** How far water is taken to reach where nothing came back; job units. */
  readonly reach: number;
}

/**
 * Outlines of the water that points were classed as: cells with more water than land, and cells without a point that lie
 * between water and land, since still water often sends nothing back. The edge runs between the last cell of water and the
 * first of land.
 * @param role - `water` for outlines that are laid flat at their level, `hole` for such as are left out
 */
export function waterLines(
  water: Points,
  land: Points,
  role: Extract<LineRole, 'water' | 'hole'>,
  { cell, minimumArea, reach }: WaterOptions,
): WaterPiece[] {
  if (water.easting.length === 0) return [];
  const frame = frameAround(water, cell, Math.ceil(reach / cell) + 1);
  const cells = frame.columns * frame.rows;
  const cellOf = (points: Points, i: number): number => {
    const column = Math.floor((points.easting[i]! - frame.east) / cell);
    const row = Math.floor((points.northing[i]! - frame.north) / cell);
    return column < 0 || row < 0 || column >= frame.columns || row >= frame.rows ? -1 : row * frame.columns + column;
  };
  const wet = new Uint32Array(cells);
  const dry = new Uint32Array(cells);
  for (let i = 0; i < water.easting.length; i++) wet[cellOf(water, i)]!++;
  for (let i = 0; i < land.easting.length; i++) {
    const at = cellOf(land, i);
    if (at >= 0) dry[at]!++;
  }
  const isWater = columnFrom(Uint8Array, wet, (n, at) => (n > 0 && n >= dry[at]! ? 1 : 0));
  spread(frame, isWater, (at) => wet[at] === 0 && dry[at] === 0, Math.round(reach / cell));

  const pieceOf = new Int32Array(cells).fill(-1);
  const pieces = connectedCells(frame, (at) => isWater[at] === 1).filter(
    (piece) => piece.length * cell * cell >= minimumArea,
  );
  pieces.forEach((piece, k) => {
    for (const at of piece) pieceOf[at] = k;
  });
  const heights = pieces.map((): number[] => []);
  for (let i = 0; i < water.elevation.length; i++) {
    const piece = pieceOf[cellOf(water, i)]!;
    if (piece >= 0) heights[piece]!.push(water.elevation[i]!);
  }
  return pieces.flatMap((piece, k) => {
    const sorted = heights[k]!.sort((a, b) => a - b);
    if (sorted.length === 0) return [];
    const at = (share: number): number => sorted[Math.min(sorted.length - 1, Math.floor(share * sorted.length))]!;
    const level = at(0.5);
    return [
      {
        level,
        spread: at(0.9) - at(0.1),
        area: piece.length * cell * cell,
        lines: ringsOf(frame, pieceOf, k, piece).map(({ easting, northing, isIsland }): TerrainLine => ({
          role,
          easting,
          northing,
          elevation: easting.map(() => level),
          isClosed: true,
          ...(isIsland && { isIsland }),
        })),
      },
    ];
  });
}

function frameAround({ easting, northing }: Points, cell: number, margin: number): RasterFrame {
  const { west, south, east, north } = planBounds(easting, northing);
  const [firstColumn, firstRow] = [Math.floor(west / cell) - margin, Math.floor(south / cell) - margin];
  return {
    east: firstColumn * cell,
    north: firstRow * cell,
    cell,
    columns: Math.floor(east / cell) - firstColumn + 1 + margin,
    rows: Math.floor(north / cell) - firstRow + 1 + margin,
  };
}

/**
 * Lets water spread over cells without a point, at most `steps` cells far. A gap that reaches further is the edge of the cloud
 * or a shadow, and only what water spread from both sides would meet in is taken: so the front goes back as far as it came.
 */
function spread(frame: RasterFrame, isWater: Uint8Array, isEmpty: (at: number) => boolean, steps: number): void {
  const distance = new Int32Array(isWater.length).fill(-1);
  let front: number[] = [];
  for (let at = 0; at < isWater.length; at++) if (isWater[at] === 1) front.push(at);
  for (const at of front) distance[at] = 0;
  for (let step = 1; step <= steps && front.length > 0; step++) {
    const next: number[] = [];
    for (const at of front)
      eachNeighbour(frame, at, (k) => {
        if (distance[k] !== -1 || !isEmpty(k)) return;
        distance[k] = step;
        next.push(k);
      });
    front = next;
  }
  // What the last step reached still had room to go on: empty without an end. It and all as near to it as it is deep go back.
  const openCells: number[] = front.slice();
  const back = new Int32Array(isWater.length).fill(-1);
  for (const at of openCells) back[at] = 0;
  for (let head = 0; head < openCells.length; head++) {
    const at = openCells[head]!;
    if (back[at]! >= steps - 1) continue;
    eachNeighbour(frame, at, (k) => {
      if (back[k] !== -1 || distance[k]! < 1) return;
      back[k] = back[at]! + 1;
      openCells.push(k);
    });
  }
  for (let at = 0; at < isWater.length; at++) if (distance[at]! > 0 && back[at] === -1) isWater[at] = 1;
}

interface Ring {
  readonly easting: number[];
  readonly northing: number[];
  readonly isIsland: boolean;
}

/** Edges of a piece: its outer one counter-clockwise, those of islands the other way; corners of cells cut off. */
function ringsOf(frame: RasterFrame, pieceOf: Int32Array, piece: number, cells: readonly number[]): Ring[] {
  const { east, north, cell } = frame;
  return cellRings(frame, (at) => pieceOf[at] === piece, cells).map(({ corners, isIsland }) => {
    const middles = corners.map(([x, y], k) => {
      const [nextX, nextY] = corners[(k + 1) % corners.length]!;
      return [(x + nextX) / 2, (y + nextY) / 2] as const;
    });
    return {
      easting: middles.map(([x]) => east + x * cell),
      northing: middles.map(([, y]) => north + y * cell),
      isIsland,
    };
  });
}
