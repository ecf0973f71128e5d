import { deflateSync } from 'node:zlib';
import type { ProductOf } from '@pampero/contract';
import { packArrays, unpackArrays } from '@pampero/core/binary';
import { gridToAscii, gridToXyz } from '@pampero/core/formats/ascii-grid';
import { writeGeoTiff } from '@pampero/core/formats/geotiff';
import { hillshade, slope } from '@pampero/core/grids';
import type { RasterFrame } from '@pampero/core/raster';
import { PamperoError } from '@pampero/core/task';
import { RAMP_SIZE, rampTable } from '@pampero/core/tints';
import { formatCount } from '@pampero/core/wording';
import type { Models } from '../store/models.js';
import { readProductBlob, readShownPart } from '../store/product-repository.js';
import { provenance, unitName, type ExportSite, type ProductHome, type WrittenFile } from './product-home.js';

type Grid = ProductOf<'grid'>;
interface Cells {
  readonly values: Float32Array;
  readonly frame: RasterFrame;
}

function cellsOf(bytes: Uint8Array): Cells {
  const { arrays, facts } = unpackArrays(bytes);
  return { values: arrays['elevation'] as Float32Array, frame: facts as unknown as RasterFrame };
}

/** Cells along the longer side of a grid on the screen. */
const DISPLAY_CELLS = 1200;

/** A grid's bytes for the page; of a large one every n-th cell. */
async function gridForDisplay(models: Models, id: number): Promise<Uint8Array> {
  const { values, frame } = cellsOf(await readShownPart(models, 'grid', id, 'grid'));
  const { columns, rows, cell, ...place } = frame;
  const stride = Math.ceil(Math.max(columns, rows) / DISPLAY_CELLS);
  const [across, up] = [Math.ceil(columns / stride), Math.ceil(rows / stride)];
  const elevation = new Float32Array(across * up);
  for (let row = 0, at = 0; row < up; row++)
    for (let column = 0; column < across; column++, at++) {
      const [c, r] = [Math.floor((column + 0.5) * stride), Math.floor((row + 0.5) * stride)];
      elevation[at] = values[Math.min(rows - 1, r) * columns + Math.min(columns - 1, c)]!;
    }
  return packArrays({ elevation }, { ...place, cell: cell * stride, columns: across, rows: up });
}

const LIGHT = { azimuth: 315, altitude: 45 } as const;
const shaded = ({ values, frame }: Cells): Uint8Array =>
  hillshade(values, frame.columns, frame.rows, frame.cell, LIGHT) as unknown as Uint8Array;

/**
 * Three bytes a cell: colours by elevation, or to either side of nothing for differences, lit from the north-west; white where
 * there is none.
 */
function tinted(cells: Cells, { isDifference, lowest, highest }: Grid['facts']): Uint8Array {
  const { values } = cells;
  const far = Math.max(Math.abs(lowest), Math.abs(highest), 1e-6);
  const [low, high] = isDifference ? [-far, far] : [lowest, highest];
  const table = rampTable(isDifference ? 'either-side' : 'land');
  const light = isDifference ? undefined : shaded(cells);
  const out = new Uint8Array(3 * values.length).fill(255);
  values.forEach((value, at) => {
    if (Number.isNaN(value)) return;
    const share = (value - low) / Math.max(1e-9, high - low);
    const colour = table[Math.max(0, Math.min(RAMP_SIZE - 1, Math.round(share * (RAMP_SIZE - 1))))]!;
    // Level ground has 180 of 255 under a sun at 45 degrees.
    const lit = light ? 0.35 + (0.65 * light[at]!) / 180 : 1;
    for (let k = 0; k < 3; k++) out[3 * at + k] = Math.min(255, Math.round(((colour >> (8 * k)) & 255) * lit));
  });
  return out;
}

/** Codes of EPSG for the units of elevations. */
const VERTICAL_UNITS = { metre: 9001, 'international-foot': 9002, 'us-survey-foot': 9003 } as const;
/** A text of more cells than this is more than programs read. */
const MOST_TEXT_CELLS = 60_000_000;

type Picture = Parameters<typeof writeGeoTiff>[0];

const tiff =
  (picture: (cells: Cells, grid: Grid) => Picture, { isElevation = false } = {}) =>
  async ({ job, models }: ExportSite, grid: Grid): Promise<WrittenFile> => {
    const cells = cellsOf(await readProductBlob(models, grid.id, 'grid'));
    const about = {
      ...(job.crs.epsg !== undefined && { epsg: job.crs.epsg }),
      description: `${grid.name}; ${provenance(grid)}; ${unitName(job)}`,
      deflate: (bytes: Uint8Array) => deflateSync(bytes),
      ...(isElevation && { verticalUnit: VERTICAL_UNITS[job.unit] }),
    };
    return { bytes: writeGeoTiff(picture(cells, grid), cells.frame, about) };
  };

const text =
  (write: (values: Float32Array, frame: RasterFrame) => Iterable<string>) =>
  async ({ models }: ExportSite, { id }: Grid): Promise<WrittenFile> => {
    const { values, frame } = cellsOf(await readProductBlob(models, id, 'grid'));
    if (values.length > MOST_TEXT_CELLS)
      throw new PamperoError('grid-too-large', {
        what: `${formatCount(values.length)} cells are too many for a text file.`,
        fix: 'Choose GeoTIFF, or make a grid with larger cells.',
      });
    return { pieces: write(values, frame) };
  };

export const home: ProductHome<'grid'> = {
  kind: 'grid',
  shown: async (models, id) => ({ packed: await gridForDisplay(models, id) }),
  writers: {
    tif: tiff(({ values }) => values, { isElevation: true }),
    tint: tiff((cells, { facts }) => tinted(cells, facts)),
    hillshade: tiff(shaded),
    slope: tiff(({ values, frame }) => slope(values, frame.columns, frame.rows, frame.cell)),
    asc: text(gridToAscii),
    xyz: text(gridToXyz),
  },
};
