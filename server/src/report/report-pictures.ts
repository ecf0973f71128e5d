import type { CloudReport } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import { unpackContours, type ContourSet } from '@pampero/core/contours';
import { hillshade } from '@pampero/core/grids';
import type { RasterFrame } from '@pampero/core/raster';
import { rampTable, RAMP_SIZE, rampColour } from '@pampero/core/tints';
import { PamperoError } from '@pampero/core/task';
import type { Models } from '../store/models.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { pictureCodec } from '../imagery/codec.js';

/** Pixels along the longer side of a picture in a report. */
const LONGEST = 1400;
const PAPER = [251, 249, 244] as const;
const LIGHT = { azimuth: 315, altitude: 45 };
const [CONTOUR, INDEX_CONTOUR] = [
  [120, 92, 58],
  [70, 48, 24],
] as const;

/** A surface from above: tinted by height, shaded, with contours where there are any; north up. */
export async function surfaceMap(models: Models, surfaceId: number, contoursId: number | undefined): Promise<Buffer> {
  const { arrays, facts } = unpackArrays(await readShownPart(models, 'surface', surfaceId, 'grid'));
  const frame = facts as RasterFrame;
  const { columns, rows, cell } = frame;
  const heights = arrays['elevation'] as Float32Array;
  const shade = hillshade(heights, columns, rows, cell, LIGHT);
  let [low, high] = [Infinity, -Infinity];
  for (const z of heights) {
    if (z < low) low = z;
    if (z > high) high = z;
  }
  const colours = rampTable('land');
  const pixels = new Uint8Array(columns * rows * 3);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const from = row * columns + column;
      const to = ((rows - 1 - row) * columns + column) * 3;
      const z = heights[from]!;
      if (Number.isNaN(z)) pixels.set(PAPER, to);
      else {
        const share = (z - low) / Math.max(1e-9, high - low);
        const abgr = colours[Math.min(RAMP_SIZE - 1, Math.floor(share * RAMP_SIZE))]!;
        const light = 0.45 + 0.55 * (shade[from]! / 255) * 1.35;
        for (let band = 0; band < 3; band++)
          pixels[to + band] = Math.min(255, (0.35 * 255 + 0.65 * ((abgr >> (8 * band)) & 255)) * light);
      }
    }
  const scale = LONGEST / Math.max(columns, rows);
  const [width, height] = [Math.max(1, Math.round(columns * scale)), Math.max(1, Math.round(rows * scale))];
  const sharp = await pictureCodec();
  const { data } = await sharp(pixels, { raw: { width: columns, height: rows, channels: 3 } })
    .resize(width, height, { kernel: 'linear' })
    .raw()
    .toBuffer({ resolveWithObject: true });
  if (contoursId !== undefined) {
    const set = unpackContours(await readProductBlob(models, contoursId, 'lines'));
    drawContours(data, width, height, set, frame, scale / cell);
  }
  return sharp(data, { raw: { width, height, channels: 3 } })
    .png({ compressionLevel: 9, palette: true, quality: 90 })
    .toBuffer();
}

function drawContours(
  pixels: Uint8Array,
  width: number,
  height: number,
  set: ContourSet,
  frame: RasterFrame,
  pixelsPerUnit: number,
): void {
  const [dx, dy] = [set.origin[0] - frame.east, set.origin[1] - frame.north];
  const blend = (x: number, y: number, colour: readonly number[], share: number): void => {
    if (x < 0 || y < 0 || x >= width || y >= height) return;
    const at = (y * width + x) * 3;
    for (let band = 0; band < 3; band++) pixels[at + band] = pixels[at + band]! * (1 - share) + colour[band]! * share;
  };
  for (let k = 0; k < set.level.length; k++) {
    const isIndex = set.isIndex[k] === 1;
    const [colour, share] = isIndex ? [INDEX_CONTOUR, 0.9] : [CONTOUR, 0.55];
    const to = set.starts[k + 1] ?? set.easting.length;
    for (let i = set.starts[k]!; i + 1 < to; i++) {
      const [x0, y0] = [(set.easting[i]! + dx) * pixelsPerUnit, height - (set.northing[i]! + dy) * pixelsPerUnit];
      const [x1, y1] = [
        (set.easting[i + 1]! + dx) * pixelsPerUnit,
        height - (set.northing[i + 1]! + dy) * pixelsPerUnit,
      ];
      const steps = Math.max(1, Math.ceil(Math.max(Math.abs(x1 - x0), Math.abs(y1 - y0))));
      for (let s = 0; s < steps; s++) {
        const t = s / steps;
        blend(Math.floor(x0 + t * (x1 - x0)), Math.floor(y0 + t * (y1 - y0)), colour, share);
      }
    }
  }
}

/** How many points lie where, dark where there are many; paper where there are none. North up. */
export async function densityMap({ density: { map } }: CloudReport): Promise<Buffer> {
  const { columns, rows, counts } = map;
  const most = [...counts].sort((a, b) => a - b)[Math.floor(counts.length * 0.98)] || 1;
  const pixels = new Uint8Array(columns * rows * 3);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const count = counts[row * columns + column]!;
      const to = ((rows - 1 - row) * columns + column) * 3;
      pixels.set(count === 0 ? PAPER : rampColour('dusk', Math.min(1, count / most)), to);
    }
  const scale = Math.max(1, Math.floor(LONGEST / 2 / Math.max(columns, rows)));
  const sharp = await pictureCodec();
  return sharp(pixels, { raw: { width: columns, height: rows, channels: 3 } })
    .resize(columns * scale, rows * scale, { kernel: 'nearest' })
    .png({ compressionLevel: 9, palette: true })
    .toBuffer();
}

/** More pixels than a page can show; a picture that claims more is not opened. */
const MOST_PIXELS = 40_000_000;

/** A picture from outside, read and written anew: what is in the report is a picture and nothing else. */
export async function givenPicture(base64: string, what: string): Promise<Buffer> {
  try {
    const sharp = await pictureCodec();
    return await sharp(Buffer.from(base64, 'base64'), { limitInputPixels: MOST_PIXELS, failOn: 'error' })
      .resize(2 * LONGEST, 2 * LONGEST, { fit: 'inside', withoutEnlargement: true })
      .png({ compressionLevel: 9 })
      .toBuffer();
  } catch {
    throw new PamperoError('picture-unreadable', {
      what: `${what} cannot be read.`,
      fix: 'Choose a PNG or JPEG that other programs open.',
    });
  }
}
