import type { RasterFrame } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import type { CloudFacts } from '../store/cloud-facts.js';
import type { StoredNode } from '../store/node-repository.js';
import { formatCount } from '@pampero/core/wording';

/** 67 million cells: half a gigabyte a column of doubles. */
const MOST_CELLS = 2 ** 26;

/** Cells on whole multiples of the cell, so that the same land gives the same raster whatever else the cloud holds. */
export function frameOver(facts: CloudFacts, cell: number): RasterFrame {
  const { min, max } = facts.bounds;
  const east = Math.floor(min[0] / cell) * cell;
  const north = Math.floor(min[1] / cell) * cell;
  const columns = Math.floor((max[0] - east) / cell) + 1;
  const rows = Math.floor((max[1] - north) / cell) + 1;
  if (columns * rows > MOST_CELLS) {
    throw new PamperoError('raster-too-fine', {
      what: `A raster of ${formatCount(columns)} by ${formatCount(rows)} cells is too large (at most ${formatCount(MOST_CELLS)} cells).`,
      fix: 'Give a larger cell. If the cloud is not that large, a few stray points are far outside it.',
    });
  }
  return { east, north, cell, columns, rows };
}

/** The part of the frame that a group of nodes covers. */
export function partFrame(frame: RasterFrame, nodes: readonly StoredNode[], facts: CloudFacts): RasterFrame {
  const [sx, sy] = facts.quantisation.scale;
  const [ox, oy] = facts.quantisation.offset;
  const index = (value: number, origin: number, count: number): number =>
    Math.min(count - 1, Math.max(0, Math.floor((value - origin) / frame.cell)));
  const firstColumn = index(Math.min(...nodes.map((n) => n.minX)) * sx + ox, frame.east, frame.columns);
  const lastColumn = index(Math.max(...nodes.map((n) => n.maxX)) * sx + ox, frame.east, frame.columns);
  const firstRow = index(Math.min(...nodes.map((n) => n.minY)) * sy + oy, frame.north, frame.rows);
  const lastRow = index(Math.max(...nodes.map((n) => n.maxY)) * sy + oy, frame.north, frame.rows);
  return {
    cell: frame.cell,
    east: frame.east + firstColumn * frame.cell,
    north: frame.north + firstRow * frame.cell,
    columns: lastColumn - firstColumn + 1,
    rows: lastRow - firstRow + 1,
  };
}
