import type { RasterFrame } from '@pampero/core/raster';
import { stat } from 'node:fs/promises';
import { FormatError } from '@pampero/core/formats';
import { lengthUnits, type LengthUnit } from '@pampero/core/geodesy';
import { addDecoder, BaseDecoder, fromFile, type GeoTIFFImage } from 'geotiff';
import { decodeLzw } from './lzw.js';
import { checkTiff } from './tiff-directory.js';

/** A grid as its file has it: row 0 the southernmost, NaN where there is no value. */
export interface ReadGrid {
  readonly values: Float32Array<ArrayBuffer>;
  readonly frame: RasterFrame;
  /** What was found in the file and not used. */
  readonly remarks: readonly string[];
}

const MOST_CELLS = 100_000_000;
/** Deflate packs 1032 bytes into one at best, LZW some 1400. */
const MOST_DECODED_A_BYTE = 2000;
/** Keys of GeoTIFF 1.1 (OGC 19-008r4) that say in which system and unit a raster lies. */
interface GeoKeys {
  readonly GTModelTypeGeoKey?: number;
  readonly GTRasterTypeGeoKey?: number;
  readonly ProjectedCSTypeGeoKey?: number;
  readonly ProjLinearUnitsGeoKey?: number;
}
const GEOGRAPHIC = 2;
const PIXEL_IS_POINT = 2;
const USER_DEFINED = 32_767;
/** EPSG codes of linear units that jobs can be in. */
const UNITS: Readonly<Record<number, LengthUnit>> = {
  9001: 'metre',
  9002: 'international-foot',
  9003: 'us-survey-foot',
};

const LZW = 5;
class LzwDecoder extends BaseDecoder {
  override decodeBlock(block: ArrayBuffer): ArrayBuffer {
    return decodeLzw(new Uint8Array(block)).buffer;
  }
}
addDecoder(LZW, () => Promise.resolve(LzwDecoder));

/** Rows are read in batches of about so many cells. */
const CELLS_AT_ONCE = 4_000_000;

/**
 * Reads a GeoTIFF of elevations, of whatever compression; it must lie in the job's system.
 * @throws FormatError `grid-unreadable` or `unit-differs`
 */
export async function readGeoTiffGrid(
  path: string,
  fileName: string,
  { unit, epsg }: { readonly unit: LengthUnit; readonly epsg: number | undefined },
): Promise<ReadGrid> {
  const unreadable = (what: string, fix = 'Save it again as a GeoTIFF of elevations.'): FormatError =>
    new FormatError('grid-unreadable', { what: `${fileName} cannot be read as a grid: ${what}.`, fix });
  let image: GeoTIFFImage;
  let tiff;
  try {
    await checkTiff(path);
    tiff = await fromFile(path);
    image = await tiff.getImage();
  } catch (error) {
    throw unreadable(`it is no whole TIFF (${error instanceof Error ? error.message : String(error)})`);
  }
  try {
    const [columns, rows] = [image.getWidth(), image.getHeight()];
    if (columns * rows > MOST_CELLS)
      throw unreadable(
        `it has more cells than can be kept at once (${MOST_CELLS})`,
        'Cut it to the land of the job, or give larger cells.',
      );
    await checkIsWhole();
    const bands = image.getSamplesPerPixel();
    if (bands >= 3 && image.getBitsPerSample() === 8) throw unreadable('it is a picture, with colours in its cells');
    const keys = (image.getGeoKeys() ?? {}) as GeoKeys;
    checkSystem(keys);
    const [east, north, cell] = placeOf(keys);
    const metadata = ((await image.getGDALMetadata(0)) ?? {}) as { SCALE?: string; OFFSET?: string };
    const [scale, offset] = [Number(metadata.SCALE ?? 1), Number(metadata.OFFSET ?? 0)];
    const noData = image.getGDALNoData();
    const values = new Float32Array(columns * rows);
    // Whole strips or rows of tiles, so that none is decoded twice.
    const block = Math.max(1, Math.min(rows, image.getTileHeight()));
    const step = block * Math.max(1, Math.floor(CELLS_AT_ONCE / columns / block));
    for (let top = 0; top < rows; top += step) {
      const bottom = Math.min(rows, top + step);
      const read = await image.readRasters({ samples: [0], window: [0, top, columns, bottom] });
      const band = (read as unknown as ArrayLike<number>[])[0]!;
      for (let row = top, k = 0; row < bottom; row++)
        for (let column = 0; column < columns; column++, k++) {
          const value = band[k]!;
          const isNone =
            value === noData || (noData !== null && Math.fround(noData) === value) || !Number.isFinite(value);
          values[(rows - 1 - row) * columns + column] = isNone ? NaN : value * scale + offset;
        }
    }
    const remarks = bands > 1 ? [`Of its ${bands} bands the first was taken.`] : [];
    return { values, frame: { east, north: north - rows * cell, cell, columns, rows }, remarks };
  } catch (error) {
    if (error instanceof FormatError) throw error;
    throw unreadable(error instanceof Error ? error.message : String(error));
  } finally {
    await tiff.close();
  }

  /** What lies beyond the end of a file that broke off would be read as nothing. */
  async function checkIsWhole(): Promise<void> {
    const [offsets, counts] = image.fileDirectory.hasTag('TileOffsets')
      ? (['TileOffsets', 'TileByteCounts'] as const)
      : (['StripOffsets', 'StripByteCounts'] as const);
    const at = (await image.fileDirectory.loadValue(offsets)) as ArrayLike<number | bigint>;
    const size = (await image.fileDirectory.loadValue(counts)) as ArrayLike<number | bigint>;
    const { size: bytes } = await stat(path);
    const [wide, high] = [image.getTileWidth(), image.getTileHeight()];
    const expected = Math.ceil(image.getWidth() / wide) * Math.ceil(image.getHeight() / high);
    if (!(expected >= 1) || at.length < expected || size.length !== at.length)
      throw unreadable(`it lists ${at.length} pieces and needs ${expected}`);
    // No compression in use makes a thousand and a half bytes of one.
    const whole = image.getWidth() * image.getHeight() * image.getSamplesPerPixel() * (image.getBitsPerSample() / 8);
    if (whole > bytes * MOST_DECODED_A_BYTE)
      throw unreadable(`${bytes} bytes cannot hold ${image.getWidth()} x ${image.getHeight()} cells`);
    const largest = Array.from(size, Number).reduce((a, b) => Math.max(a, b), 0);
    const decoded = wide * high * image.getSamplesPerPixel() * (image.getBitsPerSample() / 8);
    if (largest > 0 && decoded > largest * MOST_DECODED_A_BYTE)
      throw unreadable(`a piece of ${largest} bytes cannot hold ${wide} x ${high} cells`);
    for (let k = 0; k < at.length; k++)
      if (Number(at[k]) + Number(size[k]) > bytes)
        throw unreadable('it breaks off before its end', 'Copy the file again, whole.');
  }

  function checkSystem(keys: GeoKeys): void {
    if (keys.GTModelTypeGeoKey === GEOGRAPHIC)
      throw unreadable('it lies in degrees', 'Save it in the projected system of the job.');
    const own = keys.ProjectedCSTypeGeoKey;
    if (own !== undefined && own !== USER_DEFINED && epsg !== undefined && own !== epsg)
      throw new FormatError('unit-differs', {
        what: `${fileName} is in EPSG:${own}, the job in EPSG:${epsg}.`,
        fix: 'Save it in the system of the job.',
      });
    const linear = keys.ProjLinearUnitsGeoKey === undefined ? undefined : UNITS[keys.ProjLinearUnitsGeoKey];
    if (linear !== undefined && linear !== unit)
      throw new FormatError('unit-differs', {
        what: `${fileName} is in ${lengthUnits[linear].name}, the job in ${lengthUnits[unit].name}.`,
        fix: 'Save it in the unit of the job.',
      });
  }

  /** Easting and northing of the upper left corner, and the side of a cell. */
  function placeOf(keys: GeoKeys): [number, number, number] {
    let origin: number[];
    let steps: number[];
    try {
      [origin, steps] = [image.getOrigin(), image.getResolution()];
    } catch {
      throw unreadable('it does not say where it lies', 'Save it with its georeference in the file.');
    }
    const [wide, high] = [steps[0]!, -steps[1]!];
    if (!(wide > 0) || Math.abs(wide - high) > 1e-6 * wide)
      throw unreadable('its cells are not square, or it is turned', 'Resample it to square cells, north up.');
    // A value said to be at a point is at the centre of its cell.
    const shift = keys.GTRasterTypeGeoKey === PIXEL_IS_POINT ? wide / 2 : 0;
    return [origin[0]! - shift, origin[1]! + shift, wide];
  }
}
