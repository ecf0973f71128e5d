import { PICTURE_TILE } from '@pampero/contract';
import { inverseOf, pixelSize } from '@pampero/core/imagery';
import type { DrawnPicture } from './drawing-protocol';
import { inverseMatrix } from './inverse-matrix';
import type { PictureTiles, ReadTile } from './picture-tiles';
import type { Frame, Matrix } from './frame';

/** A picture ready to be asked for the colour of a place of the scene. */
class Sampler {
  private readonly a: number;
  private readonly b: number;
  private readonly c: number;
  private readonly d: number;
  private readonly level: number;
  private readonly halves: number;
  private readonly lut: Uint8Array;
  private readonly shiftX: number;
  private readonly shiftY: number;
  private lastX = -1;
  private lastY = -1;
  private last: ReadTile | undefined;

  constructor(
    private readonly picture: DrawnPicture,
    private readonly tiles: PictureTiles,
    [ox, oy]: readonly [number, number, number],
    footprint: number,
  ) {
    const { frame, levels, brightness, contrast } = picture;
    ({ a: this.a, b: this.b, c: this.c, d: this.d } = inverseOf(frame));
    this.shiftX = ox - frame.east;
    this.shiftY = oy - frame.north;
    const ratio = footprint / pixelSize(frame);
    this.level = Math.max(0, Math.min(levels - 1, Math.round(Math.log2(Math.max(1, ratio)) - 0.2)));
    this.halves = 2 ** this.level;
    this.lut = Uint8Array.from({ length: 256 }, (_, value) =>
      Math.max(0, Math.min(255, (value - 128) * contrast + 128 + brightness)),
    );
  }

  get opacity(): number {
    return this.picture.opacity;
  }

  /** The colour at a place of the scene, red in the lowest byte; 0 where there is none, or none yet. */
  at(x: number, y: number): number {
    const [e, n] = [x + this.shiftX, y + this.shiftY];
    const column = Math.floor((this.a * e + this.b * n) / this.halves);
    const row = Math.floor((this.c * e + this.d * n) / this.halves);
    if (column < 0 || row < 0) return 0;
    const [tx, ty] = [Math.floor(column / PICTURE_TILE), Math.floor(row / PICTURE_TILE)];
    if (tx !== this.lastX || ty !== this.lastY) {
      [this.lastX, this.lastY] = [tx, ty];
      const { columns, rows } = this.picture.frame;
      const isIn = tx * PICTURE_TILE * this.halves < columns && ty * PICTURE_TILE * this.halves < rows;
      this.last = isIn ? this.tiles.get(this.picture, this.level, tx, ty) : undefined;
      // Until it has come, the coarsest of all.
      if (isIn && !this.last) this.lastX = -1;
    }
    const pixel = this.last
      ? pixelOf(this.last, column - tx * PICTURE_TILE, row - ty * PICTURE_TILE)
      : this.coarse(column, row);
    if (pixel === 0) return 0;
    const { lut } = this;
    return (0xff000000 | (lut[(pixel >> 16) & 255]! << 16) | (lut[(pixel >> 8) & 255]! << 8) | lut[pixel & 255]!) >>> 0;
  }

  private coarse(column: number, row: number): number {
    const top = this.picture.levels - 1;
    if (top === this.level) return 0;
    const factor = 2 ** (top - this.level);
    const [c, r] = [Math.floor(column / factor), Math.floor(row / factor)];
    const tile = this.tiles.get(this.picture, top, 0, 0);
    return tile ? pixelOf(tile, c, r) : 0;
  }
}

function pixelOf({ pixels, width, height }: ReadTile, column: number, row: number): number {
  return column < width && row < height ? pixels[row * width + column]! : 0;
}

const mixed = (over: number, under: number, share: number): number => {
  const of = (shift: number): number =>
    Math.round(((over >> shift) & 255) * share + ((under >> shift) & 255) * (1 - share)) << shift;
  return (0xff000000 | of(16) | of(8) | of(0)) >>> 0;
};

export interface PictureSite {
  readonly pictures: readonly DrawnPicture[];
  readonly tiles: PictureTiles;
  readonly origin: readonly [number, number, number];
  /** What shows through where a picture is not quite opaque. */
  readonly ground: readonly [number, number, number];
}

/** Those that are seen at all, read as fine as places lie apart; the last on top. */
function samplersOf({ pictures, tiles, origin }: Omit<PictureSite, 'ground'>, footprint: number): Sampler[] {
  return pictures.filter(({ opacity }) => opacity > 0).map((picture) => new Sampler(picture, tiles, origin, footprint));
}

/**
 * Lays pictures under what a view from above shows; to the left of the wipe over it. The last of them lies on top.
 * @param rgba - the shaded picture, rows as {@link Frame} has them, the lowest first
 * @param wipe - share of the width, from the left, on which the pictures lie over the points
 */
export function layUnder(
  rgba: Uint8ClampedArray,
  { width, height, depth }: Frame,
  matrix: Matrix,
  site: PictureSite,
  wipe: number,
): void {
  const out = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height);
  const [m0, m5, m12, m13] = [matrix[0]!, matrix[5]!, matrix[12]!, matrix[13]!];
  const footprint = 2 / (Math.abs(m0) * width);
  const samplers = samplersOf(site, footprint);
  const { ground } = site;
  const behind = (0xff000000 | (ground[2] << 16) | (ground[1] << 8) | ground[0]) >>> 0;
  const edge = wipe * width;
  for (const sampler of samplers) {
    const { opacity } = sampler;
    for (let row = 0, at = 0; row < height; row++) {
      const y = ((2 * (row + 0.5)) / height - 1 - m13) / m5;
      for (let column = 0; column < width; column++, at++) {
        const isOver = column < edge;
        if (!isOver && out[at]! >>> 24 !== 0 && depth[at]! <= 1) continue;
        const colour = sampler.at(((2 * (column + 0.5)) / width - 1 - m12) / m0, y);
        if (colour === 0) continue;
        const under = out[at]! >>> 24 === 0 ? behind : out[at]!;
        out[at] = opacity >= 1 ? colour : mixed(colour, under, opacity);
      }
    }
  }
}

/** Colours along a line in plan, scene coordinates, at `steps` + 1 even places: of the topmost picture there; 0 where there is none. */
export function picturesAlong(
  [ax, ay, bx, by]: readonly [number, number, number, number],
  steps: number,
  site: Omit<PictureSite, 'ground'>,
): Uint32Array {
  const footprint = Math.hypot(bx - ax, by - ay) / steps;
  const samplers = samplersOf(site, footprint);
  return Uint32Array.from({ length: steps + 1 }, (_, k) => {
    const [x, y] = [ax + ((bx - ax) * k) / steps, ay + ((by - ay) * k) / steps];
    for (let top = samplers.length - 1; top >= 0; top--) {
      const colour = samplers[top]!.at(x, y);
      if (colour !== 0) return colour;
    }
    return 0;
  });
}

/**
 * Drapes pictures over surfaces that were drawn in white: pixel by pixel, at the place that its depth says, so that they are as sharp as
 * the pictures whatever the surface's triangles. The light on the surface stays.
 */
export function drape(
  rgba: Uint8ClampedArray,
  { width, height, depth, point }: Frame,
  matrix: Matrix,
  { pictures, tiles, origin }: PictureSite,
): void {
  const inverse = inverseMatrix(matrix);
  if (!inverse) return;
  const out = new Uint32Array(rgba.buffer, rgba.byteOffset, width * height);
  const place = (column: number, row: number, z: number): [number, number] => {
    const [x, y] = [(2 * (column + 0.5)) / width - 1, (2 * (row + 0.5)) / height - 1];
    const w = inverse[3]! * x + inverse[7]! * y + inverse[11]! * z + inverse[15]!;
    return [
      (inverse[0]! * x + inverse[4]! * y + inverse[8]! * z + inverse[12]!) / w,
      (inverse[1]! * x + inverse[5]! * y + inverse[9]! * z + inverse[13]!) / w,
    ];
  };
  const isSurface = (at: number): boolean => depth[at]! <= 1 && point[at] === 0;
  const bySize = new Map<number, Sampler[]>();
  const BLOCK = 16;
  for (let top = 0; top < height; top += BLOCK)
    for (let left = 0; left < width; left += BLOCK) {
      let samplers: Sampler[] | undefined;
      const [bottom, right] = [Math.min(height, top + BLOCK), Math.min(width, left + BLOCK)];
      for (let row = top; row < bottom; row++)
        for (let column = left; column < right; column++) {
          const at = row * width + column;
          if (!isSurface(at)) continue;
          const [x, y] = place(column, row, depth[at]!);
          if (!samplers) {
            // Far land is read from coarser levels: how much of it a pixel covers says which.
            const [nx, ny] = place(column + 1, row, depth[at]!);
            const size = 2 ** Math.round(Math.log2(Math.max(1e-6, Math.hypot(nx - x, ny - y))));
            samplers = bySize.get(size) ?? pictures.map((picture) => new Sampler(picture, tiles, origin, size));
            bySize.set(size, samplers);
          }
          for (let k = samplers.length - 1; k >= 0; k--) {
            const colour = samplers[k]!.at(x, y);
            if (colour === 0) continue;
            const light = out[at]!;
            const lit = (shift: number): number =>
              Math.min(255, (((colour >> shift) & 255) * ((light >> shift) & 255)) >> 7) << shift;
            out[at] = (0xff000000 | lit(16) | lit(8) | lit(0)) >>> 0;
            break;
          }
        }
    }
}
