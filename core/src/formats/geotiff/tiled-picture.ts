import type { Placement } from '../../imagery/placement.js';

/** A directory of a tiled picture: the picture, a half of it, or a mask. */
export interface PictureDirectory {
  readonly columns: number;
  readonly rows: number;
  /** 0 the picture, 1 one reduced, 4 a mask (TIFF 6.0, tag 254). */
  readonly subfile: 0 | 1 | 4;
  /** 7 JPEG, 8 Deflate. */
  readonly compression: 7 | 8;
  /** 1 grey, 2 red, green and blue, 4 a mask, 6 luminance and two of colour. */
  readonly photometric: 1 | 2 | 4 | 6;
  readonly samples: 1 | 3;
  readonly bits: 1 | 8;
  /** Of each tile, row by row; 0 bytes where there is none. */
  readonly offsets: readonly number[];
  readonly sizes: readonly number[];
}

export interface PictureAbout {
  readonly placement: Placement;
  readonly epsg: number | undefined;
  readonly description: string;
  readonly tile: number;
  /** More than 4 GB: with the offsets of BigTIFF. */
  readonly isBig: boolean;
}

type Entry = readonly [tag: number, type: number, values: readonly number[] | string];
const [ASCII, SHORT, LONG, DOUBLE, LONG8] = [2, 3, 4, 12, 16];
const BYTES: Readonly<Record<number, number>> = { [ASCII]: 1, [SHORT]: 2, [LONG]: 4, [DOUBLE]: 8, [LONG8]: 8 };

/** Tiles of a directory. */
export function tilesOf(columns: number, rows: number, tile: number): number {
  return Math.ceil(columns / tile) * Math.ceil(rows / tile);
}

/**
 * The head of a tiled GeoTIFF: all directories, the picture's first, before any of the tiles, as the cloud-optimised layout wants
 * (TIFF 6.0; BigTIFF; OGC GeoTIFF 1.1, 19-008r4; OGC Cloud Optimized GeoTIFF, 21-026). Its length hangs on the numbers of tiles alone.
 */
export function pictureHead(directories: readonly PictureDirectory[], about: PictureAbout): Uint8Array {
  const { isBig } = about;
  const word = isBig ? 8 : 4;
  const entrySize = isBig ? 20 : 12;
  const all = directories.map((directory, k) => entriesOf(directory, about, k === 0));
  const lengthOf = ([, type, values]: Entry): number => (values.length + (type === ASCII ? 1 : 0)) * BYTES[type]!;
  let at = isBig ? 16 : 8;
  const places = all.map((entries) => {
    const from = at;
    at += (isBig ? 8 : 2) + entries.length * entrySize + word;
    const extra = entries.map((entry) => {
      if (lengthOf(entry) <= word) return 0;
      at += at % 2;
      const place = at;
      at += lengthOf(entry);
      return place;
    });
    at += at % 2;
    return { from, extra };
  });
  const bytes = new Uint8Array(at);
  const view = new DataView(bytes.buffer);
  const put = (place: number, type: number, value: number): void => {
    if (type === ASCII) view.setUint8(place, value);
    else if (type === SHORT) view.setUint16(place, value, true);
    else if (type === LONG) view.setUint32(place, value, true);
    else if (type === DOUBLE) view.setFloat64(place, value, true);
    else view.setBigUint64(place, BigInt(value), true);
  };
  bytes.set(isBig ? [0x49, 0x49, 43, 0, 8, 0, 0, 0] : [0x49, 0x49, 42, 0]);
  put(isBig ? 8 : 4, isBig ? LONG8 : LONG, places[0]!.from);
  all.forEach((entries, d) => {
    const { from, extra } = places[d]!;
    put(from, isBig ? LONG8 : SHORT, entries.length);
    const first = from + (isBig ? 8 : 2);
    entries.forEach(([tag, type, values], k) => {
      const entry = first + k * entrySize;
      put(entry, SHORT, tag);
      put(entry + 2, SHORT, type);
      put(entry + 4, isBig ? LONG8 : LONG, values.length + (type === ASCII ? 1 : 0));
      const to = extra[k] === 0 ? entry + 4 + word : extra[k]!;
      if (extra[k] !== 0) put(entry + 4 + word, isBig ? LONG8 : LONG, to);
      for (let i = 0; i < values.length; i++)
        put(to + i * BYTES[type]!, type, typeof values === 'string' ? values.charCodeAt(i) : values[i]!);
    });
    put(first + entries.length * entrySize, isBig ? LONG8 : LONG, places[d + 1]?.from ?? 0);
  });
  return bytes;
}

function entriesOf(
  { columns, rows, subfile, compression, photometric, samples, bits, offsets, sizes }: PictureDirectory,
  { placement: p, epsg, description, tile, isBig }: PictureAbout,
  isFirst: boolean,
): Entry[] {
  const entries: Entry[] = [
    [254, LONG, [subfile]],
    [256, LONG, [columns]],
    [257, LONG, [rows]],
    [258, SHORT, Array.from({ length: samples }, () => bits)],
    [259, SHORT, [compression]],
    [262, SHORT, [photometric]],
    ...(isFirst && description ? ([[270, ASCII, description.replace(/[^\x20-\x7e]/g, '?')]] as Entry[]) : []),
    [277, SHORT, [samples]],
    [284, SHORT, [1]],
    [322, LONG, [tile]],
    [323, LONG, [tile]],
    [324, isBig ? LONG8 : LONG, offsets],
    [325, LONG, sizes],
    // Colours of every pixel are kept.
    ...(photometric === 6 ? ([[530, SHORT, [1, 1]]] as Entry[]) : []),
  ];
  if (!isFirst) return entries;
  const isPlain = p.eastPerRow === 0 && p.northPerColumn === 0 && p.eastPerColumn > 0 && p.northPerRow < 0;
  const place: Entry[] = isPlain
    ? [
        [33_550, DOUBLE, [p.eastPerColumn, -p.northPerRow, 0]],
        [33_922, DOUBLE, [0, 0, 0, p.east, p.north, 0]],
      ]
    : [
        [
          34_264,
          DOUBLE,
          [
            p.eastPerColumn,
            p.eastPerRow,
            0,
            p.east,
            p.northPerColumn,
            p.northPerRow,
            0,
            p.north,
            0,
            0,
            0,
            0,
            0,
            0,
            0,
            1,
          ],
        ],
      ];
  // Projected, a pixel is an area, the system.
  return [
    ...entries,
    ...place,
    [34_735, SHORT, [1, 1, 0, 3, 1024, 0, 1, 1, 1025, 0, 1, 1, 3072, 0, 1, epsg ?? 32_767]],
  ];
}
