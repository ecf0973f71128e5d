import type { ProductOf } from '@pampero/contract';
import { PICTURE_TILE, writeWorldFile } from '@pampero/core/imagery';
import { PamperoError } from '@pampero/core/task';
import { formatCount } from '@pampero/core/wording';
import { zipSync } from 'fflate';
import { decodeTile } from '../imagery/tile-source.js';
import { readTile, tilesOwner } from '../store/picture-repository.js';
import { fileStem } from './file-names.js';
import type { ExportSite, WrittenFile } from './product-home.js';
import { pictureCodec } from '../imagery/codec.js';

type Picture = ProductOf<'picture'>;

/** Pixels that are held at once; JPEG itself ends at 65 535 along a side. */
const [MOST_PIXELS, MOST_ALONG] = [150_000_000, 65_000];
const FORMS = {
  jpg: { ending: '.jpg', world: '.jgw' },
  png: { ending: '.png', world: '.pgw' },
} as const;

/** A picture as JPEG or PNG in a zip with its world file, which says where it lies. PNG is clear where there is no picture, JPEG white. */
export const withWorldFile =
  (form: keyof typeof FORMS) =>
  async ({ models }: ExportSite, { id, name, facts }: Picture): Promise<WrittenFile> => {
    const { columns, rows } = facts;
    if (columns * rows > MOST_PIXELS || Math.max(columns, rows) > MOST_ALONG)
      throw new PamperoError('picture-too-large', {
        what: `${formatCount(columns)} by ${formatCount(rows)} pixels are too many for ${form === 'jpg' ? 'JPEG' : 'PNG'}.`,
        fix: 'Choose GeoTIFF.',
      });
    const owner = await tilesOwner(models, id);
    const channels = form === 'png' && facts.hasMask ? 4 : 3;
    const pixels = Buffer.alloc(columns * rows * channels, channels === 4 ? 0 : 255);
    for (let y = 0; y * PICTURE_TILE < rows; y++)
      for (let x = 0; x * PICTURE_TILE < columns; x++) {
        const kept = await readTile(models, owner, { part: 'colour', level: 0, x, y });
        if (!kept) continue;
        const tile = await decodeTile(kept);
        const mask = facts.hasMask ? await readTile(models, owner, { part: 'mask', level: 0, x, y }) : undefined;
        const seen = mask && (await decodeTile(mask));
        const [left, top] = [x * PICTURE_TILE, y * PICTURE_TILE];
        for (let row = 0; row < tile.height && top + row < rows; row++)
          for (let column = 0; column < tile.width && left + column < columns; column++) {
            const at = row * tile.width + column;
            if (seen && seen.data[at * seen.samples]! < 128) continue;
            const to = ((top + row) * columns + left + column) * channels;
            for (let band = 0; band < 3; band++)
              pixels[to + band] = tile.data[at * tile.samples + Math.min(band, tile.samples - 1)]!;
            if (channels === 4) pixels[to + 3] = 255;
          }
      }
    const sharp = await pictureCodec();
    const image = sharp(pixels, { raw: { width: columns, height: rows, channels }, limitInputPixels: false });
    const { ending, world } = FORMS[form];
    const bytes = await (
      form === 'jpg' ? image.jpeg({ quality: 92, chromaSubsampling: '4:4:4' }) : image.png()
    ).toBuffer();
    const stem = fileStem(name);
    return {
      bytes: zipSync(
        { [stem + ending]: bytes, [stem + world]: new TextEncoder().encode(writeWorldFile(facts)) },
        { level: 0 },
      ),
    };
  };
