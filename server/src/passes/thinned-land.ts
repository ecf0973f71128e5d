import { seamsOf, type JobSquare } from '@pampero/core/squares';
import { blockCells, evenLimit } from '@pampero/core/thinning';
import type { ChosenPoints } from '../tasks/chosen-points.js';
import type { CloudPass } from './cloud-pass.js';
import { landTiles, overLand } from './land-tiles.js';

export interface LandWanted {
  readonly cloudIds: readonly number[];
  readonly classes: readonly number[];
  readonly cell: number;
  /** More points where the land breaks. */
  readonly keepBreaks: boolean;
  readonly square: JobSquare | undefined;
  /** Points in a tile, about. */
  readonly tilePoints?: number;
}

/**
 * The points of some clouds that stay when they are thinned to one a cell: as thinning them together would have it, to the last digit, but
 * read and thinned tile by tile, so that a cloud of any size is never in memory whole.
 */
export async function thinnedLand(
  pass: CloudPass,
  { cloudIds, classes, cell, keepBreaks, square, tilePoints }: LandWanted,
  onShare: (share: number) => void,
): Promise<{ points: ChosenPoints; of: number }> {
  const { pool, job, signal } = pass;
  const seams = square && seamsOf(square);
  const { tiles } = await landTiles(job.read, cloudIds, { cell, tilePoints, ...(seams && { blockCells: blockCells(seams, cell) }) }); // prettier-ignore
  const turns = tiles.length * (keepBreaks ? 2 : 1);
  let done = 0;
  const onTile = (): void => onShare(++done / turns);
  const scatters = keepBreaks
    ? await overLand(pass, tiles, onTile, (clouds, tile, transfer) =>
        pool.run('scattersOfLand', { clouds, classes, cell, tile }, signal, transfer),
      )
    : [];
  const even = keepBreaks ? { seams, limit: evenLimit(joined(scatters)) } : undefined;
  const parts = await overLand(pass, tiles, onTile, (clouds, tile, transfer) =>
    pool.run('thinLand', { clouds, classes, cell, tile, even }, signal, transfer),
  );
  const column = (of: (points: ChosenPoints) => Float64Array): Float64Array =>
    joined(parts.map(({ points }) => of(points)));
  return {
    points: {
      easting: column(({ easting }) => easting),
      northing: column(({ northing }) => northing),
      elevation: column(({ elevation }) => elevation),
    },
    of: parts.reduce((sum, { of }) => sum + of, 0),
  };
}

function joined(parts: readonly Float64Array[]): Float64Array {
  const all = new Float64Array(parts.reduce((sum, { length }) => sum + length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}
