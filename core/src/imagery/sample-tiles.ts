/** Pixels along the side of a tile; those at the right and lower edge are smaller. */
export const PICTURE_TILE = 512;

/** A tile's pixels: `samples` bytes each, row by row. */
export interface TilePixels {
  readonly data: Uint8Array;
  readonly width: number;
  readonly height: number;
  readonly samples: number;
}

/** A tile of a level of a picture; without a mask all of it is picture. */
export interface PictureTile {
  readonly x: number;
  readonly y: number;
  readonly colour: TilePixels;
  readonly mask?: TilePixels | undefined;
}

/**
 * Reads colours out of tiles that lie beside one another: bilinear between the centres of four pixels, or the nearest, also over the edge
 * from tile to tile. `out` receives red, green and blue, 0 to 255 with their fractions.
 * @returns false where there is no picture
 */
export class TileSampler {
  private readonly tiles = new Map<number, PictureTile>();
  private last: PictureTile | undefined;

  /** @param side - pixels along the side of a whole tile */
  constructor(
    private readonly side: number,
    private readonly isNearest: boolean,
  ) {}

  add(tile: PictureTile): void {
    this.tiles.set(tile.y * 65_536 + tile.x, tile);
  }

  /** @param column, row - pixel coordinates, from the outer corner of the first pixel */
  sample(column: number, row: number, out: Float64Array): boolean {
    const nc = Math.floor(column);
    const nr = Math.floor(row);
    const home = this.tileAt(nc, nr);
    if (!home) return false;
    if (home.mask && value(home.mask, nc - home.x * this.side, nr - home.y * this.side, 0) < 128) return false;
    if (this.isNearest) {
      for (let band = 0; band < 3; band++) out[band] = this.of(home, nc, nr, band);
      return true;
    }
    const fc = column - 0.5;
    const fr = row - 0.5;
    const c0 = Math.floor(fc);
    const r0 = Math.floor(fr);
    const u = fc - c0;
    const v = fr - r0;
    const { data, width, height, samples } = home.colour;
    const left = c0 - home.x * this.side;
    const top = r0 - home.y * this.side;
    if (!home.mask && left >= 0 && top >= 0 && left + 1 < width && top + 1 < height) {
      // Nearly all places: the four pixels lie in one tile.
      const at = (top * width + left) * samples;
      const below = at + width * samples;
      for (let band = 0; band < 3; band++) {
        const k = samples < 3 ? 0 : band;
        const upper = data[at + k]! + (data[at + samples + k]! - data[at + k]!) * u;
        const lower = data[below + k]! + (data[below + samples + k]! - data[below + k]!) * u;
        out[band] = upper + (lower - upper) * v;
      }
      return true;
    }
    out[0] = out[1] = out[2] = 0;
    for (let corner = 0; corner < 4; corner++) {
      const [c, r] = [c0 + (corner & 1), r0 + (corner >> 1)];
      const weight = ((corner & 1) === 1 ? u : 1 - u) * (corner >> 1 === 1 ? v : 1 - v);
      if (weight === 0) continue;
      // Beyond the edge of the picture, and where there is none, the pixel that the place lies in counts.
      const tile = this.tileAt(c, r);
      const isThere = tile && !(tile.mask && value(tile.mask, c - tile.x * this.side, r - tile.y * this.side, 0) < 128);
      for (let band = 0; band < 3; band++)
        out[band]! += weight * (isThere ? this.of(tile, c, r, band) : this.of(home, nc, nr, band));
    }
    return true;
  }

  private tileAt(column: number, row: number): PictureTile | undefined {
    if (column < 0 || row < 0) return undefined;
    const x = Math.floor(column / this.side);
    const y = Math.floor(row / this.side);
    if (this.last?.x !== x || this.last.y !== y) this.last = this.tiles.get(y * 65_536 + x);
    const tile = this.last;
    if (!tile) return undefined;
    return column - x * this.side < tile.colour.width && row - y * this.side < tile.colour.height ? tile : undefined;
  }

  private of({ x, y, colour }: PictureTile, column: number, row: number, band: number): number {
    return value(colour, column - x * this.side, row - y * this.side, Math.min(band, colour.samples - 1));
  }
}

function value({ data, width, samples }: TilePixels, column: number, row: number, band: number): number {
  return data[(row * width + column) * samples + band]!;
}
