import { open, type FileHandle } from 'node:fs/promises';
import { deflateSync } from 'node:zlib';
import { PICTURE_TILE, type ProductOf } from '@pampero/contract';
import { pictureHead, tilesOf, type PictureAbout, type PictureDirectory } from '@pampero/core/formats/geotiff';
import { decodeTile } from '../imagery/tile-source.js';
import type { Models } from '../store/models.js';
import { readTile, tilesOwner } from '../store/picture-repository.js';
import { withWorldFile } from './picture-world.js';
import type { ExportSite, ProductHome, WrittenFile } from './product-home.js';
import { provenance, unitName } from './product-home.js';
import { pictureCodec } from '../imagery/codec.js';

type Picture = ProductOf<'picture'>;
type Open = Omit<PictureDirectory, 'offsets' | 'sizes'> & { readonly offsets: number[]; readonly sizes: number[] };

/** More bytes than a plain TIFF can hold, with room for what is not foreseen. */
const BIG = 3_500_000_000;

/**
 * A picture as a tiled GeoTIFF with its halves: tiles of a photograph as they are kept, byte for byte; others deflated. Where some of it
 * is no picture it carries a mask.
 */
async function writeTiff({ job, models, target }: ExportSite, picture: Picture): Promise<WrittenFile> {
  const { facts, id } = picture;
  const owner = await tilesOwner(models, id);
  const isGrey = facts.bands === 'grey';
  const isPhoto = await isJpeg(models, owner, facts);
  const levels = Array.from({ length: facts.levels }, (_, level) => level);
  const directories: Open[] = levels.map((level) => ({
    ...sizeAt(facts, level),
    subfile: level === 0 ? 0 : 1,
    compression: isPhoto ? 7 : 8,
    photometric: isGrey ? 1 : isPhoto ? 6 : 2,
    samples: isGrey ? 1 : 3,
    bits: 8,
    offsets: [],
    sizes: [],
  }));
  if (facts.hasMask)
    directories.splice(1, 0, {
      ...sizeAt(facts, 0),
      subfile: 4,
      compression: 8,
      photometric: 4,
      samples: 1,
      bits: 1,
      offsets: [],
      sizes: [],
    });
  for (const { columns, rows, offsets, sizes } of directories) {
    const count = tilesOf(columns, rows, PICTURE_TILE);
    offsets.push(...new Array<number>(count).fill(0));
    sizes.push(...new Array<number>(count).fill(0));
  }
  const { fileName: _, columns, rows, east, eastPerColumn, eastPerRow, north, northPerColumn, northPerRow } = facts;
  const about: PictureAbout = {
    placement: { east, eastPerColumn, eastPerRow, north, northPerColumn, northPerRow },
    epsg: job.crs.epsg,
    description: `${picture.name}; ${provenance(picture)}${facts.moved ? `; ${facts.moved}` : ''}; ${unitName(job)}`,
    tile: PICTURE_TILE,
    isBig: columns * rows * (isGrey ? 1 : 3) * 1.4 > BIG,
  };
  const file = await open(target, 'w');
  try {
    let at = pictureHead(directories, about).length;
    // The smallest first: who reads from the front sees all of it at once.
    for (const level of [...levels].reverse()) {
      const directory = directories.find(
        ({ subfile, columns: wide }) => subfile !== 4 && wide === sizeAt(facts, level).columns,
      )!;
      at = await appendTiles(file, at, directory, (x, y) => colourTile(models, owner, level, x, y, isPhoto, isGrey));
    }
    const mask = directories.find(({ subfile }) => subfile === 4);
    if (mask) await appendTiles(file, at, mask, (x, y) => maskTile(models, owner, x, y, mask));
    const head = pictureHead(directories, about);
    await file.write(head, 0, head.length, 0);
  } finally {
    await file.close();
  }
  return { isWritten: true };
}

function sizeAt({ columns, rows }: Picture['facts'], level: number): { columns: number; rows: number } {
  let [c, r] = [columns, rows];
  for (let k = 0; k < level; k++) [c, r] = [Math.ceil(c / 2), Math.ceil(r / 2)];
  return { columns: c, rows: r };
}

async function isJpeg(models: Models, owner: number, { levels }: Picture['facts']): Promise<boolean> {
  const top = await readTile(models, owner, { part: 'colour', level: levels - 1, x: 0, y: 0 });
  return top?.[0] === 0xff;
}

async function appendTiles(
  file: FileHandle,
  from: number,
  { columns, rows, offsets, sizes }: Open,
  tile: (x: number, y: number) => Promise<Uint8Array | undefined>,
): Promise<number> {
  const [across, down] = [Math.ceil(columns / PICTURE_TILE), Math.ceil(rows / PICTURE_TILE)];
  let at = from + (from % 2);
  for (let y = 0; y < down; y++)
    for (let x = 0; x < across; x++) {
      const bytes = await tile(x, y);
      if (!bytes) continue;
      await file.write(bytes, 0, bytes.length, at);
      offsets[y * across + x] = at;
      sizes[y * across + x] = bytes.length;
      at += bytes.length + (bytes.length % 2);
    }
  return at;
}

async function colourTile(
  models: Models,
  owner: number,
  level: number,
  x: number,
  y: number,
  isPhoto: boolean,
  isGrey: boolean,
): Promise<Uint8Array | undefined> {
  const kept = await readTile(models, owner, { part: 'colour', level, x, y });
  if (!kept) return undefined;
  const sharp = await pictureCodec();
  const { width, height, channels } = await sharp(kept).metadata();
  const isWhole = width === PICTURE_TILE && height === PICTURE_TILE;
  if (isPhoto && isWhole && channels === (isGrey ? 1 : 3)) return kept;
  // Tiles at the right and lower edge are as large as all others in a TIFF: filled with their last pixels.
  const whole = sharp(kept)
    .toColourspace(isGrey ? 'b-w' : 'srgb')
    .extend({ right: PICTURE_TILE - width, bottom: PICTURE_TILE - height, extendWith: 'copy' });
  if (isPhoto) return whole.jpeg({ quality: 92, chromaSubsampling: '4:4:4' }).toBuffer();
  return deflateSync(await whole.removeAlpha().raw().toBuffer());
}

/** Bits of a mask's tile, the first pixel in the highest; where no mask is kept all of a tile is picture, or none of it. */
async function maskTile(
  models: Models,
  owner: number,
  x: number,
  y: number,
  { columns, rows }: Open,
): Promise<Uint8Array | undefined> {
  const part = { level: 0, x, y };
  if (!(await readTile(models, owner, { part: 'colour', ...part }))) return undefined;
  const kept = await readTile(models, owner, { part: 'mask', ...part });
  const seen = kept && (await decodeTile(kept));
  const bits = new Uint8Array((PICTURE_TILE * PICTURE_TILE) / 8);
  const [wide, high] = [
    Math.min(PICTURE_TILE, columns - x * PICTURE_TILE),
    Math.min(PICTURE_TILE, rows - y * PICTURE_TILE),
  ];
  for (let row = 0; row < high; row++)
    for (let column = 0; column < wide; column++) {
      if (seen && seen.data[(row * seen.width + column) * seen.samples]! < 128) continue;
      bits[(row * PICTURE_TILE + column) >> 3]! |= 128 >> (column & 7);
    }
  return deflateSync(bits);
}

export const home: ProductHome<'picture'> = {
  kind: 'picture',
  writers: { tif: writeTiff, jpg: withWorldFile('jpg'), png: withWorldFile('png') },
};
