import { connectedCells, type RasterFrame } from '../raster/index.js';
import { shapeOf, simplifyLine, sourceNumber, type Corner, type LineShape } from '../lines/index.js';
import type { Flow } from './flow.js';

/** A stretch of a channel, from where it begins or two meet to where it meets another or leaves the land; down the water. */
export interface Channel {
  readonly shape: LineShape;
  /** Land that drains into its lower end, square units. */
  readonly catchment: number;
}

/** A pit that water would fill before it ran on. */
export interface Sink {
  readonly easting: number;
  readonly northing: number;
  /** Of its bottom. */
  readonly elevation: number;
  readonly depth: number;
  readonly area: number;
  readonly volume: number;
}

/**
 * Where water gathers: cells that more land drains through than a catchment area, as lines down the water. Their elevations are those of
 * the land, never rising on the way down.
 * @param catchment - square units
 */
export function channelsOf(
  elevation: ArrayLike<number>,
  { to, gathered, order }: Flow,
  { east, north, cell, columns }: RasterFrame,
  catchment: number,
): Channel[] {
  const least = catchment / (cell * cell);
  const isChannel = (at: number): boolean => gathered[at]! >= least;
  /** Channels that run into a cell. */
  const into = new Uint8Array(gathered.length);
  for (const at of order) if (isChannel(at) && to[at]! >= 0) into[to[at]!]!++;
  const channels: Channel[] = [];
  for (const start of order) {
    // Where a channel begins, and where two have met.
    if (!isChannel(start) || into[start] === 1) continue;
    const corners: Corner[] = [];
    let level = Infinity;
    let at = start;
    for (;;) {
      level = Math.min(level, elevation[at]!);
      const [column, row] = [at % columns, Math.floor(at / columns)];
      corners.push({
        e: east + (column + 0.5) * cell,
        n: north + (row + 0.5) * cell,
        z: level,
        source: sourceNumber('surface'),
      });
      const next = to[at]!;
      if (next < 0 || (at !== start && into[at]! > 1)) break;
      at = next;
    }
    if (corners.length > 1)
      channels.push({ shape: simplifyLine(shapeOf(corners, false), cell / 2), catchment: gathered[at]! * cell * cell });
  }
  return channels.sort((a, b) => b.catchment - a.catchment);
}

/** Pits that are deeper than so much, the largest first. */
export function sinksOf(
  elevation: ArrayLike<number>,
  { filled }: Flow,
  frame: RasterFrame,
  leastDepth: number,
): Sink[] {
  const { east, north, cell, columns } = frame;
  const depth = (at: number): number => filled[at]! - elevation[at]!;
  return connectedCells(frame, (at) => depth(at) > 1e-9)
    .flatMap((cells): Sink[] => {
      let [deepest, volume] = [cells[0]!, 0];
      for (const at of cells) {
        if (depth(at) > depth(deepest)) deepest = at;
        volume += depth(at) * cell * cell;
      }
      if (depth(deepest) < leastDepth) return [];
      return [
        {
          easting: east + ((deepest % columns) + 0.5) * cell,
          northing: north + (Math.floor(deepest / columns) + 0.5) * cell,
          elevation: elevation[deepest]!,
          depth: depth(deepest),
          area: cells.length * cell * cell,
          volume,
        },
      ];
    })
    .sort((a, b) => b.volume - a.volume);
}
