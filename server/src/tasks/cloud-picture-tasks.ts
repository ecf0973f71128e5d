import type { DrawPictureParameters } from '@pampero/contract';
import { PointFlag, unpackColumns } from '@pampero/core/cloud';
import { hillshade } from '@pampero/core/grids';
import { fillGaps, SeenFromAbove } from '@pampero/core/imagery';
import type { RasterFrame } from '@pampero/core/raster';
import { RAMP_SIZE, rampTable } from '@pampero/core/tints';
import type { CloudColumns } from './chosen-points.js';
import { positionsOf, type NodeColumns } from './node-columns.js';
import type { BlockPixels } from './picture-tasks.js';

type PictureShows = DrawPictureParameters['shows'];

export interface CloudPictureTask {
  readonly clouds: readonly CloudColumns[];
  /** The block with a margin on all sides, in which points are seen too. */
  readonly frame: RasterFrame;
  /** Cells of the margin. */
  readonly margin: number;
  readonly shows: PictureShows;
  /** Classes that are seen. */
  readonly takes: Uint8Array;
  /** Thickness of what is seen, job units. */
  readonly layer: number;
  /** Rings of cells by which gaps are closed. */
  readonly rings: number;
  /** Values that the lightest and darkest, or the ends of the ramp, stand for. */
  readonly range: readonly [low: number, high: number];
}

const BANDS = { colour: ['red', 'green', 'blue'], intensity: ['intensity'], elevation: [] } as const;
/** Light from the north-west, as on maps. */
const SUN = { azimuth: 315, altitude: 45 };
/** How dark shade is, and how much lighter than its tint a slope to the sun. */
const [SHADE, LIGHT] = [0.45, 0.8];
const SIXTEEN_TO_EIGHT = 257;

/** A block of a picture of points as seen from above: one sample a pixel for intensity, else three. */
export function cloudPictureBlock(task: CloudPictureTask): BlockPixels {
  const { frame, margin, shows, layer, rings, range } = task;
  const seen = new SeenFromAbove(frame, BANDS[shows].length, layer);
  eachSeen(task, shows, (east, north, elevation) => seen.enterHeight(east, north, elevation));
  if (shows !== 'elevation') eachSeen(task, shows, (east, north, elevation, values) => seen.enterValues(east, north, elevation, values)); // prettier-ignore
  const bands = shows === 'elevation' ? [seen.heights()] : BANDS[shows].map((_, band) => seen.band(band));
  fillGaps(bands, frame, rings);
  const paint = PAINTERS[shows](bands, frame, range);
  const samples = shows === 'intensity' ? 1 : 3;
  const [columns, rows] = [frame.columns - 2 * margin, frame.rows - 2 * margin];
  const pixels = new Uint8Array(columns * rows * samples);
  const known = new Uint8Array(columns * rows);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const from = (frame.rows - 1 - margin - row) * frame.columns + margin + column;
      const to = row * columns + column;
      if (Number.isNaN(bands[0]![from]!)) continue;
      known[to] = 255;
      paint(from, pixels, to * samples);
    }
  return { pixels, known };
}

type Paint = (from: number, pixels: Uint8Array, to: number) => void;

const PAINTERS: Readonly<
  Record<
    PictureShows,
    (bands: readonly Float32Array<ArrayBuffer>[], frame: RasterFrame, range: readonly [number, number]) => Paint
  >
> = {
  colour: (bands) => (from, pixels, to) => {
    bands.forEach((band, b) => (pixels[to + b] = Math.round(band[from]! / SIXTEEN_TO_EIGHT)));
  },
  intensity:
    ([band], _, [low, high]) =>
    (from, pixels, to) => {
      pixels[to] = Math.round(255 * clamped((band![from]! - low) / (high - low || 1)));
    },
  elevation: ([heights], { columns, rows, cell }, [low, high]) => {
    const light = hillshade(heights!, columns, rows, cell, SUN);
    const table = rampTable('land');
    return (from, pixels, to) => {
      const colour = table[Math.min(RAMP_SIZE - 1, Math.floor(RAMP_SIZE * clamped((heights![from]! - low) / (high - low || 1))))]!; // prettier-ignore
      // Where there is nothing to tell the light by it is that of level land.
      const shade = SHADE + LIGHT * ((light[from]! || 181) / 255);
      for (let b = 0; b < 3; b++) pixels[to + b] = Math.min(255, Math.round(((colour >> (8 * b)) & 255) * shade));
    };
  },
};

const clamped = (share: number): number => Math.min(1, Math.max(0, share));

function eachSeen(
  { clouds, takes }: Pick<CloudPictureTask, 'clouds' | 'takes'>,
  shows: PictureShows,
  visit: (east: number, north: number, elevation: number, values: readonly number[]) => void,
): void {
  const wanted = BANDS[shows];
  for (const { nodes, quantisation, attributes } of clouds) {
    const { scale, offset } = quantisation;
    for (const node of nodes) {
      const { x, y, z } = positionsOf(node);
      const columns = wanted.length === 0 ? [] : columnsOf(node, attributes!, wanted);
      const values = wanted.map(() => 0);
      for (let i = 0; i < node.count; i++) {
        if (takes[node.classification[i]!] === 0 || (node.flags[i]! & PointFlag.withheld) !== 0) continue;
        for (let band = 0; band < columns.length; band++) values[band] = columns[band]![i]!;
        visit(x[i]! * scale[0] + offset[0], y[i]! * scale[1] + offset[1], z[i]! * scale[2] + offset[2], values);
      }
    }
  }
}

function columnsOf(
  node: NodeColumns,
  { names, columns }: NonNullable<CloudColumns['attributes']>,
  wanted: readonly ('red' | 'green' | 'blue' | 'intensity')[],
): readonly Uint16Array[] {
  const unpacked = unpackColumns(node.attributes!, node.count, names, columns, wanted) as Record<string, Uint16Array>;
  return wanted.map((name) => unpacked[name]!);
}

/** Of intensities the middle 96 %, of elevations the middle 99 %: a few bright or stray points do not spend the range. */
const CUT: Readonly<Record<PictureShows, number>> = { colour: 0, intensity: 0.02, elevation: 0.005 };

/** The range that a picture's values are spread over, of a sample of points; undefined where none is seen. */
export function cloudPictureRange(
  task: Pick<CloudPictureTask, 'clouds' | 'takes' | 'shows'>,
): readonly [number, number] | undefined {
  const { shows } = task;
  const values: number[] = [];
  eachSeen(task, shows, (_, __, elevation, [intensity]) => values.push(shows === 'elevation' ? elevation : (intensity ?? 0))); // prettier-ignore
  if (values.length === 0) return undefined;
  const sorted = Float64Array.from(values).sort();
  const at = (share: number): number => sorted[Math.round(share * (sorted.length - 1))]!;
  return [at(CUT[shows]), at(1 - CUT[shows])];
}
