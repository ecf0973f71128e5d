import { mkdir } from 'node:fs/promises';
import { join } from 'node:path';
import type { WrittenTile } from '../store/picture-repository.js';
import { describePicture, unreadable } from './describe-picture.js';
import { readPicture } from './read-picture.js';
import type { UnpackedFile } from './unpack-photographs.js';

export interface ReadPhotographsTask {
  readonly photographs: readonly UnpackedFile[];
  readonly folder: string;
}

export interface ReadPhotograph {
  readonly columns: number;
  readonly rows: number;
  readonly levels: number;
  readonly tiles: readonly WrittenTile[];
}

/**
 * Cuts photographs into tiles, one after the other; the library works on one in several threads.
 * @throws FormatError `picture-unreadable` with the photograph's name
 */
export async function readPhotographs(
  { photographs, folder }: ReadPhotographsTask,
  onShare: (share: number) => void,
): Promise<ReadPhotograph[]> {
  const out: ReadPhotograph[] = [];
  for (const [k, file] of photographs.entries()) {
    const described = await describePicture(file);
    const { columns, rows } = described;
    if (columns < 8 || rows < 8) throw unreadable(file.fileName, `it has only ${columns} by ${rows} pixels`);
    const frame = { columns, rows, east: 0, eastPerColumn: 1, eastPerRow: 0, north: 0, northPerColumn: 0, northPerRow: -1 }; // prettier-ignore
    const own = join(folder, String(k));
    await mkdir(own, { recursive: true });
    const { tiles, levels } = await readPicture(
      { ...file, described, frame, isExact: false, isOneOfMany: true, folder: own },
      () => undefined,
    );
    const part = `photograph-${k}` as const;
    out.push({
      columns,
      rows,
      levels,
      tiles: tiles.filter((tile) => tile.part === 'colour').map((tile) => ({ ...tile, part })),
    });
    onShare((k + 1) / photographs.length);
  }
  return out;
}
