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
    for (const line of await readLines(models, id)) {
      const known = line.elevation.filter((z) => !Number.isNaN(z));
      // Water is level: at the mean where its corners differ a little.
      const level = known.reduce((sum, z) => sum + z, 0) / Math.max(1, known.length);
      out.push({
        role,
        isClosed: line.isClosed,
        easting: Array.from(line.easting),
        northing: Array.from(line.northing),
        elevation: Array.from(line.elevation, (z) => (role === 'water' ? level : z)),
      });
    }
  }
  return out;
}
