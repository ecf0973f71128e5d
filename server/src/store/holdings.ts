import type { Holdings } from '@pampero/contract';
import { listClouds } from './cloud-repository.js';
import { listControlLists } from './control-repository.js';
import type { Models } from './models.js';
import { listProducts } from './product-repository.js';

/** Bytes of a cloud's points with every place and colour they were given. */
const CLOUD_BYTES = `SELECT clouds.id AS id,
  (SELECT COALESCE(SUM(LENGTH(bytes)), 0) FROM nodes JOIN node_geometry ON nodeId = nodes.id WHERE nodes.cloudId = clouds.id)
  + (SELECT COALESCE(SUM(LENGTH(classification) + LENGTH(flags)), 0) FROM nodes JOIN node_class ON nodeId = nodes.id WHERE nodes.cloudId = clouds.id)
  + (SELECT COALESCE(SUM(LENGTH(bytes)), 0) FROM nodes JOIN node_attributes ON nodeId = nodes.id WHERE nodes.cloudId = clouds.id)
  + (SELECT COALESCE(SUM(LENGTH(bytes)), 0) FROM position_sets JOIN moved_nodes ON setId = position_sets.id WHERE position_sets.cloudId = clouds.id)
  + (SELECT COALESCE(SUM(LENGTH(bytes)), 0) FROM colour_sets JOIN coloured_nodes ON setId = colour_sets.id WHERE colour_sets.cloudId = clouds.id AND colour_sets.id = clouds.coloursId)
  AS bytes, isActive FROM clouds WHERE state = 'ready'`;

/** Tiles of a picture count where they are kept: a picture that was moved shows those of the one before. */
const PRODUCT_BYTES =
  'SELECT products.id AS id, COALESCE(SUM(LENGTH(bytes)), 0) AS bytes FROM products LEFT JOIN product_blobs ON productId = products.id GROUP BY products.id';

const UNSHOWN_COLOURS =
  'SELECT COALESCE(SUM(LENGTH(bytes)), 0) AS bytes FROM coloured_nodes WHERE setId NOT IN (SELECT coloursId FROM clouds)';
const EARLIER_CLASSES = 'SELECT COALESCE(SUM(LENGTH(difference)), 0) AS bytes FROM history_marks';

/** What the job holds, how much room each thing takes, and how much is kept only so that steps can be undone. */
export async function readHoldings(models: Models): Promise<Holdings> {
  const [clouds, products, lists] = await Promise.all([
    listClouds(models),
    listProducts(models),
    listControlLists(models),
  ]);
  const [cloudBytes, productBytes, [colours], [classes]] = await Promise.all([
    rowsOf<{ id: number; bytes: number; isActive: number }>(models, CLOUD_BYTES),
    rowsOf<{ id: number; bytes: number }>(models, PRODUCT_BYTES),
    rowsOf<{ bytes: number }>(models, UNSHOWN_COLOURS),
    rowsOf<{ bytes: number }>(models, EARLIER_CLASSES),
  ]);
  const ofCloud = new Map(cloudBytes.map(({ id, bytes }) => [id, bytes]));
  const ofProduct = new Map(productBytes.map(({ id, bytes }) => [id, bytes]));
  const madeFrom = (kind: 'cloud' | 'product', id: number): string[] =>
    products
      .filter(({ inputs }) => inputs.some((input) => input.kind === kind && input.id === id))
      .map(({ name }) => name);
  // Tiles of a picture that was moved are kept with the one before it, and are shown all the same.
  const shown = new Set(products.flatMap((product) => [product.id, tilesOf(product) ?? product.id]));
  const unshownProducts = productBytes.filter(({ id }) => !shown.has(id));
  const unshownClouds = cloudBytes.filter(({ isActive }) => isActive === 0);
  const sum = (all: readonly { readonly bytes: number }[]): number =>
    all.reduce((total, { bytes }) => total + bytes, 0);
  return {
    things: [
      ...clouds.map(({ id, name }) => ({
        kind: 'cloud' as const,
        id,
        name,
        bytes: ofCloud.get(id) ?? 0,
        usedBy: madeFrom('cloud', id),
      })),
      ...lists.map(({ id, name }) => ({
        kind: 'control' as const,
        id,
        name,
        bytes: 0,
        usedBy: products.filter(({ inputs }) => inputs.some(({ kind }) => kind === 'control')).map(({ name }) => name),
      })),
      ...products.map((product) => ({
        kind: product.kind,
        id: product.id,
        name: product.name,
        bytes: ofProduct.get(tilesOf(product) ?? product.id) ?? 0,
        usedBy: madeFrom('product', product.seriesId),
      })),
    ],
    undo: {
      bytes: sum(unshownClouds) + sum(unshownProducts) + colours!.bytes + classes!.bytes,
      clouds: unshownClouds.length,
      products: unshownProducts.length,
    },
  };
}

function tilesOf(product: Awaited<ReturnType<typeof listProducts>>[number]): number | undefined {
  return product.kind === 'picture' && product.facts.tilesOf ? product.facts.tilesOf : undefined;
}

async function rowsOf<R>(models: Models, sql: string): Promise<R[]> {
  const [rows] = await models.meta.sequelize!.query(sql);
  return rows as R[];
}
