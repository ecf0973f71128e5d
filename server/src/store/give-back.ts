import { QueryTypes } from 'sequelize';
import { removeCloud } from './cloud-repository.js';
import { removeColourSet } from './colour-repository.js';
import { dropUndone } from './history-repository.js';
import type { Models } from './models.js';
import { listProducts } from './product-repository.js';

export interface Deleted {
  readonly clouds: number;
  readonly products: number;
}

/**
 * Deletes what no step can come back to once none can be undone: clouds and products that are not shown, colours that were
 * replaced, and what classes were before. A replaced product keeps its row, since parameters of others point at it.
 */
export async function deleteUnshown(models: Models): Promise<Deleted> {
  await dropUndone(models); // before lines go: those that went in a step taken back are still there
  const database = models.meta.sequelize!;
  const run = (sql: string): Promise<unknown> => database.query(sql, { type: QueryTypes.RAW });
  const idsOf = async (sql: string): Promise<number[]> => {
    const [rows] = await database.query(sql);
    return (rows as { id: number }[]).map(({ id }) => id);
  };
  const clouds = await idsOf("SELECT id FROM clouds WHERE state = 'ready' AND isActive = 0");
  for (const id of clouds) await removeCloud(models, id);
  const colours = await idsOf('SELECT id FROM colour_sets WHERE id NOT IN (SELECT coloursId FROM clouds)');
  for (const id of colours) await removeColourSet(models, id);

  const tiles = (await listProducts(models)).flatMap((product) =>
    product.kind === 'picture' && product.facts.tilesOf ? [product.facts.tilesOf] : [],
  );
  const isUnshown = `isActive = 0${tiles.length > 0 ? ` AND id NOT IN (${tiles.join(', ')})` : ''}`;
  const products = await idsOf(`SELECT id FROM products WHERE ${isUnshown}`);
  await run(`DELETE FROM product_blobs WHERE productId IN (SELECT id FROM products WHERE ${isUnshown})`);
  const isGone = `${isUnshown} AND seriesId NOT IN (SELECT seriesId FROM products WHERE isActive = 1)`;
  await run(`DELETE FROM lines WHERE bornIn IN (SELECT id FROM products WHERE ${isGone})`);
  await run('DELETE FROM lines WHERE goneIn IS NOT NULL');
  await run(`DELETE FROM products WHERE ${isGone}`);
  await run('DELETE FROM history_marks');
  return { clouds: clouds.length, products: products.length };
}
