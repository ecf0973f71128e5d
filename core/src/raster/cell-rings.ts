import { signedArea } from '../measuring/index.js';
import type { RasterFrame } from './raster-frame.js';

/** An edge of a piece of cells, along the corners of cells, counted from the south-west of the raster. */
export interface CellRing {
  /** One cell apart from each other. */
  readonly corners: readonly (readonly [x: number, y: number])[];
  /** Round something that is not the piece; such rings run clockwise, outer ones counter-clockwise. */
  readonly isIsland: boolean;
}

/** East, north, west, south: a step along the edge of cells with the piece on the left. */
const STEPS = [
  [1, 0],
  [0, 1],
  [-1, 0],
  [0, -1],
] as const;

/**
 * All edges of a piece of cells. Cells that touch at a corner hang together.
 * @param isIn - whether a cell belongs to the piece
 * @param cells - of the piece
 */
export function cellRings(
  { columns, rows }: Pick<RasterFrame, 'columns' | 'rows'>,
  isIn: (at: number) => boolean,
  cells: readonly number[],
): CellRing[] {
  const isOf = (column: number, row: number): boolean =>
    column >= 0 && row >= 0 && column < columns && row < rows && isIn(row * columns + column);
  /** Whether the edge that leaves a cell corner this way has the piece on its left alone. */
  const isEdge = (x: number, y: number, way: number): boolean => {
    const left = [isOf(x, y), isOf(x - 1, y), isOf(x - 1, y - 1), isOf(x, y - 1)][way]!;
    const right = [isOf(x, y - 1), isOf(x, y), isOf(x - 1, y), isOf(x - 1, y - 1)][way]!;
    return left && !right;
  };
  const used = new Set<number>();
  const keyOf = (x: number, y: number, way: number): number => (y * (columns + 1) + x) * 4 + way;
  const rings: CellRing[] = [];
  for (const at of cells) {
    const [column, row] = [at % columns, Math.floor(at / columns)];
    // Every ring has an edge that runs east with the piece above it.
    if (!isEdge(column, row, 0) || used.has(keyOf(column, row, 0))) continue;
    const corners: [number, number][] = [];
    let [x, y, way] = [column, row, 0];
    do {
      used.add(keyOf(x, y, way));
      corners.push([x, y]);
      x += STEPS[way]![0];
      y += STEPS[way]![1];
      // Turn right where one can.
      way = [(way + 3) % 4, way, (way + 1) % 4].find((turn) => isEdge(x, y, turn)) ?? way;
    } while (!used.has(keyOf(x, y, way)));
    rings.push({ corners, isIsland: signedArea(corners) < 0 });
  }
  return rings;
}
