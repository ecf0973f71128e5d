import { PICTURE_TILE } from '@pampero/contract';
import { urlOf } from '../api/urls';
import type { DrawnPicture } from './drawing-protocol';

/** A tile as pixels, red in the lowest byte, alpha 0 where there is no picture. */
export interface ReadTile {
  readonly pixels: Uint32Array;
  readonly width: number;
  readonly height: number;
}

/** Tiles kept: each is a megabyte. */
const MOST_TILES = 120;
const FETCHES_AT_ONCE = 6;

/** Tiles of pictures in the worker: fetched as they are wanted, the longest unused dropped. */
export class PictureTiles {
  private readonly kept = new Map<string, ReadTile | 'none'>();
  private readonly wanted = new Map<string, { readonly picture: DrawnPicture; level: number; x: number; y: number }>();
  private fetching = 0;

  constructor(
    private readonly arrived: () => void,
    private readonly read: typeof fetchTile = fetchTile,
  ) {}

  /** The tile if it is here; otherwise it is asked for, the last asked first. Undefined as well where there is no picture. */
  get(picture: DrawnPicture, level: number, x: number, y: number): ReadTile | undefined {
    const key = `${picture.tilesOf} ${level} ${x} ${y}`;
    const tile = this.kept.get(key);
    if (tile === undefined) {
      if (!this.wanted.has(key)) this.wanted.set(key, { picture, level, x, y });
      return undefined;
    }
    // The last used go last.
    this.kept.delete(key);
    this.kept.set(key, tile);
    return tile === 'none' ? undefined : tile;
  }

  get isComplete(): boolean {
    return this.wanted.size === 0 && this.fetching === 0;
  }

  /** What the last picture did not want any more is not fetched. */
  forgetWanted(): void {
    this.wanted.clear();
  }

  fetchNext(): void {
    while (this.fetching < FETCHES_AT_ONCE && this.wanted.size > 0) {
      // Coarse tiles first: they show all of it at once.
      const [key, ask] = [...this.wanted].reduce((a, b) => (b[1].level > a[1].level ? b : a));
      this.wanted.delete(key);
      this.fetching++;
      this.kept.set(key, 'none');
      void this.read(ask.picture, ask.level, ask.x, ask.y)
        .then((tile) => {
          this.kept.set(key, tile ?? 'none');
          while (this.kept.size > MOST_TILES) this.kept.delete(this.kept.keys().next().value!);
          this.arrived();
        })
        .catch(() => this.kept.delete(key))
        .finally(() => {
          this.fetching--;
          this.fetchNext();
        });
    }
  }
}

async function fetchTile(picture: DrawnPicture, level: number, x: number, y: number): Promise<ReadTile | undefined> {
  const { jobId, tilesOf, hasMask } = picture;
  const of = async (part: 'colour' | 'mask'): Promise<Blob | undefined> => {
    const response = await fetch(
      urlOf('readPictureTile', { params: { jobId, productId: tilesOf, part, level, x, y } }),
    );
    if (!response.ok) throw new Error(`tile ${level}/${x}/${y}: ${response.status}`);
    const blob = await response.blob();
    return blob.size > 0 ? blob : undefined;
  };
  const [colour, mask] = await Promise.all([of('colour'), hasMask ? of('mask') : undefined]);
  if (!colour) return undefined;
  const tile = await decoded(colour);
  if (mask) {
    const seen = await decoded(mask);
    for (let k = 0; k < tile.pixels.length; k++) if ((seen.pixels[k]! & 255) < 128) tile.pixels[k] = 0;
  }
  return tile;
}

let canvas: OffscreenCanvas | undefined;
async function decoded(blob: Blob): Promise<ReadTile> {
  const bitmap = await createImageBitmap(blob);
  canvas ??= new OffscreenCanvas(PICTURE_TILE, PICTURE_TILE);
  const context = canvas.getContext('2d', { willReadFrequently: true })!;
  const { width, height } = bitmap;
  context.clearRect(0, 0, PICTURE_TILE, PICTURE_TILE);
  context.drawImage(bitmap, 0, 0);
  bitmap.close();
  const { data } = context.getImageData(0, 0, width, height);
  return { pixels: new Uint32Array(data.buffer), width, height };
}
