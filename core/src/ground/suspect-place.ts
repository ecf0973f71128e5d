import { cellRings, eachNeighbour, type RasterFrame } from '../raster/index.js';
import type { SuspectArea } from './suspect-area.js';

/** Where some cells lie: their middle, or the cell named; and the edge of these cells and of those beside them. */
export function placeOf(
  frame: RasterFrame,
  cells: readonly number[],
  elevation: number,
  at?: number,
): Pick<SuspectArea, 'easting' | 'northing' | 'elevation' | 'width' | 'outline'> {
  const { east, north, cell, columns } = frame;
  let [west, south, right, top] = [Infinity, Infinity, -Infinity, -Infinity];
  const wider = new Set(cells);
  for (const i of cells) {
    const [column, row] = [i % columns, Math.floor(i / columns)];
    west = Math.min(west, column);
    right = Math.max(right, column + 1);
    south = Math.min(south, row);
    top = Math.max(top, row + 1);
    eachNeighbour(frame, i, (j) => wider.add(j));
  }
  const e = (column: number): number => east + column * cell;
  const n = (row: number): number => north + row * cell;
  const [column, row] =
    at === undefined ? [(west + right) / 2, (south + top) / 2] : [(at % columns) + 0.5, Math.floor(at / columns) + 0.5];
  // Cells with those beside them hang together: they have one outer edge.
  const { corners } = cellRings(frame, (i) => wider.has(i), [...wider]).find(({ isIsland }) => !isIsland)!;
  const isCorner = ([x, y]: readonly [number, number], k: number): boolean => {
    const [[px, py], [nx, ny]] = [corners.at(k - 1)!, corners[(k + 1) % corners.length]!];
    return (x - px) * (ny - y) !== (y - py) * (nx - x);
  };
  return {
    easting: e(column),
    northing: n(row),
    elevation,
    width: Math.max(right - west, top - south) * cell,
    outline: corners.filter(isCorner).map(([x, y]) => [e(x), n(y)]),
  };
}
