import { unpackArrays } from '@pampero/core/binary';
import { shared } from '../shared-memory.js';
import { readProduct, readProductBlob } from '../store/product-repository.js';
import type { Relief } from '../tasks/picture-tasks.js';
import type { CloudPass } from './cloud-pass.js';

/** A surface as a grid that tasks share, for what may not lie higher than so much over it. */
export async function reliefOf({ pool, job, signal }: CloudPass, surfaceId: number, height: number): Promise<Relief> {
  const product = await readProduct(job.read, surfaceId, 'surface');
  const tin = await readProductBlob(job.read, product.id, 'tin');
  const cell = Math.max(height / 2, Math.sqrt(product.facts.areaInPlan / 4e6));
  const { grid, facts } = await pool.run('gridOfSurface', { tin, cell }, signal);
  const { east, north, columns, rows } = facts;
  const values = shared(unpackArrays(grid).arrays['elevation'] as Float32Array);
  return { values, frame: { east, north, cell, columns, rows }, height };
}
