import { columnFrom } from '@pampero/core/columns';
import { fromFile } from 'geotiff';
import { PlainTiff } from './plain-tiff.js';

/** Pixels read at once. */
const AT_ONCE = 4_000_000;

/**
 * Copies a picture of a TIFF pixel by pixel into a plain one: for the ways of lying in a file that the image library does not read
 * (bands apart in tiles, single bits in tiles).
 * @param page - which directory; single bits become 0 and 255
 */
export async function interleavedCopy(
  path: string,
  page: number,
  samples: 1 | 3 | 4,
  target: string,
  onShare: (share: number) => void = () => undefined,
): Promise<void> {
  const tiff = await fromFile(path);
  try {
    const image = await tiff.getImage(page);
    const [columns, rows] = [image.getWidth(), image.getHeight()];
    const depth = image.getBitsPerSample();
    const block = Math.max(1, Math.min(rows, image.getTileHeight()));
    const stripRows = Math.min(rows, block * Math.max(1, Math.floor(AT_ONCE / columns / block)));
    const bits = depth === 16 ? 16 : 8;
    const plain = await PlainTiff.create(target, { columns, rows, samples, stripRows, bits });
    try {
      for (let top = 0; top < rows; top += stripRows) {
        const bottom = Math.min(rows, top + stripRows);
        const values = (await image.readRasters({
          window: [0, top, columns, bottom],
          samples: Array.from({ length: samples }, (_, k) => k),
          interleave: true,
        })) as unknown as Uint8Array | Uint16Array;
        const full =
          depth < 8 ? columnFrom(Uint8Array, values, (value) => Math.round((value * 255) / (2 ** depth - 1))) : values;
        await plain.append(new Uint8Array(full.buffer, full.byteOffset, full.byteLength));
        onShare(bottom / rows);
      }
    } finally {
      await plain.close(rows, stripRows);
    }
  } finally {
    await tiff.close();
  }
}
