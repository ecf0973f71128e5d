import { firstFrom, Moments } from './moments.js';

/** A place across a line where the slope changes. */
export interface Bend {
  readonly at: number;
  readonly elevation: number;
  /** Slope to the right of it less slope to the left: negative over a crest. */
  readonly turn: number;
}

export interface BentProfile {
  /** From left to right. */
  readonly bends: readonly Bend[];
  /** One more than bends. */
  readonly slopes: readonly number[];
  readonly residual: number;
  /** The squares it takes out of a straight profile, in variances of what is left. */
  readonly strength: number;
}

/** Points that each straight piece rests on. */
const LEAST_POINTS = 4;

/**
 * The profile as straight pieces that meet in one or two bends, by least squares over all places the bends may have on a raster
 * (piecewise linear regression; the sums of both sides of a place are kept, so each try is one small system of equations).
 * @param raster - how near the places that are tried lie to each other, job units
 */
export function findBends(
  across: Float64Array,
  elevation: Float64Array,
  count: number,
  options: { readonly bends: 1 | 2; readonly reach: number; readonly raster: number; readonly least: number },
): BentProfile | undefined {
  const { bends, reach, raster, least } = options;
  if (count < LEAST_POINTS * (bends + 1)) return undefined;
  const moments = new Moments(across, elevation, count);
  const fit = new BendFit(moments, count, bends);
  /** Tries every pair of places of two lists (every place of the first where there is one bend), from left to right. */
  const tryAll = (first: readonly number[], second: readonly number[]): void => {
    for (const x of first) {
      const one = firstFrom(across, count, x);
      if (one < LEAST_POINTS || count - one < LEAST_POINTS) continue;
      if (bends === 1) {
        fit.offer(x, one, x, one);
        continue;
      }
      for (const u of second) {
        if (u - x < least) continue;
        const two = firstFrom(across, count, u);
        if (two - one < LEAST_POINTS) continue;
        if (count - two < LEAST_POINTS) break;
        fit.offer(x, one, u, two);
      }
    }
  };
  // Coarse first, then fine about what was best: the squares change slowly with the places.
  const coarse = bends === 1 ? raster : raster * COARSER;
  const places = (from: number, to: number, step: number): number[] => Array.from({ length: Math.floor((to - from) / step + 1e-9) + 1 }, (_, k) => from + k * step); // prettier-ignore
  tryAll(places(-reach, reach, coarse), places(-reach, reach, coarse));
  if (bends === 2 && fit.best) {
    const [x, u] = fit.best.at as [number, number];
    const about = (at: number): number[] => places(Math.max(-reach, at - coarse), Math.min(reach, at + coarse), raster);
    tryAll(about(x), about(u));
  }
  if (!fit.best) return undefined;
  const { at, solution, rest } = fit.best;
  const variance = Math.max(0, rest) / Math.max(1, count - 2 - bends);
  const slopes = [solution[1]!];
  for (let k = 0; k < bends; k++) slopes.push(slopes[k]! + solution[2 + k]!);
  const heightAt = (x: number): number =>
    solution[0]! + solution[1]! * x + at.reduce((sum, t, k) => sum + solution[2 + k]! * Math.max(0, x - t), 0);
  return {
    bends: at.map((x, k) => ({ at: x, elevation: heightAt(x), turn: solution[2 + k]! })),
    slopes,
    residual: Math.sqrt(variance),
    strength: (moments.line(0, count).rest - rest) / Math.max(1e-12, variance),
  };
}

/** How much coarser the places of two bends are tried at first. */
const COARSER = 3;

/**
 * Height and slope at the left and the turn at each bend, by the normal equations from the sums beyond each bend; keeps the places that
 * leave the least.
 */
export class BendFit {
  best: { readonly at: readonly number[]; readonly solution: readonly number[]; readonly rest: number } | undefined;
  private readonly size: number;
  private readonly all: ReturnType<Moments['between']>;
  /** The upper half of the matrix, row after row, then what is on the right of each equation; room for four unknowns. */
  private readonly matrix = new Float64Array(16);
  private readonly right = new Float64Array(4);
  private readonly work = new Float64Array(16);
  private readonly solution = new Float64Array(4);

  constructor(
    private readonly moments: Moments,
    private readonly count: number,
    bends: 1 | 2,
  ) {
    this.size = 2 + bends;
    this.all = moments.between(0, count);
  }

  /** Two bends from left to right, each with the first point beyond it; where there is one bend, the second is not looked at. */
  offer(t: number, beyondT: number, u: number, beyondU: number): void {
    const { matrix: m, right, size, count, all } = this;
    const [n, x, xx, z, xz, zz] = all;
    const [tn, tx, txx, tz, txz] = this.moments.between(beyondT, count);
    m[0] = n;
    m[1] = x;
    m[5] = xx;
    m[2] = tx - t * tn;
    m[6] = txx - t * tx;
    m[10] = txx - 2 * t * tx + t * t * tn;
    right[0] = z;
    right[1] = xz;
    right[2] = txz - t * tz;
    if (size === 4) {
      const [un, ux, uxx, uz, uxz] = this.moments.between(beyondU, count);
      m[3] = ux - u * un;
      m[7] = uxx - u * ux;
      // Beyond the further of the two both count.
      m[11] = uxx - (t + u) * ux + t * u * un;
      m[15] = uxx - 2 * u * ux + u * u * un;
      right[3] = uxz - u * uz;
    }
    if (!this.solve()) return;
    let rest = zz;
    for (let k = 0; k < size; k++) rest -= this.solution[k]! * right[k]!;
    if (this.best && rest >= this.best.rest) return;
    this.best = { at: size === 4 ? [t, u] : [t], solution: Array.from(this.solution), rest };
  }

  /** Cholesky: the matrix of normal equations is symmetric and positive where the places can be told apart. */
  private solve(): boolean {
    const { matrix: m, work: l, right, solution, size } = this;
    for (let row = 0; row < size; row++)
      for (let column = 0; column <= row; column++) {
        let sum = m[column * 4 + row]!;
        for (let k = 0; k < column; k++) sum -= l[row * 4 + k]! * l[column * 4 + k]!;
        if (row !== column) l[row * 4 + column] = sum / l[column * 4 + column]!;
        else if (sum <= 1e-9 * m[row * 4 + row]!) return false;
        else l[row * 4 + row] = Math.sqrt(sum);
      }
    for (let row = 0; row < size; row++) {
      let sum = right[row]!;
      for (let k = 0; k < row; k++) sum -= l[row * 4 + k]! * solution[k]!;
      solution[row] = sum / l[row * 4 + row]!;
    }
    for (let row = size - 1; row >= 0; row--) {
      let sum = solution[row]!;
      for (let k = row + 1; k < size; k++) sum -= l[k * 4 + row]! * solution[k]!;
      solution[row] = sum / l[row * 4 + row]!;
    }
    return true;
  }
}
