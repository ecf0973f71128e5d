import { readGeoJsonLines } from '@pampero/core/formats/lines';
import type { TerrainLine } from '@pampero/core/terrain';
import type { Models } from './models.js';
import { readProduct, readProductBlob } from './product-repository.js';

/** The lines of some products, for a surface. */
export async function readTerrainLines(models: Models, ids: readonly number[]): Promise<TerrainLine[]> {
  const out: TerrainLine[] = [];
  for (const id of ids) {
    const { facts, name } = await readProduct(models, id, 'lines');
    const text = (await readProductBlob(models, id, 'lines')).toString('utf8');
    for (const line of readGeoJsonLines(text, name)) {
      const { role } = facts;
      const levels = line.elevation.filter((z) => !Number.isNaN(z));
      // Water is level: at the mean where its corners differ a little.
      const level = levels.reduce((sum, z) => sum + z, 0) / Math.max(1, levels.length);
      out.push({ ...line, role, elevation: role === 'water' ? line.elevation.map(() => level) : line.elevation });
    }
  }
  return out;
}
