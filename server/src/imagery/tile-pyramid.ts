import { mkdir, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { PICTURE_TILE } from '@pampero/core/imagery';
import sharp, { type Sharp } from 'sharp';

/** Pixels along the side of a tile. */
export const TILE = PICTURE_TILE;

/** Runs of tiles beside one another: what is seen, what of it is picture at all, and infrared. */
export type TilePart = 'colour' | 'mask' | 'infrared';

/** A tile on the disk; level 0 is the picture itself, each next one half of it. */
export interface TileFile {
  readonly part: TilePart;
  readonly level: number;
  readonly x: number;
  readonly y: number;
  readonly path: string;
}

/** How a picture is opened: whatever its size, in one pass from top to bottom. */
export const OPEN = { limitInputPixels: false, unlimited: true, sequentialRead: true } as const;

/**
 * Cuts a picture into tiles, and the halves of it, and theirs, down to one tile; by the image library, in one pass.
 * @param onTiles - how many tiles there are by now
 */
export async function cutIntoTiles(
  image: Sharp,
  part: TilePart,
  folder: string,
  onTiles: (count: number) => void,
): Promise<TileFile[]> {
  const base = join(folder, part);
  await mkdir(base, { recursive: true });
  const levelsFolder = join(base, 'p_files');
  const count = async (): Promise<number> => {
    const levels = await readdir(levelsFolder).catch(() => []);
    const all = await Promise.all(levels.map((level) => readdir(join(levelsFolder, level)).catch(() => [])));
    return all.reduce((sum, names) => sum + names.length, 0);
  };
  const watch = setInterval(() => void count().then(onTiles), 500);
  try {
    await image
      .tile({ size: TILE, overlap: 0, layout: 'dz', container: 'fs', depth: 'onetile' })
      .toFile(join(base, 'p.dz'));
  } finally {
    clearInterval(watch);
  }
  const levels = (await readdir(levelsFolder))
    .filter((name) => /^\d+$/.test(name))
    .map(Number)
    .sort((a, b) => b - a);
  const tiles: TileFile[] = [];
  for (const [level, name] of levels.entries())
    for (const file of await readdir(join(levelsFolder, String(name)))) {
      const [x, y] = file.split('.')[0]!.split('_').map(Number) as [number, number];
      tiles.push({ part, level, x, y, path: join(levelsFolder, String(name), file) });
    }
  return tiles.sort((a, b) => a.level - b.level || a.y - b.y || a.x - b.x);
}

/** Tiles that a pyramid of a picture of this size has. */
export function tileCount(columns: number, rows: number): number {
  let sum = 0;
  for (let [c, r] = [columns, rows]; ; [c, r] = [Math.ceil(c / 2), Math.ceil(r / 2)]) {
    sum += Math.ceil(c / TILE) * Math.ceil(r / TILE);
    if (c <= TILE && r <= TILE) return sum;
  }
}

/** Of a mask only the tiles that are neither wholly picture nor wholly none are kept; `empty` names those without any picture. */
export async function sortMask(tiles: readonly TileFile[]): Promise<{ kept: TileFile[]; empty: Set<string> }> {
  const kept: TileFile[] = [];
  const empty = new Set<string>();
  for (const tile of tiles) {
    const data = await sharp(tile.path).extractChannel(0).raw().toBuffer();
    let [some, all] = [false, true];
    for (const value of data) {
      if (value >= 128) some = true;
      else all = false;
    }
    if (!some) empty.add(tileName(tile));
    else if (!all) kept.push(tile);
  }
  return { kept, empty };
}

export function tileName({ level, x, y }: Pick<TileFile, 'level' | 'x' | 'y'>): string {
  return `${level}/${x}_${y}`;
}
