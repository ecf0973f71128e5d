/** Points in full coordinates, job units, column by column. */
export interface PointColumns3 {
  readonly count: number;
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
  readonly z: ArrayLike<number>;
}

const SLOPE_CELL_METRES = 10;
const LEAST_IN_PIECE = 7;

/**
 * The slope that one in twenty of the steps between lowest points of neighbouring ten-metre cells exceeds, degrees; 0 where
 * there are no two cells beside each other. Any even sample of a cloud will do.
 */
export function steepSlope({ count, x, y, z }: PointColumns3, metresPerUnit: number): number {
  const cell = SLOPE_CELL_METRES / metresPerUnit;
  const lowest = new Map<number, number>();
  const keyOf = (column: number, row: number): number => column * 2 ** 26 + row;
  for (let i = 0; i < count; i++) {
    const key = keyOf(Math.floor(x[i]! / cell), Math.floor(y[i]! / cell));
    const held = lowest.get(key);
    if (held === undefined || z[i]! < held) lowest.set(key, z[i]!);
  }
  const steps: number[] = [];
  for (const [key, height] of lowest)
    for (const ahead of [2 ** 26, 1]) {
      const other = lowest.get(key + ahead);
      if (other !== undefined) steps.push(Math.abs(other - height) / cell);
    }
  if (steps.length === 0) return 0;
  steps.sort((a, b) => a - b);
  return (Math.atan(steps[Math.floor(0.95 * (steps.length - 1))]!) * 180) / Math.PI;
}

/**
 * Scatter of points about planes fitted to pieces of the land, where it is least: the calmest seventh of the pieces are hard and bare,
 * and their worst is the noise of the ranging, a little low. Undefined where fewer than twenty pieces hold enough points.
 * @param piece - side of a piece, job units: some ten points
 */
export function groundNoise(patches: readonly PointColumns3[], piece: number): number | undefined {
  const scatter: number[] = [];
  for (const { count, x, y, z } of patches) {
    const pieces = new Map<number, number[]>();
    for (let i = 0; i < count; i++) {
      const key = Math.floor(x[i]! / piece) * 2 ** 26 + Math.floor(y[i]! / piece);
      const list = pieces.get(key);
      if (list) list.push(i);
      else pieces.set(key, [i]);
    }
    for (const list of pieces.values()) {
      if (list.length < LEAST_IN_PIECE) continue;
      const s = planeScatter(list, x, y, z);
      if (s !== undefined) scatter.push(s);
    }
  }
  if (scatter.length < 20) return undefined;
  scatter.sort((a, b) => a - b);
  return scatter[Math.floor(scatter.length / 7)];
}

/** Root of the residual variance of the least-squares plane; undefined where the points lie in a line. */
function planeScatter(
  list: readonly number[],
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  z: ArrayLike<number>,
): number | undefined {
  const n = list.length;
  let [mx, my, mz] = [0, 0, 0];
  for (const i of list) {
    mx += x[i]! / n;
    my += y[i]! / n;
    mz += z[i]! / n;
  }
  let [xx, xy, yy, xz, yz, zz] = [0, 0, 0, 0, 0, 0];
  for (const i of list) {
    const [dx, dy, dz] = [x[i]! - mx, y[i]! - my, z[i]! - mz];
    xx += dx * dx;
    xy += dx * dy;
    yy += dy * dy;
    xz += dx * dz;
    yz += dy * dz;
    zz += dz * dz;
  }
  const det = xx * yy - xy * xy;
  if (det < 1e-6 * xx * yy) return undefined;
  const a = (xz * yy - yz * xy) / det;
  const b = (yz * xx - xz * xy) / det;
  return Math.sqrt(Math.max(0, zz - a * xz - b * yz) / (n - 3));
}
