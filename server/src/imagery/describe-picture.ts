import { open, readFile, stat } from 'node:fs/promises';
import { FormatError } from '@pampero/core/formats';
import { isNorthUp, pixelSize, readWorldFile, type Placement } from '@pampero/core/imagery';
import { fromFile, type GeoTIFFImage } from 'geotiff';
import type { Metadata } from 'sharp';
import { checkTiff } from '../files/tiff-directory.js';
import { pictureCodec } from './codec.js';

/** What the samples of a pixel are. */
export type PictureBands = 'grey' | 'colour' | 'colour-infrared';

/** What a picture file says of itself. */
export interface DescribedPicture {
  readonly columns: number;
  readonly rows: number;
  readonly bands: PictureBands;
  readonly hasAlpha: boolean;
  readonly bits: number;
  /** Values stand for colours of a table, or are on and off: nothing lies between two of them. */
  readonly isPaletted: boolean;
  readonly noData: number | undefined;
  /** Where it lies, if the file or a world file says so; and in which system, if the file says that. */
  readonly placement: Placement | undefined;
  readonly epsg: number | undefined;
  readonly isGeographic: boolean;
  /** Its bands lie apart, or its bits share bytes, in tiles: it is copied first. */
  readonly isApart: boolean;
  /** The directory of a TIFF that holds its mask. */
  readonly maskPage: number | undefined;
  readonly remarks: readonly string[];
}

export interface PictureFile {
  readonly path: string;
  readonly fileName: string;
  /** Text of a world file that came along. */
  readonly worldFile?: string | undefined;
}

/** None, LZW, JPEG, Deflate under its two numbers, PackBits. */
const COMPRESSIONS: readonly number[] = [1, 5, 7, 8, 32_946, 32_773];
export const MOST_PIXELS = 2_500_000_000;
/** Deflate packs 1032 bytes into one at best, LZW some 1400. */
const MOST_DECODED_A_BYTE = 2000;
const [GEOGRAPHIC, PIXEL_IS_POINT, USER_DEFINED] = [2, 2, 32_767];

export const unreadable = (
  fileName: string,
  what: string,
  fix = 'Save it again as GeoTIFF, JPEG or PNG, in 8 or 16 bits a band.',
): FormatError =>
  new FormatError('picture-unreadable', { what: `${fileName} cannot be read as a picture: ${what}.`, fix });

/**
 * Reads what a picture says of itself, without its pixels.
 * @throws FormatError `picture-unreadable`, `world-file-unreadable`
 */
export async function describePicture(file: PictureFile): Promise<DescribedPicture> {
  const { path, fileName, worldFile } = file;
  const refuse = (what: string, fix?: string): FormatError => unreadable(fileName, what, fix);
  const { size } = await stat(path);
  const start = (await readStart(path)).subarray(0, 4);
  const isTiff = start[0] === start[1] && (start[0] === 0x49 || start[0] === 0x4d);
  const isOther = (start[0] === 0xff && start[1] === 0xd8) || (start[0] === 0x89 && start[1] === 0x50);
  if (!isTiff && !isOther)
    throw refuse(size === 0 ? 'it is empty' : 'it begins neither as TIFF nor as JPEG nor as PNG');
  const said = isTiff ? await describeTiff(file) : await describeOther(file);
  const { columns, rows } = said;
  if (columns * rows > MOST_PIXELS)
    throw refuse(
      `it has ${columns} by ${rows} pixels, more than ${MOST_PIXELS / 1e6} million`,
      'Cut it to the land of the job, or give larger pixels.',
    );
  if (columns * rows > size * MOST_DECODED_A_BYTE)
    throw refuse(`${size} bytes cannot hold ${columns} x ${rows} pixels`, 'Copy the file again, whole.');
  const placement = worldFile === undefined ? said.placement : readWorldFile(worldFile, `world file of ${fileName}`);
  const remarks = [...said.remarks];
  if (placement) {
    const values = Object.values(placement) as number[];
    if (!values.every(Number.isFinite) || !(pixelSize(placement) > 0))
      throw refuse('its pixels have no size on the ground', 'Check the six numbers of its georeference.');
    if (!isNorthUp(placement)) remarks.push('It is turned; it is shown as it lies.');
  }
  return { ...said, placement, remarks };
}

async function readStart(path: string): Promise<Buffer> {
  const file = await open(path);
  try {
    const buffer = Buffer.alloc(16);
    const { bytesRead } = await file.read(buffer, 0, 16, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await file.close();
  }
}

type TagName = Parameters<GeoTIFFImage['fileDirectory']['hasTag']>[0];
type Said = Omit<DescribedPicture, 'placement'> & { readonly placement: Placement | undefined };

async function describeOther({ path, fileName }: PictureFile): Promise<Said> {
  let about: Metadata;
  try {
    const sharp = await pictureCodec();
    about = await sharp(path, { limitInputPixels: false }).metadata();
  } catch (error) {
    throw unreadable(fileName, firstLine(error));
  }
  const { width, height, channels, hasAlpha, depth, space, isPalette } = about;
  const remarks = space === 'cmyk' ? ['Its inks (CMYK) were turned into red, green and blue.'] : [];
  return {
    columns: width,
    rows: height,
    bands: channels - (hasAlpha ? 1 : 0) >= 3 ? 'colour' : 'grey',
    hasAlpha,
    bits: depth === 'ushort' ? 16 : 8,
    isPaletted: isPalette ?? false,
    noData: undefined,
    placement: undefined,
    epsg: undefined,
    isGeographic: false,
    isApart: false,
    maskPage: undefined,
    remarks,
  };
}

async function describeTiff({ path, fileName }: PictureFile): Promise<Said> {
  const refuse = (what: string, fix?: string): FormatError => unreadable(fileName, what, fix);
  let image: GeoTIFFImage;
  let tiff;
  try {
    await checkTiff(path, { compressions: COMPRESSIONS, ofWhat: 'pictures' });
    tiff = await fromFile(path);
    image = await tiff.getImage();
  } catch (error) {
    throw refuse(`it is no whole TIFF (${firstLine(error)})`, 'Copy the file again, whole, or save it anew.');
  }
  try {
    await checkPieces(image, path, fileName);
    const { fileDirectory } = image;
    const numbers = async (name: TagName): Promise<number[]> => {
      const value: unknown = fileDirectory.hasTag(name) ? await fileDirectory.loadValue(name) : undefined;
      return value === undefined ? [] : typeof value === 'number' ? [value] : Array.from(value as ArrayLike<number>);
    };
    const samples = image.getSamplesPerPixel();
    const bits = image.getBitsPerSample();
    const [format = 1] = await numbers('SampleFormat');
    if (format !== 1 || (bits !== 8 && bits !== 16 && bits !== 1 && bits !== 4))
      throw refuse(
        `its samples have ${bits} bits${format === 3 ? ' of floating point' : ''}`,
        format === 3 ? 'A grid of elevations comes in at Terrain, “Import grid”.' : undefined,
      );
    const [photometric = 1] = await numbers('PhotometricInterpretation');
    const extra = await numbers('ExtraSamples');
    const inks = photometric === 5;
    const alphaCount = extra.filter((kind) => kind === 1 || kind === 2).length;
    const plain = samples - alphaCount;
    if (alphaCount > 1 || (plain !== 1 && plain !== 3 && plain !== 4))
      throw refuse(
        `it has ${samples} bands`,
        'Save three of them as red, green and blue, with one of infrared at most.',
      );
    if (!inks && plain === 4 && alphaCount === 1)
      throw refuse('it has infrared and alpha', 'Save it without alpha, with a no-data value or a mask.');
    const keys = (image.getGeoKeys() ?? {}) as Record<string, number | undefined>;
    const isGeographic = keys['GTModelTypeGeoKey'] === GEOGRAPHIC;
    const code = isGeographic ? keys['GeographicTypeGeoKey'] : keys['ProjectedCSTypeGeoKey'];
    const [planes = 1] = await numbers('PlanarConfiguration');
    const isTiled = fileDirectory.hasTag('TileOffsets');
    const noData = image.getGDALNoData();
    return {
      columns: image.getWidth(),
      rows: image.getHeight(),
      bands: inks ? 'colour' : plain === 4 ? 'colour-infrared' : plain === 3 || photometric === 3 ? 'colour' : 'grey',
      hasAlpha: alphaCount === 1,
      bits: bits === 16 ? 16 : 8,
      isPaletted: photometric === 3 || bits < 8,
      noData: noData ?? undefined,
      placement: placed(
        await numbers('ModelPixelScale'),
        await numbers('ModelTiepoint'),
        await numbers('ModelTransformation'),
        keys['GTRasterTypeGeoKey'] === PIXEL_IS_POINT,
      ),
      epsg: code === undefined || code === USER_DEFINED ? undefined : code,
      isGeographic,
      isApart: isTiled && ((planes === 2 && samples > 1) || (bits < 8 && photometric !== 3)),
      maskPage: await maskPageOf(tiff),
      remarks: inks ? ['Its inks (CMYK) were turned into red, green and blue.'] : [],
    };
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw refuse(firstLine(error));
  } finally {
    await tiff.close();
  }
}

/** After GeoTIFF 1.1 (OGC 19-008r4), section 6: a scale and a tie point, or a whole matrix. */
function placed(scale: number[], tie: number[], matrix: number[], isPoint: boolean): Placement | undefined {
  let p: Placement | undefined;
  if (matrix.length >= 8)
    p = {
      east: matrix[3]!,
      eastPerColumn: matrix[0]!,
      eastPerRow: matrix[1]!,
      north: matrix[7]!,
      northPerColumn: matrix[4]!,
      northPerRow: matrix[5]!,
    };
  else if (scale.length >= 2 && tie.length >= 6)
    p = {
      east: tie[3]! - tie[0]! * scale[0]!,
      eastPerColumn: scale[0]!,
      eastPerRow: 0,
      north: tie[4]! + tie[1]! * scale[1]!,
      northPerColumn: 0,
      northPerRow: -scale[1]!,
    };
  if (!p || !isPoint) return p;
  // What is said of a pixel is said of its centre.
  return {
    ...p,
    east: p.east - (p.eastPerColumn + p.eastPerRow) / 2,
    north: p.north - (p.northPerColumn + p.northPerRow) / 2,
  };
}

/** NewSubfileType 4 is a mask of the picture (TIFF 6.0, section 8); the first of them is that of full size. */
async function maskPageOf(tiff: Awaited<ReturnType<typeof fromFile>>): Promise<number | undefined> {
  const pages = Math.min(16, await tiff.getImageCount());
  for (let page = 1; page < pages; page++) {
    const { fileDirectory } = await tiff.getImage(page);
    if (!fileDirectory.hasTag('NewSubfileType')) continue;
    if ((Number(await fileDirectory.loadValue('NewSubfileType')) & 5) === 4) return page;
  }
  return undefined;
}

/** What lies beyond the end of a file that broke off would be read as black. */
async function checkPieces(image: GeoTIFFImage, path: string, fileName: string): Promise<void> {
  const [offsets, counts] = image.fileDirectory.hasTag('TileOffsets')
    ? (['TileOffsets', 'TileByteCounts'] as const)
    : (['StripOffsets', 'StripByteCounts'] as const);
  const at = (await image.fileDirectory.loadValue(offsets)) as ArrayLike<number | bigint> | undefined;
  const size = (await image.fileDirectory.loadValue(counts)) as ArrayLike<number | bigint> | undefined;
  if (!at || !size) throw unreadable(fileName, 'it does not say where its pixels lie', 'Save it anew as GeoTIFF.');
  const { size: bytes } = await stat(path);
  for (let k = 0; k < at.length; k++)
    if (Number(at[k]) + Number(size[k]) > bytes)
      throw unreadable(fileName, 'it breaks off before its end', 'Copy the file again, whole.');
}

export function firstLine(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n')[0]!.slice(0, 200);
}

/** The text of a world file, also one beside a picture of the server's folder. */
export async function worldFileBeside(path: string): Promise<string | undefined> {
  const stem = path.replace(/\.[^./]+$/, '');
  const ending = path.slice(stem.length + 1);
  const short = `${ending[0]}${ending.at(-1)}w`;
  for (const name of [`${stem}.${short}`, `${stem}.${ending}w`, `${stem}.wld`])
    for (const candidate of [name, name.replace(/[^.]+$/, (last) => last.toUpperCase())]) {
      const text = await readFile(candidate, 'utf8').catch(() => undefined);
      if (text !== undefined) return text.slice(0, 4000);
    }
  return undefined;
}
