import type { LineShape } from '../lines/index.js';
import { shapeOf, simplifyLine } from '../lines/index.js';
import { placeOfPixel, type PictureFrame, pixelSize } from '../imagery/index.js';
import { cellRings } from '../raster/index.js';

/** An edge of a mask on the ground. */
export interface MaskRing {
  readonly shape: LineShape;
  /** Round something that is not part of it. */
  readonly isIsland: boolean;
  /** A pixel of the piece it is an edge of: the first one that it passes under. */
  readonly pixel: readonly [column: number, row: number];
}

/** The edges of a mask, evened out within part of a pixel, without elevations. */
export function maskRings(mask: Uint8Array, frame: PictureFrame, within = 0.75): MaskRing[] {
  const { columns } = frame;
  // Every ring passes under a pixel of it that has none in the row before.
  const starts: number[] = [];
  for (let at = 0; at < mask.length; at++)
    if (mask[at] === 1 && !(at >= columns && mask[at - columns] === 1)) starts.push(at);
  const tolerance = within * pixelSize(frame);
  return cellRings(frame, (at) => mask[at] === 1, starts).map(({ corners, isIsland }) => {
    const places = corners.map(([column, row]) => placeOfPixel(frame, column, row));
    const ring = shapeOf(
      places.map(([e, n]) => ({ e, n, z: NaN, source: 0 })),
      true,
    );
    return { shape: simplifyLine(ring, tolerance), isIsland, pixel: corners[0]! };
  });
}
