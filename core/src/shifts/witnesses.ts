import { columnFrom } from '../columns/index.js';
import type { RasterFrame } from '../raster/index.js';
import { EIGHT_TO_SIXTEEN, pixelOfPlace, pixelSize, type Placement, type TileSampler } from '../imagery/index.js';
import type { Witness } from './shift-check.js';

/**
 * What a cloud says of the land, cell by cell, in memory that threads may share: whole numbers, so that the order does not matter.
 */
export interface WitnessSums {
  readonly frame: RasterFrame;
  readonly count: Int32Array;
  readonly intensity: Int32Array;
  /** Lightness of the cloud's own colours, 0 to 255. */
  readonly lightness: Int32Array;
  /** The highest point, in steps of the cloud's scale. */
  readonly top: Int32Array;
}

const NONE = -2_147_483_648;

/** How light a colour is, by the weights of ITU-R BT.601. */
const lightnessOf = (red: number, green: number, blue: number): number => 0.299 * red + 0.587 * green + 0.114 * blue;

/** @param integers - makes the columns: plain ones, or such that threads share */
export function newWitnessSums(frame: RasterFrame, integers: (length: number) => Int32Array): WitnessSums {
  const cells = frame.columns * frame.rows;
  return {
    frame,
    count: integers(cells),
    intensity: integers(cells),
    lightness: integers(cells),
    top: integers(cells).fill(NONE),
  };
}

/** Points as they lie in a cloud; `isLeftOut` for those that are withheld. */
export interface WitnessPoints {
  readonly count: number;
  readonly x: Int32Array;
  readonly y: Int32Array;
  readonly z: Int32Array;
  readonly scale: readonly [number, number, number];
  readonly offset: readonly [number, number, number];
  readonly isLeftOut: (i: number) => boolean;
  readonly intensity?: Uint16Array | undefined;
  readonly red?: Uint16Array | undefined;
  readonly green?: Uint16Array | undefined;
  readonly blue?: Uint16Array | undefined;
}

export function addWitnesses(sums: WitnessSums, points: WitnessPoints): void {
  const { frame, count, intensity, lightness, top } = sums;
  const { x, y, z, scale, offset, red, green, blue } = points;
  for (let i = 0; i < points.count; i++) {
    if (points.isLeftOut(i)) continue;
    const column = Math.floor((x[i]! * scale[0] + offset[0] - frame.east) / frame.cell);
    const row = Math.floor((y[i]! * scale[1] + offset[1] - frame.north) / frame.cell);
    if (column < 0 || row < 0 || column >= frame.columns || row >= frame.rows) continue;
    const at = row * frame.columns + column;
    Atomics.add(count, at, 1);
    if (points.intensity) Atomics.add(intensity, at, points.intensity[i]! >> 2);
    if (red && green && blue)
      Atomics.add(lightness, at, Math.round(lightnessOf(red[i]!, green[i]!, blue[i]!) / EIGHT_TO_SIXTEEN));
    for (let seen = Atomics.load(top, at); z[i]! > seen;) {
      const before = Atomics.compareExchange(top, at, seen, z[i]!);
      if (before === seen) break;
      seen = before;
    }
  }
}

/** Single empty cells between points are filled with their neighbours, so often; of a larger hole nothing is said. */
const FILLS = 2;

/**
 * The witnesses that a cloud gives. Colours speak only where there is no intensity, in clouds from photographs: a lidar cloud has its
 * colours from a picture, and would bear out whatever that one was.
 */
export function witnessesOf(sums: WitnessSums): Witness[] {
  const { frame, count, intensity, lightness, top } = sums;
  const raster = (of: (at: number) => number): Float32Array => {
    let values: Float32Array = columnFrom(Float32Array, count, (n, at) => (n > 0 ? of(at) : NaN));
    for (let k = 0; k < FILLS; k++) values = closed(values, frame);
    return values;
  };
  const mean = (sum: Int32Array) => (at: number) => sum[at]! / count[at]!;
  const says = (sum: Int32Array): boolean => {
    let first = NaN;
    return sum.some((value, at) => {
      if (count[at] === 0) return false;
      if (Number.isNaN(first)) first = value / count[at]!;
      return value / count[at]! !== first;
    });
  };
  const own = says(intensity)
    ? [{ name: 'intensity', values: () => raster(mean(intensity)) }]
    : says(lightness)
      ? [{ name: 'colours', values: () => raster(mean(lightness)) }]
      : [];
  return [...own, { name: 'heights', values: () => raster((at) => top[at]!) }];
}

/** Gives cells without a value the mean of their neighbours, where at least three have one. */
function closed(values: Float32Array, { columns, rows }: RasterFrame): Float32Array {
  const out = values.slice();
  for (let row = 1; row + 1 < rows; row++)
    for (let column = 1; column + 1 < columns; column++) {
      const at = row * columns + column;
      if (!Number.isNaN(values[at]!)) continue;
      let [sum, known] = [0, 0];
      for (let dy = -columns; dy <= columns; dy += columns)
        for (let dx = -1; dx <= 1; dx++) {
          const value = values[at + dy + dx]!;
          if (Number.isNaN(value)) continue;
          sum += value;
          known++;
        }
      if (known >= 3) out[at] = sum / known;
    }
  return out;
}

/**
 * How light a picture is in each cell of a frame, 0 to 255; NaN where it is none.
 * @param level - of the tiles that the sampler holds
 */
export function lightnessOver(
  sampler: TileSampler,
  placement: Placement,
  level: number,
  frame: RasterFrame,
): Float32Array<ArrayBuffer> {
  const toPixel = pixelOfPlace(placement);
  const halves = 2 ** level;
  const { columns, rows, cell, east, north } = frame;
  // As many samples along a cell's side as there are pixels.
  const side = Math.max(1, Math.round(cell / (halves * pixelSize(placement))));
  const out = new Float32Array(columns * rows);
  const rgb = new Float64Array(3);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      let [sum, count] = [0, 0];
      for (let k = 0; k < side * side; k++) {
        const [u, v] = [((k % side) + 0.5) / side, (Math.floor(k / side) + 0.5) / side];
        const [pc, pr] = toPixel(east + (column + u) * cell, north + (row + v) * cell);
        if (!sampler.sample(pc / halves, pr / halves, rgb)) continue;
        sum += lightnessOf(rgb[0]!, rgb[1]!, rgb[2]!);
        count++;
      }
      out[at] = count > 0 ? sum / count : NaN;
    }
  return out;
}
