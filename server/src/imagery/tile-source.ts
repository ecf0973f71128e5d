import { PICTURE_TILE as TILE, type TilePixels } from '@pampero/core/imagery';
import { pictureCodec } from './codec.js';

export async function decodeTile(bytes: Uint8Array | string): Promise<TilePixels> {
  const sharp = await pictureCodec();
  const { data, info } = await sharp(bytes).raw().toBuffer({ resolveWithObject: true });
  return { data, width: info.width, height: info.height, samples: info.channels };
}

/** Tiles of one level, decoded as they are asked for; the last used are kept. */
export class TileSource {
  private readonly kept = new Map<string, Promise<TilePixels | undefined>>();

  /** @param read - the bytes or the file of a tile; undefined where there is none */
  constructor(
    private readonly read: (x: number, y: number) => Promise<Uint8Array | string | undefined>,
    private readonly most = 64,
  ) {}

  tile(x: number, y: number): Promise<TilePixels | undefined> {
    const key = `${x}_${y}`;
    const known = this.kept.get(key);
    this.kept.delete(key);
    const tile = known ?? this.read(x, y).then((bytes) => (bytes === undefined ? undefined : decodeTile(bytes)));
    this.kept.set(key, tile);
    if (this.kept.size > this.most) this.kept.delete(this.kept.keys().next().value!);
    return tile;
  }

  /**
   * A window of pixels put together from its tiles; nothing (0) where there are none.
   * @param missing - bytes where there is no tile
   */
  async window(
    column: number,
    row: number,
    width: number,
    height: number,
    samples: number,
    missing = 0,
  ): Promise<Uint8Array> {
    const out = new Uint8Array(width * height * samples).fill(missing);
    for (let ty = Math.floor(row / TILE); ty <= Math.floor((row + height - 1) / TILE); ty++)
      for (let tx = Math.floor(column / TILE); tx <= Math.floor((column + width - 1) / TILE); tx++) {
        if (tx < 0 || ty < 0) continue;
        const tile = await this.tile(tx, ty);
        if (!tile) continue;
        const [x0, y0] = [Math.max(column, tx * TILE), Math.max(row, ty * TILE)];
        const [x1, y1] = [
          Math.min(column + width, tx * TILE + tile.width),
          Math.min(row + height, ty * TILE + tile.height),
        ];
        for (let y = y0; y < y1; y++) {
          const from = ((y - ty * TILE) * tile.width + x0 - tx * TILE) * tile.samples;
          const to = ((y - row) * width + x0 - column) * samples;
          if (tile.samples === samples) out.set(tile.data.subarray(from, from + (x1 - x0) * samples), to);
          else
            for (let x = 0; x < x1 - x0; x++)
              for (let s = 0; s < samples; s++)
                out[to + x * samples + s] = tile.data[from + x * tile.samples + Math.min(s, tile.samples - 1)]!;
        }
      }
    return out;
  }
}
