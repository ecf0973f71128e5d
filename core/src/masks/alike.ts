import { labDistance, labOf, type Lab, type TilePixels } from '../imagery/index.js';

/** No fewer shades than this are alike, however even the picked places are: about what an eye tells apart at a glance. */
const LEAST_TOLERANCE = 4;
/** Nine in ten pixels about a picked place are to be alike, with room for what the rest of the cover adds. */
const [MOST_PIXELS, ROOM] = [0.9, 1.6];

/** Colours that were picked, and how far they scatter at least (CIE 1976 difference). */
export interface PickedColours {
  readonly colours: readonly Lab[];
  readonly tolerance: number;
}

/** Pixels about a place, red, green and blue one after another. */
export type PickedPixels = readonly (readonly [number, number, number])[];

/**
 * The colour of each picked place, the median of its pixels, and the least tolerance, from how they scatter about it.
 * @param places - the pixels about each place; at least one pixel each
 */
export function pickedColours(places: readonly PickedPixels[]): PickedColours {
  const labs = places.map((pixels) => pixels.map((rgb) => labOf(...rgb)));
  const colours = labs.map((pixels): Lab => [
    median(pixels.map(([l]) => l)),
    median(pixels.map(([, a]) => a)),
    median(pixels.map(([, , b]) => b)),
  ]);
  const scatter = labs.map((pixels, k) => {
    const distances = pixels.map((lab) => labDistance(lab, colours[k]!)).sort((x, y) => x - y);
    return distances[Math.floor(MOST_PIXELS * (distances.length - 1))]!;
  });
  return { colours, tolerance: Math.max(LEAST_TOLERANCE, ROOM * Math.max(...scatter)) };
}

function median(values: number[]): number {
  values.sort((x, y) => x - y);
  const half = values.length >> 1;
  return values.length % 2 === 1 ? values[half]! : (values[half - 1]! + values[half]!) / 2;
}

/** Differences are kept in quarters, in a byte: what is further than this is far. */
export const QUARTERS = 4;
const FAR = 254;

/** How far colours of sRGB are from the nearest of those picked. Each is worked out once: pictures of millions of pixels have far fewer colours. */
export class Likeness {
  /** Quarters and one more; 0 where it was not asked yet. */
  private readonly known = new Uint8Array(1 << 24);

  constructor(private readonly colours: readonly Lab[]) {}

  /** The difference in quarters, rounded up, 254 at most. */
  far(red: number, green: number, blue: number): number {
    const key = (red << 16) | (green << 8) | blue;
    const known = this.known[key]!;
    if (known !== 0) return known - 1;
    const [lightness, a, b] = labOf(red, green, blue);
    // Squares, and one root: this is most of the time that a mask takes.
    let least = Infinity;
    for (const colour of this.colours) {
      const [dl, da, db] = [lightness - colour[0], a - colour[1], b - colour[2]];
      least = Math.min(least, dl * dl + da * da + db * db);
    }
    const far = Math.min(FAR, Math.ceil(Math.sqrt(least) * QUARTERS));
    this.known[key] = far + 1;
    return far;
  }
}

/** A window of pixels that a mask covers: column and row of its first pixel, and its size. */
export interface PixelWindow {
  readonly column: number;
  readonly row: number;
  readonly columns: number;
  readonly rows: number;
}

/** What {@link measureFar} leaves where there is no picture. */
export const NO_PICTURE = 255;

/**
 * Measures how far the colours of a tile are, as far as it lies in the window.
 * @param place - column and row of the tile's first pixel
 * @param seen - where the tile is picture (128 and more); without it all of it is
 * @param out - quarters, a byte a pixel of the window, row by row; what is no picture is left
 */
export function measureFar(
  { data, width, height, samples }: TilePixels,
  seen: TilePixels | undefined,
  place: readonly [column: number, row: number],
  likeness: Likeness,
  window: PixelWindow,
  out: Uint8Array,
): void {
  const [left, right] = [Math.max(place[0], window.column), Math.min(place[0] + width, window.column + window.columns)];
  const [top, bottom] = [Math.max(place[1], window.row), Math.min(place[1] + height, window.row + window.rows)];
  const [green, blue] = samples < 3 ? [0, 0] : [1, 2];
  for (let row = top; row < bottom; row++) {
    let at = (row - window.row) * window.columns + left - window.column;
    let pixel = (row - place[1]) * width + left - place[0];
    for (let column = left; column < right; column++, at++, pixel++) {
      const k = pixel * samples;
      const isPicture = !seen || seen.data[pixel * seen.samples]! >= 128;
      if (isPicture) out[at] = likeness.far(data[k]!, data[k + green]!, data[k + blue]!);
    }
  }
}
