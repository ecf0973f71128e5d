import { mkdir, rm } from 'node:fs/promises';
import { join } from 'node:path';
import type { PictureFrame } from '@pampero/core/imagery';
import { PamperoError } from '@pampero/core/task';
import sharp, { type Sharp } from 'sharp';
import { firstLine, unreadable, type DescribedPicture, type PictureFile } from './describe-picture.js';
import { interleavedCopy, notNoData } from './interleave.js';
import { cutIntoTiles, OPEN, sortMask, tileCount, tileName, type TileFile, type TilePart } from './tile-pyramid.js';
import { TileSource } from './tile-source.js';
import type { Warping } from './warp-picture.js';

export interface ReadPictureTask extends PictureFile {
  readonly described: DescribedPicture;
  readonly frame: PictureFrame;
  /** Another system than the job's. */
  readonly warping?: Warping | undefined;
  /** Kept without loss; else as a photograph is. */
  readonly isExact: boolean;
  /** Kept as cameras do, for what is one of hundreds. */
  readonly isOneOfMany?: boolean;
  /** Where the tiles are written. */
  readonly folder: string;
}

export interface ReadPicture {
  readonly frame: PictureFrame;
  readonly tiles: readonly TileFile[];
  readonly levels: number;
  readonly hasMask: boolean;
  readonly remarks: readonly string[];
}

/** Of a picture that is read itself, and of one among many that see the same. */
const [QUALITY, QUALITY_OF_MANY] = [92, 85];

/**
 * Cuts a picture into tiles on the disk.
 * @throws FormatError `picture-unreadable`
 */
export async function readPicture(task: ReadPictureTask, onShare: (share: number) => void): Promise<ReadPicture> {
  sharp.cache(false);
  try {
    return task.warping ? await warped(task, task.warping, onShare) : await straight(task, onShare);
  } catch (error) {
    if (error instanceof PamperoError) throw error;
    throw unreadable(task.fileName, firstLine(error), 'Copy the file again, whole, or save it anew.');
  }
}

async function straight(given: ReadPictureTask, onShare: (share: number) => void): Promise<ReadPicture> {
  const { described, frame, isExact, folder } = given;
  const task = described.isApart ? await together(given) : given;
  const { image, remarks } = await eightBits(task);
  const mask = await maskOf(given, task);
  const infrared = described.bands === 'colour-infrared';
  const each = tileCount(frame.columns, frame.rows);
  const total = each * (1 + (mask ? 1 : 0) + (infrared ? 1 : 0));
  let done = 0;
  const cut = async (of: Sharp, part: TilePart, isPhoto: boolean): Promise<TileFile[]> => {
    const tiles = await cutIntoTiles(encoded(of, isPhoto, given.isOneOfMany), part, folder, (count) =>
      onShare((done + count) / total),
    );
    done += each;
    return tiles;
  };
  const colour = await cut(image(), 'colour', !isExact);
  const { kept, empty } = mask
    ? await sortMask(await cut(mask, 'mask', false))
    : { kept: [], empty: new Set<string>() };
  const heat = infrared
    ? await cut(sharp(task.path, OPEN).extractChannel(3).toColourspace('b-w'), 'infrared', !isExact)
    : [];
  const seen = (tiles: readonly TileFile[]): TileFile[] => tiles.filter((tile) => !empty.has(tileName(tile)));
  return {
    frame,
    tiles: [...seen(colour), ...kept, ...seen(heat)],
    levels: 1 + Math.max(...colour.map(({ level }) => level)),
    hasMask: kept.length + empty.size > 0,
    remarks,
  };
}

const SAMPLES = { grey: 1, colour: 3, 'colour-infrared': 4 } as const;

/** A copy with its bands beside one another. */
async function together(task: ReadPictureTask): Promise<ReadPictureTask> {
  const { described, path, folder } = task;
  const copy = join(folder, 'together.tif');
  const samples = described.hasAlpha && described.bands === 'colour' ? 4 : SAMPLES[described.bands];
  await interleavedCopy(path, 0, samples, copy);
  return { ...task, path: copy };
}

const encoded = (image: Sharp, isPhoto: boolean, isOneOfMany = false): Sharp =>
  isPhoto
    ? image.jpeg(
        isOneOfMany
          ? { quality: QUALITY_OF_MANY, chromaSubsampling: '4:2:0' }
          : { quality: QUALITY, chromaSubsampling: '4:4:4' },
      )
    : image.png({ compressionLevel: 2, adaptiveFiltering: false });

/** The picture in 8 bits; of 16 the range that is in use. */
async function eightBits({
  path,
  described,
  frame,
}: ReadPictureTask): Promise<{ image: () => Sharp; remarks: string[] }> {
  const plain = (): Sharp => {
    const opened = sharp(path, OPEN);
    return described.hasAlpha || described.bands === 'colour-infrared' ? opened.removeAlpha() : opened;
  };
  if (described.bits !== 16) return { image: () => plain().toColourspace(spaceOf(described)), remarks: [] };
  // A look at one pixel in many tells how many of the bits are in use.
  const step = Math.max(1, Math.floor(Math.sqrt((frame.columns * frame.rows) / 4e6)));
  const width = Math.max(1, Math.floor(frame.columns / step));
  const { data } = await plain()
    .resize({ width, kernel: 'nearest', fastShrinkOnLoad: false })
    .toColourspace(described.bands === 'grey' ? 'grey16' : 'rgb16')
    .raw({ depth: 'ushort' })
    .toBuffer({ resolveWithObject: true });
  const values = new Uint16Array(data.buffer, data.byteOffset, data.byteLength / 2);
  let largest = 0;
  for (const value of values) if (value > largest) largest = value;
  const bits = Math.max(8, Math.ceil(Math.log2(largest + 1)));
  const scale = 65_535 / (2 ** bits - 1);
  const image = (): Sharp => (scale > 1.001 ? plain().linear(scale, 0) : plain()).toColourspace(spaceOf(described));
  return { image, remarks: [`Of its 16 bits ${bits} are in use; it is kept in 8.`] };
}

const spaceOf = ({ bands }: DescribedPicture): string => (bands === 'grey' ? 'b-w' : 'srgb');

/** What of it is picture: by its alpha, its mask or its no-data value. */
async function maskOf(
  given: ReadPictureTask,
  { path, described, folder }: ReadPictureTask,
): Promise<Sharp | undefined> {
  const { hasAlpha, bands, noData, maskPage, bits } = described;
  if (hasAlpha) return sharp(path, OPEN).extractChannel('alpha').toColourspace('b-w');
  if (maskPage !== undefined) {
    const plain = join(folder, 'inside-mask.tif');
    await interleavedCopy(given.path, maskPage, 1, plain);
    return sharp(plain, OPEN).toColourspace('b-w');
  }
  if (noData === undefined) return undefined;
  if (bits === 16 || described.isPaletted || (noData !== 0 && noData !== 255)) {
    const seen = join(folder, 'not-no-data.tif');
    await notNoData(given.path, described.isPaletted ? 1 : SAMPLES[bands], noData, seen);
    return sharp(seen, OPEN).toColourspace('b-w');
  }
  const opened = bands === 'colour-infrared' ? sharp(path, OPEN).removeAlpha() : sharp(path, OPEN);
  // Picture is where any band is another than the no-data value.
  const other = (noData === 255 ? opened.negate() : opened).threshold(1, { greyscale: false });
  return bands === 'grey' ? other : other.bandbool('or');
}

/** Into the job's system: cut without loss first, resampled from there, cut again. */
async function warped(task: ReadPictureTask, warping: Warping, onShare: (share: number) => void): Promise<ReadPicture> {
  // Coordinate systems are loaded for those alone that need them: a third of a second.
  const { warpedFrame, warpPicture } = await import('./warp-picture.js');
  const { folder, described, isExact } = task;
  const first = join(folder, 'first');
  await mkdir(first, { recursive: true });
  const read = await straight({ ...task, isExact: true, folder: first }, (share) => onShare(0.35 * share));
  const at = new Map(read.tiles.map((tile) => [`${tile.part}/${tileName(tile)}`, tile.path]));
  const source = (part: TilePart): TileSource =>
    new TileSource((x, y) => Promise.resolve(at.get(`${part}/${tileName({ level: 0, x, y })}`)));
  const frame = warpedFrame(read.frame, warping);
  const [colour, mask] = [join(folder, 'colour.tif'), join(folder, 'mask.tif')];
  const samples = described.bands === 'grey' ? 1 : 3;
  await warpPicture(
    { frame: read.frame, colour: source('colour'), mask: read.hasMask ? source('mask') : undefined, samples },
    { frame, colour, mask },
    warping,
    described.isPaletted,
    (share) => onShare(0.35 + 0.4 * share),
  );
  const cut = await cutMade({ colour, mask, frame, isExact, folder }, (share) => onShare(0.75 + 0.25 * share));
  await Promise.all([colour, mask, first].map((path) => rm(path, { recursive: true, force: true })));
  return {
    ...cut,
    remarks: [
      ...read.remarks,
      ...(described.bands === 'colour-infrared' ? ['Its infrared was left out: it lies in another system.'] : []),
    ],
  };
}

/**
 * Cuts a picture that was made here into tiles: its pixels in one plain TIFF, what of them is picture in another.
 * @param made.isExact - kept without loss; else as a photograph is
 */
export async function cutMade(
  made: {
    readonly colour: string;
    readonly mask: string;
    readonly frame: PictureFrame;
    readonly isExact: boolean;
    readonly folder: string;
  },
  onShare: (share: number) => void,
): Promise<Omit<ReadPicture, 'remarks'>> {
  const { colour, mask, frame, isExact, folder } = made;
  const each = tileCount(frame.columns, frame.rows);
  const tiles = await cutIntoTiles(encoded(sharp(colour, OPEN), !isExact), 'colour', folder, (count) =>
    onShare((0.6 * count) / each),
  );
  const masks = await cutIntoTiles(encoded(sharp(mask, OPEN), false), 'mask', folder, (count) =>
    onShare(0.6 + (0.4 * count) / each),
  );
  const { kept, empty } = await sortMask(masks);
  return {
    frame,
    tiles: [...tiles.filter((tile) => !empty.has(tileName(tile))), ...kept],
    levels: 1 + Math.max(...tiles.map(({ level }) => level)),
    hasMask: kept.length + empty.size > 0,
  };
}
