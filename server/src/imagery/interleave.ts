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
export async function interleavedCopy(path: string, page: number, samples: 1 | 3 | 4, target: string): Promise<void> {
  await copyRows(path, page, samples, target, (values, depth) =>
    depth < 8 ? columnFrom(Uint8Array, values, (value) => Math.round((value * 255) / (2 ** depth - 1))) : values,
  );
}

/** Where a picture of a TIFF has another value than the one that says there is none, in any of its bands: 255 there, else 0. */
export async function notNoData(path: string, samples: 1 | 3 | 4, noData: number, target: string): Promise<void> {
  await copyRows(path, 0, samples, target, (values) => {
    const seen = new Uint8Array(values.length / samples);
    for (let k = 0; k < values.length; k++) if (values[k] !== noData) seen[Math.floor(k / samples)] = 255;
    return seen;
  });
}

type Pixels = Uint8Array | Uint16Array;

/** @param turned - what is written for the pixels of some rows: as many samples a pixel as were read, or one */
async function copyRows(
  path: string,
  page: number,
  samples: 1 | 3 | 4,
  target: string,
  turned: (values: Pixels, depth: number) => Pixels,
): Promise<void> {
  const tiff = await fromFile(path);
  try {
    const image = await tiff.getImage(page);
    const [columns, rows] = [image.getWidth(), image.getHeight()];
    const depth = image.getBitsPerSample();
    const block = Math.max(1, Math.min(rows, image.getTileHeight()));
    const stripRows = Math.min(rows, block * Math.max(1, Math.floor(AT_ONCE / columns / block)));
    let plain: PlainTiff | undefined;
    try {
      for (let top = 0; top < rows; top += stripRows) {
        const bottom = Math.min(rows, top + stripRows);
        const values = (await image.readRasters({
          window: [0, top, columns, bottom],
          samples: Array.from({ length: samples }, (_, k) => k),
          interleave: true,
        })) as unknown as Pixels;
        const written = turned(values, depth);
        plain ??= await PlainTiff.create(target, {
          columns,
          rows,
          samples: written.length === values.length ? samples : 1,
          stripRows,
          bits: written instanceof Uint16Array ? 16 : 8,
        });
        await plain.append(new Uint8Array(written.buffer, written.byteOffset, written.byteLength));
      }
    } finally {
      await plain?.close(rows, stripRows);
    }
  } finally {
    await tiff.close();
  }
}
