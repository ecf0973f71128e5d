import type { ProductOf, TilePart } from '@pampero/contract';
import { readFile } from 'node:fs/promises';
import { QueryTypes } from 'sequelize';
import { notFound } from '../errors/job-error.js';
import { asBuffer } from './cloud-repository.js';
import type { Models } from './models.js';
import { storedJson } from './stored-json.js';

type PictureFacts = ProductOf<'picture'>['facts'];

/** A tile on its way into the store. */
export interface WrittenTile {
  /** Of a picture, or of a photograph by its place in the list. */
  readonly part: TilePart | `photograph-${number}`;
  readonly level: number;
  readonly x: number;
  readonly y: number;
  readonly path: string;
}

const partOf = ({ part, level, x, y }: Omit<WrittenTile, 'path'>): string => `${part}/${level}/${x}_${y}`;

/** Keeps the tiles of a picture with its product. */
export async function insertTiles(models: Models, productId: number, tiles: readonly WrittenTile[]): Promise<void> {
  for (const tile of tiles)
    await models.productBlobs.sequelize!.query(
      'INSERT INTO product_blobs (productId, part, bytes) VALUES ($1, $2, $3)',
      { bind: [productId, partOf(tile), asBuffer(await readFile(tile.path))], type: QueryTypes.INSERT },
    );
}

/** The product whose tiles a picture shows, also of one that has just been taken back. */
export async function tilesOwner(models: Models, productId: number): Promise<number> {
  const row = (await models.products.findOne({
    where: { id: productId, kind: 'picture' },
    attributes: ['facts'],
    raw: true,
  })) as unknown as { facts: string } | null;
  if (!row) throw notFound('picture', productId);
  return (storedJson(row.facts) as PictureFacts).tilesOf || productId;
}

/** A tile; undefined where there is no picture, or where all of it is (of a mask). */
export async function readTile(
  models: Models,
  owner: number,
  tile: Omit<WrittenTile, 'path'>,
): Promise<Buffer | undefined> {
  const row = (await models.productBlobs.findOne({
    where: { productId: owner, part: partOf(tile) },
    attributes: ['bytes'],
    raw: true,
  })) as unknown as { bytes: Buffer } | null;
  return row?.bytes;
}
