import { PICTURE_TILE } from '@pampero/contract';
import { describe, expect, test } from 'vitest';
import type { DrawnPicture } from './drawing-protocol';
import { inverseMatrix } from './inverse-matrix';
import { drape, layUnder, picturesAlong, type PictureSite } from './picture-painter';
import { PictureTiles, type ReadTile } from './picture-tiles';
import { drawGrid } from './grid-rasteriser';
import { newFrame, type Frame } from './frame';

/** A picture of 600 by 520 pixels of half a unit; red tells the column in tens, green the row in tens. */
const picture = (facts: Partial<DrawnPicture> = {}): DrawnPicture => ({
  jobId: 'j',
  tilesOf: 1,
  frame: { columns: 600, rows: 520, east: 1000, eastPerColumn: 0.5, eastPerRow: 0, north: 2260, northPerColumn: 0, northPerRow: -0.5 }, // prettier-ignore
  levels: 2,
  hasMask: false,
  opacity: 1,
  brightness: 0,
  contrast: 1,
  ...facts,
});
const tile = (level: number, x: number, y: number): ReadTile => {
  const half = 2 ** level;
  const [width, height] = [Math.min(PICTURE_TILE, 600 / half - x * PICTURE_TILE), Math.min(PICTURE_TILE, 520 / half - y * PICTURE_TILE)]; // prettier-ignore
  const pixels = new Uint32Array(width * height);
  for (let row = 0; row < height; row++)
    for (let column = 0; column < width; column++) {
      const [c, r] = [(x * PICTURE_TILE + column) * half, (y * PICTURE_TILE + row) * half];
      pixels[row * width + column] = (0xff000000 | (Math.floor(r / 10) << 8) | Math.floor(c / 10)) >>> 0;
    }
  return { pixels, width, height };
};

async function site(...pictures: DrawnPicture[]): Promise<PictureSite & { asked: string[] }> {
  const asked: string[] = [];
  const tiles = new PictureTiles(
    () => undefined,
    (_, level, x, y) => {
      asked.push(`${level} ${x} ${y}`);
      return Promise.resolve(tile(level, x, y));
    },
  );
  for (const each of pictures) for (const [l, x, y] of [[0, 0, 0], [0, 1, 0], [0, 0, 1], [0, 1, 1], [1, 0, 0]] as const) tiles.get(each, l, x, y); // prettier-ignore
  tiles.fetchNext();
  await new Promise((resolve) => setTimeout(resolve, 5));
  return { pictures, tiles, origin: [1000, 2000, 0], ground: [10, 20, 30], asked };
}

/** A view from above of 60 by 40 units about a place of the scene, a unit a pixel. */
const above = (x: number, y: number, width = 60, height = 40): Float64Array => {
  const m = new Float64Array(16);
  [m[0], m[5], m[10], m[15]] = [2 / width, 2 / height, -0.001, 1];
  [m[12], m[13]] = [(-2 * x) / width, (-2 * y) / height];
  return m;
};
const empty = (width = 60, height = 40): { frame: Frame; rgba: Uint8ClampedArray<ArrayBuffer> } => {
  const frame = newFrame(width, height);
  frame.depth.fill(2);
  return { frame, rgba: new Uint8ClampedArray(4 * width * height) };
};
const pixel = (rgba: Uint8ClampedArray, column: number, row: number, width = 60): number[] => [
  ...rgba.subarray(4 * (row * width + column), 4 * (row * width + column) + 4),
];

describe('a picture under the points', () => {
  test('each pixel has the colour of its place', async () => {
    const { frame, rgba } = empty();
    layUnder(rgba, frame, above(100, 130), await site(picture()), 0);
    // Column 30, row 20 of the view is at 100.5, 130.5: 201 half units from the west, 259 from the north.
    expect(pixel(rgba, 30, 20)).toEqual([20, 25, 0, 255]);
    expect(pixel(rgba, 0, 0)).toEqual([Math.floor(141 / 10), Math.floor(299 / 10), 0, 255]);
  });

  test('points stay over it, but for what lies to the left of the wipe', async () => {
    const { frame, rgba } = empty();
    rgba.fill(255);
    frame.depth.fill(0);
    layUnder(rgba, frame, above(100, 130), await site(picture()), 0.5);
    expect(pixel(rgba, 10, 20)[2]).toBe(0);
    expect(pixel(rgba, 40, 20)).toEqual([255, 255, 255, 255]);
  });

  test('half opaque it lets the ground through; brighter is brighter', async () => {
    const half = empty();
    layUnder(half.rgba, half.frame, above(100, 130), await site(picture({ opacity: 0.5 })), 0);
    expect(pixel(half.rgba, 30, 20)).toEqual([15, 23, 15, 255]);
    const bright = empty();
    layUnder(bright.rgba, bright.frame, above(100, 130), await site(picture({ brightness: 50 })), 0);
    expect(pixel(bright.rgba, 30, 20)).toEqual([70, 75, 50, 255]);
  });

  test('beyond its edge there is nothing', async () => {
    const { frame, rgba } = empty();
    layUnder(rgba, frame, above(-100, 130), await site(picture()), 0);
    expect(pixel(rgba, 10, 20)).toEqual([0, 0, 0, 0]);
  });

  test('turned by a quarter it is read along its own axes', async () => {
    // Columns run north from the corner, rows run east.
    const frame = { columns: 600, rows: 520, east: 1000, eastPerColumn: 0, eastPerRow: 0.5, north: 2000, northPerColumn: 0.5, northPerRow: 0 }; // prettier-ignore
    const view = empty();
    layUnder(view.rgba, view.frame, above(100, 130), await site(picture({ frame })), 0);
    expect(pixel(view.rgba, 30, 20)).toEqual([26, 20, 0, 255]);
  });

  test('far out a coarser level is asked for, and the last picture lies on top', async () => {
    const [one, two] = [picture(), picture({ tilesOf: 2, brightness: 100 })];
    const place = await site(one, two);
    const { frame, rgba } = empty();
    const matrix = above(150, 130, 240, 160); // four units a pixel
    layUnder(rgba, frame, matrix, place, 0);
    expect(pixel(rgba, 30, 20)[0]).toBeGreaterThanOrEqual(100);
  });
});

describe('tiles', () => {
  test('are asked for once, the coarse ones first, and told when they have come', async () => {
    const asked: number[] = [];
    let arrived = 0;
    const tiles = new PictureTiles(
      () => arrived++,
      (_, level, x, y) => {
        asked.push(level);
        return Promise.resolve(tile(level, x, y));
      },
    );
    expect(tiles.get(picture(), 0, 0, 0)).toBeUndefined();
    expect(tiles.get(picture(), 1, 0, 0)).toBeUndefined();
    expect(tiles.isComplete).toBe(false);
    tiles.fetchNext();
    await new Promise((resolve) => setTimeout(resolve, 5));
    expect(asked).toEqual([1, 0]);
    expect(arrived).toBe(2);
    tiles.get(picture(), 0, 0, 0);
    tiles.fetchNext();
    expect(asked).toHaveLength(2);
    expect(tiles.isComplete).toBe(true);
  });

  test('one that failed can be asked for again', async () => {
    let tries = 0;
    const tiles = new PictureTiles(
      () => undefined,
      () => (tries++ === 0 ? Promise.reject(new Error('gone')) : Promise.resolve(undefined)),
    );
    for (let k = 0; k < 2; k++) {
      tiles.get(picture(), 0, 0, 0);
      tiles.fetchNext();
      await new Promise((resolve) => setTimeout(resolve, 5));
    }
    expect(tries).toBe(2);
  });
});

describe('a picture over a surface', () => {
  test('every pixel of it has the colour of the place behind it, in the light of the surface', async () => {
    const { frame } = empty();
    const grid = { columns: 5, rows: 5, x: 60, y: 90, step: 20, elevation: new Float32Array(25).fill(3), colour: new Uint32Array(25).fill(0xff808080) }; // prettier-ignore
    const matrix = above(100, 130);
    drawGrid(frame, matrix, grid);
    const rgba = new Uint8ClampedArray(frame.colour.slice().buffer) as Uint8ClampedArray<ArrayBuffer>;
    drape(rgba, frame, matrix, await site(picture()));
    expect(pixel(rgba, 30, 20)).toEqual([20, 25, 0, 255]);
  });

  test('a matrix and its inverse bring a place back; a flat one has none', () => {
    const inverse = inverseMatrix(above(100, 130))!;
    const [x, y] = [0.2, -0.4];
    expect(inverse[0]! * x + inverse[12]!).toBeCloseTo(100 + 6, 9);
    expect(inverse[5]! * y + inverse[13]!).toBeCloseTo(130 - 8, 9);
    expect(inverseMatrix(new Float64Array(16))).toBeUndefined();
  });
});

describe('colours along a line', () => {
  test('at even places from end to end, of the topmost picture; nothing outside', async () => {
    const where = await site(picture());
    // From ten units west of the picture, a unit a step: two columns of it a step.
    const colours = picturesAlong([-10, 100, 290, 100], 300, where);
    expect(colours).toHaveLength(301);
    expect(colours[5]).toBe(0);
    // 110 units in: column 220 of the picture, row 320.
    expect([colours[120]! & 255, (colours[120]! >> 8) & 255]).toEqual([22, 32]);
    const over = await site(picture(), picture({ tilesOf: 2, opacity: 0 }));
    expect(picturesAlong([-10, 100, 290, 100], 300, over)[120]).toBe(colours[120]);
  });

  test('while its tiles are on their way, the coarsest stands in, and they are asked for', () => {
    const waiting = new PictureTiles(
      () => undefined,
      () => new Promise(() => undefined),
    );
    const colours = picturesAlong([10, 10, 20, 10], 20, {
      pictures: [picture()],
      tiles: waiting,
      origin: [1000, 2000, 0],
    });
    expect([...new Set(colours)]).toEqual([0]);
    expect(waiting.isComplete).toBe(false);
  });
});
