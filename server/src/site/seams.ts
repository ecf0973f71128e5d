import { mkdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { isKind, type Job, type ProductOf } from '@pampero/contract';
import { metresPer, type LengthUnit } from '@pampero/core/geodesy';
import type { PlanBounds } from '@pampero/core/raster';
import {
  edgeProfile,
  profilesDiffer,
  squareAt,
  squareOf,
  type EdgeProfile,
  type SeamDifference,
  type SquareLayout,
} from '@pampero/core/squares';
import { unpackTin } from '@pampero/core/terrain';
import { z } from 'zod';
import type { JobLibrary } from '../jobs/job-library.js';
import { csvTable } from '../products/csv-table.js';
import { listProducts, readProductBlob } from '../store/product-repository.js';
import type { SiteSquare } from './site-file.js';
import { writeWhole } from '../files/write-whole.js';

type Square = Pick<SiteSquare, 'name' | 'column' | 'row'>;

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

/** A surface along the four sides of its square. */
interface SurfaceEdges {
  readonly surface: string;
  readonly sides: Readonly<Record<keyof PlanBounds, readonly number[]>>;
}
const stretches = z.array(z.number());
const edgesSchema = z.array(
  z.object({
    surface: z.string(),
    sides: z.object({ west: stretches, south: stretches, east: stretches, north: stretches }),
  }),
);
const pathOf = (folder: string, square: string): string => join(folder, `${square}.surfaces.json`);

/** Writes how the surfaces of a square run along its sides, so that they can be compared without its job. */
export async function publishSurfaceEdges(
  library: JobLibrary,
  { id, name, square }: Job,
  folder: string,
): Promise<void> {
  const { read } = await library.file(id);
  const { land } = squareOf(square!);
  const surfaces: ProductOf<'surface'>[] = (await listProducts(read)).filter(isKind('surface'));
  const edges: SurfaceEdges[] = [];
  for (const surface of surfaces.sort((a, b) => a.id - b.id)) {
    const tin = unpackTin(await readProductBlob(read, surface.id, 'tin'));
    const along = (axis: 'east' | 'north', at: number): number[] => [...edgeProfile(tin, axis, at).stretches];
    const sides = { west: along('east', land.west), east: along('east', land.east), south: along('north', land.south), north: along('north', land.north) }; // prettier-ignore
    edges.push({ surface: surface.name, sides });
  }
  await mkdir(folder, { recursive: true });
  await writeWhole(pathOf(folder, name), JSON.stringify(edges));
}

/** Holds the surfaces of neighbouring squares against each other along the edges between them, surface by surface. */
export async function compareSeams(
  folder: string,
  layout: SquareLayout & { readonly unit: LengthUnit },
  done: readonly Square[],
): Promise<Seam[]> {
  const seams: Seam[] = [];
  const there = new Set(done.map(({ name }) => name));
  const tolerance = TOLERANCE / metresPer(layout.unit);
  const edgesOf = async (square: string): Promise<readonly SurfaceEdges[]> =>
    edgesSchema.parse(JSON.parse(await readFile(pathOf(folder, square), 'utf8')));
  for (const { name, column, row } of done) {
    const beside = [
      ['east', 'west', squareAt(layout, column + 1, row).name],
      ['north', 'south', squareAt(layout, column, row + 1).name],
    ] as const;
    const met = beside.filter(([, , neighbour]) => there.has(neighbour));
    const own = met.length > 0 ? await edgesOf(name) : [];
    for (const [side, opposite, neighbour] of met) {
      const theirs = await edgesOf(neighbour);
      own.forEach(({ surface, sides }, k) => {
        const other = theirs[k];
        if (!other) return;
        const profile = (values: readonly number[]): EdgeProfile => ({ stretches: Float64Array.from(values) });
        const difference = profilesDiffer(profile(sides[side]), profile(other.sides[opposite]), tolerance);
        seams.push({ surface, square: name, neighbour, side, ...difference });
      });
    }
  }
  return seams;
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
