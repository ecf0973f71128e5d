import type { FeatureLine } from '@pampero/core/lines';
import { Outline } from '@pampero/core/selection';
import type { TerrainLine } from '@pampero/core/terrain';
import { readLines } from './line-repository.js';
import type { Models } from './models.js';
import { readProduct } from './product-repository.js';

/** The lines of some codes, for a surface; plain ones are no part of the ground. */
export async function readTerrainLines(models: Models, ids: readonly number[]): Promise<TerrainLine[]> {
  const out: TerrainLine[] = [];
  for (const id of ids) {
    const { role } = (await readProduct(models, id, 'lines')).facts;
    if (role === 'plain') continue;
    const lines = await readLines(models, id);
    for (const line of lines) {
      const known = line.elevation.filter((z) => !Number.isNaN(z));
      // Water is level: at the mean where its corners differ a little.
      const level = known.reduce((sum, z) => sum + z, 0) / Math.max(1, known.length);
      const ring = { easting: Array.from(line.easting), northing: Array.from(line.northing) };
      const isArea = role === 'water' || role === 'river' || role === 'hole';
      out.push({
        role,
        isClosed: line.isClosed,
        ...(isArea && isWithinAnother(ring, lines, line) && { isIsland: true }),
        ...ring,
        elevation: Array.from(line.elevation, (z) => (role === 'water' ? level : z)),
      });
    }
  }
  return out;
}

/** An outline within another of its code is an island; within two, water on an island. */
function isWithinAnother(
  { easting, northing }: { readonly easting: readonly number[]; readonly northing: readonly number[] },
  lines: readonly FeatureLine[],
  own: FeatureLine,
): boolean {
  let around = 0;
  for (const other of lines) {
    if (other === own || !other.isClosed || other.easting.length < 3) continue;
    const outline = new Outline(Array.from(other.easting, (e, k) => [e, other.northing[k]!] as const));
    if (outline.contains(easting[0]!, northing[0]!)) around++;
  }
  return around % 2 === 1;
}
