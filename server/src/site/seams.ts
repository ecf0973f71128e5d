import { isKind, type ProductOf } from '@pampero/contract';
import { metresPer } from '@pampero/core/geodesy';
import { edgeProfile, profilesDiffer, squareAt, type SeamDifference, type SquareLayout } from '@pampero/core/squares';
import { unpackTin, type Tin } from '@pampero/core/terrain';
import type { JobLibrary } from '../jobs/job-library.js';
import { csvTable } from '../products/csv-table.js';
import { listProducts, readProductBlob } from '../store/product-repository.js';
import type { RunSquare } from './site-run.js';

/** How two surfaces of neighbouring squares meet. */
export interface Seam extends SeamDifference {
  readonly surface: string;
  readonly square: string;
  readonly neighbour: string;
  /** The side of the first square that it is. */
  readonly side: 'east' | 'north';
}

/** Elevations on an edge that differ by less are one, metres: a tenth of what is written into files. */
const TOLERANCE = 0.0001;

/** Holds the surfaces of neighbouring squares against each other along the edges between them, surface by surface. */
export async function compareSeams(
  library: JobLibrary,
  layout: SquareLayout,
  done: readonly RunSquare[],
): Promise<Seam[]> {
  const seams: Seam[] = [];
  const at = new Map(done.map((each) => [`${each.square.column} ${each.square.row}`, each]));
  for (const { square, job } of done) {
    const east = at.get(`${square.column + 1} ${square.row}`);
    const north = at.get(`${square.column} ${square.row + 1}`);
    const own = east || north ? await surfacesOf(library, job.id) : [];
    const tolerance = TOLERANCE / metresPer(job.unit);
    for (const [side, other] of [
      ['east', east],
      ['north', north],
    ] as const) {
      // prettier-ignore
      if (!other) continue;
      const theirs = await surfacesOf(library, other.job.id);
      const line = squareAt(layout, square.column, square.row).land[side];
      own.forEach(({ name, tin }, k) => {
        const met = theirs[k];
        if (!met) return;
        const difference = profilesDiffer(edgeProfile(tin, side, line), edgeProfile(met.tin, side, line), tolerance);
        seams.push({ surface: name, square: square.name, neighbour: other.square.name, side, ...difference });
      });
    }
  }
  return seams;
}

async function surfacesOf(library: JobLibrary, jobId: string): Promise<{ name: string; tin: Tin }[]> {
  const { read } = await library.file(jobId);
  const surfaces: ProductOf<'surface'>[] = (await listProducts(read)).filter(isKind('surface'));
  return Promise.all(
    surfaces
      .sort((a, b) => a.id - b.id)
      .map(async ({ id, name }) => ({ name, tin: unpackTin(await readProductBlob(read, id, 'tin')) })),
  );
}

export function seamsAsCsv(seams: readonly Seam[]): string {
  const head = ['surface', 'square', 'neighbour', 'side', 'both have land', 'one alone has', 'differ along', 'worst difference']; // prettier-ignore
  return csvTable([
    head,
    ...seams.map(({ surface, square, neighbour, side, shared, oneSided, differing, worst }) => [
      ...[surface, square, neighbour, side],
      ...[shared, oneSided, differing].map((length) => length.toFixed(3)),
      worst.toFixed(4),
    ]),
  ]);
}
