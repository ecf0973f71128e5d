import { Moments } from './moments.js';
import { firstFrom } from './step-profile.js';

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
  const places: { x: number; from: number }[] = [];
  for (let x = -reach; x <= reach + 1e-9; x += raster) places.push({ x, from: firstFrom(across, count, x) });
  const all = moments.between(0, count);
  let best: { at: number[]; solution: number[]; rest: number } | undefined;
  for (let a = 0; a < places.length; a++) {
    const one = places[a]!;
    if (one.from < LEAST_POINTS || count - one.from < LEAST_POINTS) continue;
    if (bends === 1) {
      const fit = fitted(all, moments, count, [one]);
      if (fit && (!best || fit.rest < best.rest)) best = { at: [one.x], ...fit };
      continue;
    }
    for (let b = a + 1; b < places.length; b++) {
      const two = places[b]!;
      if (two.from - one.from < LEAST_POINTS || two.x - one.x < least) continue;
      if (count - two.from < LEAST_POINTS) break;
      const fit = fitted(all, moments, count, [one, two]);
      if (fit && (!best || fit.rest < best.rest)) best = { at: [one.x, two.x], ...fit };
    }
  }
  if (!best) return undefined;
  const { at, solution, rest } = best;
  const variance = Math.max(0, rest) / Math.max(1, count - 2 - bends);
  const slopes = solution.slice(2).reduce((list, turn) => [...list, list.at(-1)! + turn], [solution[1]!]);
  const heightAt = (x: number): number =>
    solution[0]! + solution[1]! * x + at.reduce((sum, t, k) => sum + solution[2 + k]! * Math.max(0, x - t), 0);
  return {
    bends: at.map((x, k) => ({ at: x, elevation: heightAt(x), turn: solution[2 + k]! })),
    slopes,
    residual: Math.sqrt(variance),
    strength: (moments.line(0, count).rest - rest) / Math.max(1e-12, variance),
  };
}

type Sums = ReturnType<Moments['between']>;

/** Height and slope at the left, then the turn at each bend: the normal equations from the sums beyond each bend. */
function fitted(
  all: Sums,
  moments: Moments,
  count: number,
  bends: readonly { readonly x: number; readonly from: number }[],
): { solution: number[]; rest: number } | undefined {
  const beyond = bends.map(({ from }) => moments.between(from, count));
  const size = 2 + bends.length;
  const matrix = Array.from({ length: size }, () => new Array<number>(size + 1).fill(0));
  const put = (row: number, column: number, value: number): void => {
    matrix[row]![column] = value;
    if (column < size) matrix[column]![row] = value;
  };
  const [n, x, xx, z, xz, zz] = all;
  put(0, 0, n);
  put(0, 1, x);
  put(1, 1, xx);
  matrix[0]![size] = z;
  matrix[1]![size] = xz;
  bends.forEach(({ x: t }, k) => {
    const [bn, bx, bxx, bz, bxz] = beyond[k]!;
    put(0, 2 + k, bx - t * bn);
    put(1, 2 + k, bxx - t * bx);
    matrix[2 + k]![size] = bxz - t * bz;
    bends.forEach(({ x: u }, j) => {
      if (j > k) return;
      // Beyond the further of the two both count.
      const [fn, fx, fxx] = beyond[Math.max(j, k)]!;
      put(2 + k, 2 + j, fxx - (t + u) * fx + t * u * fn);
    });
  });
  const solution = solved(matrix.map((row) => [...row]));
  if (!solution) return undefined;
  const rest = zz - solution.reduce((sum, value, k) => sum + value * matrix[k]![size]!, 0);
  return { solution, rest };
}

/** Gauss with pivots, for three or four unknowns. */
function solved(matrix: number[][]): number[] | undefined {
  const size = matrix.length;
  for (let column = 0; column < size; column++) {
    let pivot = column;
    for (let row = column + 1; row < size; row++)
      if (Math.abs(matrix[row]![column]!) > Math.abs(matrix[pivot]![column]!)) pivot = row;
    if (Math.abs(matrix[pivot]![column]!) < 1e-9) return undefined;
    [matrix[column], matrix[pivot]] = [matrix[pivot]!, matrix[column]!];
    for (let row = column + 1; row < size; row++) {
      const share = matrix[row]![column]! / matrix[column]![column]!;
      for (let k = column; k <= size; k++) matrix[row]![k]! -= share * matrix[column]![k]!;
    }
  }
  const out = new Array<number>(size).fill(0);
  for (let row = size - 1; row >= 0; row--) {
    let sum = matrix[row]![size]!;
    for (let k = row + 1; k < size; k++) sum -= matrix[row]![k]! * out[k]!;
    out[row] = sum / matrix[row]![row]!;
  }
  return out;
}
