import { undistort, type Camera, type Pose } from '@pampero/core/photographs';
import type { Orthophoto } from './orthophoto.js';

/** Land as it looks from above, each pixel with the elevation of what is seen there; places in the job's coordinates. */
export interface PaintedLand extends Orthophoto {
  readonly east: number;
  readonly north: number;
}

/** Directions of all pixels of a camera: x to the right and y down, for 1 along the axis. */
function directionsOf(camera: Camera): Float64Array {
  const { columns, rows, focal, principalColumn, principalRow } = camera;
  const out = new Float64Array(2 * columns * rows);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at += 2) {
      const [x, y] = undistort(camera, (column + 0.5 - principalColumn) / focal, (row + 0.5 - principalRow) / focal);
      out[at] = x;
      out[at + 1] = y;
    }
  return out;
}

/** What lies beyond the land. */
const BEYOND = [96, 104, 80] as const;

/** Pixels along the side of a block of land that knows its highest place. */
const BLOCK = 16;

/** The highest place of each block and of those around it. */
function highest({ top, frame: { columns, rows } }: PaintedLand): { values: Float32Array; wide: number } {
  const [wide, high] = [Math.ceil(columns / BLOCK), Math.ceil(rows / BLOCK)];
  const own = new Float32Array(wide * high).fill(-Infinity);
  for (let row = 0, at = 0; row < rows; row++)
    for (let column = 0; column < columns; column++, at++) {
      const block = Math.floor(row / BLOCK) * wide + Math.floor(column / BLOCK);
      if (top[at]! > own[block]!) own[block] = top[at]!;
    }
  const values = own.map((_, at) => {
    let most = -Infinity;
    for (let r = Math.max(0, Math.floor(at / wide) - 1); r <= Math.min(high - 1, Math.floor(at / wide) + 1); r++)
      for (let c = Math.max(0, (at % wide) - 1); c <= Math.min(wide - 1, (at % wide) + 1); c++)
        most = Math.max(most, own[r * wide + c]!);
    return most;
  });
  return { values, wide };
}

/** Takes photographs of painted land: each pixel's ray is followed down until it meets what stands there. */
export class LandPhotographer {
  private readonly directions: Float64Array;
  private readonly blocks: ReturnType<typeof highest>;
  private readonly least: number;
  private readonly most: number;

  constructor(
    private readonly land: PaintedLand,
    private readonly camera: Camera,
  ) {
    this.directions = directionsOf(camera);
    this.blocks = highest(land);
    this.least = land.top.reduce((a, z) => Math.min(a, z), Infinity) - 0.5;
    this.most = land.top.reduce((a, z) => Math.max(a, z), -Infinity);
  }

  /**
   * Three bytes a pixel, row 0 the uppermost.
   * @param light - all colours are multiplied by this, as an exposure does
   */
  take({ axes, east, north, up }: Pose, light: number): Uint8Array {
    const { rgb } = this.land;
    const { columns, rows } = this.camera;
    const out = new Uint8Array(3 * columns * rows);
    const [e0, n0] = [east - this.land.east, north - this.land.north];
    for (let pixel = 0; pixel < columns * rows; pixel++) {
      const [x, y] = [this.directions[2 * pixel]!, this.directions[2 * pixel + 1]!];
      const de = axes[0]! * x + axes[3]! * y + axes[6]!;
      const dn = axes[1]! * x + axes[4]! * y + axes[7]!;
      const dz = axes[2]! * x + axes[5]! * y + axes[8]!;
      const met = dz < -1e-3 ? this.meet(e0, n0, up, de, dn, dz) : -1;
      for (let band = 0; band < 3; band++)
        out[3 * pixel + band] = Math.min(255, Math.round((met < 0 ? BEYOND[band]! : rgb[3 * met + band]!) * light));
    }
    return out;
  }

  /** The pixel of the land that a ray meets first, or -1. */
  private meet(e0: number, n0: number, up: number, de: number, dn: number, dz: number): number {
    const { top, frame } = this.land;
    const { cell, columns, rows } = frame;
    const flat = Math.max(1e-9, Math.hypot(de, dn));
    const fine = Math.min(0.25 / -dz, (0.6 * cell) / flat);
    // Shorter than a block, so that none is leapt over.
    const coarse = Math.max(fine, (BLOCK * cell) / flat / 2);
    const last = (this.least - up) / dz;
    let t = Math.max(0, (this.most - up) / dz);
    while (t <= last) {
      const column = Math.floor((e0 + t * de) / cell);
      const row = Math.floor((n0 + t * dn) / cell);
      const isInside = column >= 0 && row >= 0 && column < columns && row < rows;
      const next = Math.min(last + fine, t + coarse);
      const block = isInside ? this.blocks.values[Math.floor(row / BLOCK) * this.blocks.wide + Math.floor(column / BLOCK)]! : -Infinity; // prettier-ignore
      if (up + next * dz > block) {
        t = next;
        continue;
      }
      if (isInside && up + t * dz <= top[row * columns + column]!) return row * columns + column;
      t += fine;
    }
    return -1;
  }
}
