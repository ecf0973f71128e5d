import type { CellMethod } from '@pampero/core/grids';
import { eachSharedCell, type RasterFrame } from '@pampero/core/raster';
import { refuseTooFine } from '../tasks/grid-tasks.js';
import type { CloudPass } from './cloud-pass.js';
import { landTiles, overLand } from './land-tiles.js';

export interface LandGridWanted {
  readonly cloudIds: readonly number[];
  readonly classes: readonly number[];
  readonly cell: number;
  /** Figures that hang on the points of a cell alone; one grid of each. */
  readonly methods: readonly CellMethod[];
  /** Points in a tile, about. */
  readonly tilePoints?: number;
}

/** Cells over the chosen points of some clouds, read tile by tile; undefined where there are no such points. */
export async function landGrid(
  pass: CloudPass,
  { cloudIds, classes, cell, methods, tilePoints }: LandGridWanted,
  onShare: (share: number) => void,
): Promise<{ frame: RasterFrame; values: Float32Array<ArrayBuffer>[] } | undefined> {
  const { pool, job, signal } = pass;
  const { tiles, land } = await landTiles(job.read, cloudIds, { cell, tilePoints });
  const span = (from: number, to: number): number => Math.floor(to / cell) - Math.floor(from / cell) + 1;
  if (tiles.length > 0) refuseTooFine(span(land.west, land.east), span(land.south, land.north));
  let done = 0;
  const parts = await overLand(pass, tiles, () => onShare(++done / tiles.length), (clouds, tile, transfer) => pool.run('gridOfLand', { clouds, classes, cell, tile, methods }, signal, transfer)); // prettier-ignore
  const found = parts.flatMap((part) => (part ? [part] : []));
  if (found.length === 0) return undefined;
  const firstColumn = Math.min(...found.map(({ column }) => column));
  const firstRow = Math.min(...found.map(({ row }) => row));
  const frame: RasterFrame = {
    east: firstColumn * cell,
    north: firstRow * cell,
    cell,
    columns: Math.max(...found.map(({ column, columns }) => column + columns)) - firstColumn,
    rows: Math.max(...found.map(({ row, rows }) => row + rows)) - firstRow,
  };
  const values = methods.map((method, k) => {
    const whole = new Float32Array(frame.columns * frame.rows).fill(method === 'count' ? 0 : NaN);
    for (const { column, row, columns, rows, grids } of found) {
      const part = { east: column * cell, north: row * cell, cell, columns, rows };
      eachSharedCell(frame, part, (at, from) => (whole[at] = grids[k]![from]!));
    }
    return whole;
  });
  return { frame, values };
}
