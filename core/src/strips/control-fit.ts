import { Matrix, LuDecomposition } from 'ml-matrix';
import { PamperoError } from '../task/index.js';

/** A height to add at a place: cloud less survey, to be taken away. */
export interface HeightResidual {
  readonly x: number;
  readonly y: number;
  readonly difference: number;
}

export type HeightMethod = 'shift' | 'tilt' | 'surface';

/** Heights to add over the land: a plane about an origin, and for a smooth surface a weight at each knot. */
export interface HeightCorrection {
  readonly origin: readonly [number, number];
  /** Height at the origin, slope to the east, slope to the north. */
  readonly plane: readonly [number, number, number];
  readonly knots: readonly (readonly [x: number, y: number, weight: number])[];
  /** Lengths are divided by it before the spline's radii are taken. */
  readonly size: number;
}

const LEAST: Readonly<Record<HeightMethod, number>> = { shift: 1, tilt: 4, surface: 6 };
const NAMES: Readonly<Record<HeightMethod, string>> = {
  shift: 'A shift',
  tilt: 'A tilted plane',
  surface: 'A smooth surface',
};

/**
 * A correction of heights by control: the mean, a plane by least squares, or a smoothing thin-plate spline (Wahba 1990), whose smoothing follows from how
 * far the control may be off.
 * @throws PamperoError `too-few-points`, where the residuals could be met by whatever the land is like
 */
export function fitHeights(residuals: readonly HeightResidual[], method: HeightMethod, off: number): HeightCorrection {
  const count = residuals.length;
  if (count < LEAST[method])
    throw new PamperoError('too-few-points', {
      what: `${NAMES[method]} needs ${LEAST[method]} control point${LEAST[method] === 1 ? '' : 's'} at least; ${count} lie${count === 1 ? 's' : ''} on the cloud.`,
      fix:
        method === 'shift'
          ? 'Import control points that lie on the cloud.'
          : 'Correct by something simpler, or survey more points.',
    });
  const mean = (of: (r: HeightResidual) => number): number => residuals.reduce((sum, r) => sum + of(r), 0) / count;
  const origin: [number, number] = [mean(({ x }) => x), mean(({ y }) => y)];
  const add = residuals.map(({ difference }) => -difference);
  if (method === 'shift') return { origin, plane: [add.reduce((a, b) => a + b, 0) / count, 0, 0], knots: [], size: 1 };
  const size = Math.max(1e-9, Math.sqrt(mean(({ x, y }) => (x - origin[0]) ** 2 + (y - origin[1]) ** 2)));
  const places = residuals.map(({ x, y }) => [(x - origin[0]) / size, (y - origin[1]) / size] as const);
  if (method === 'tilt') {
    const plane = planeThrough(places, add);
    return { origin, plane: [plane[0], plane[1] / size, plane[2] / size], knots: [], size };
  }
  // The smoothing that leaves residuals about as large as the control may be off.
  let [low, high] = [-12, 6];
  let found = spline(places, add, 10 ** low);
  for (let round = 0; round < 40; round++) {
    const middle = (low + high) / 2;
    found = spline(places, add, 10 ** middle);
    if (found.left > off) high = middle;
    else low = middle;
  }
  return {
    origin,
    plane: [found.plane[0], found.plane[1] / size, found.plane[2] / size],
    knots: places.map(([x, y], k) => [x, y, found.weights[k]!] as const),
    size,
  };
}

/** What is added at a place. */
export function heightAt({ origin, plane, knots, size }: HeightCorrection, x: number, y: number): number {
  const [dx, dy] = [x - origin[0], y - origin[1]];
  let sum = plane[0] + plane[1] * dx + plane[2] * dy;
  for (const [kx, ky, weight] of knots) sum += weight * radial((dx / size - kx) ** 2 + (dy / size - ky) ** 2);
  return sum;
}

/** r² ln r of a squared distance. */
function radial(square: number): number {
  return square < 1e-18 ? 0 : 0.5 * square * Math.log(square);
}

function planeThrough(
  places: readonly (readonly [number, number])[],
  values: readonly number[],
): [number, number, number] {
  const rows = new Matrix(places.map(([x, y]) => [1, x, y]));
  const normal = rows.transpose().mmul(rows);
  const solver = new LuDecomposition(normal);
  if (solver.isSingular() || conditionIsPoor(normal))
    throw new PamperoError('points-in-line', {
      what: 'The control points lie in a line, so nothing is known of the tilt across it.',
      fix: 'Correct by one shift, or survey points to the sides.',
    });
  const solution = solver.solve(rows.transpose().mmul(Matrix.columnVector([...values])));
  return [solution.get(0, 0), solution.get(1, 0), solution.get(2, 0)];
}

/** Spread across the line less than a thousandth of that along it. */
function conditionIsPoor(normal: Matrix): boolean {
  const [xx, xy, yy] = [normal.get(1, 1), normal.get(1, 2), normal.get(2, 2)];
  const half = (xx + yy) / 2;
  const root = Math.sqrt(((xx - yy) / 2) ** 2 + xy * xy);
  return half - root < 1e-6 * (half + root);
}

function spline(
  places: readonly (readonly [number, number])[],
  values: readonly number[],
  smoothing: number,
): { weights: number[]; plane: [number, number, number]; left: number } {
  const n = places.length;
  const system = Matrix.zeros(n + 3, n + 3);
  const right = Matrix.zeros(n + 3, 1);
  for (let i = 0; i < n; i++) {
    const [xi, yi] = places[i]!;
    for (let j = 0; j < n; j++) {
      const [xj, yj] = places[j]!;
      system.set(i, j, radial((xi - xj) ** 2 + (yi - yj) ** 2) + (i === j ? smoothing : 0));
    }
    [1, xi, yi].forEach((value, k) => {
      system.set(i, n + k, value);
      system.set(n + k, i, value);
    });
    right.set(i, 0, values[i]!);
  }
  const solver = new LuDecomposition(system);
  if (solver.isSingular())
    throw new PamperoError('points-in-line', {
      what: 'Two control points lie at one place, or all lie in a line.',
      fix: 'Remove the doubled points, or correct by one shift.',
    });
  const solution = solver.solve(right);
  const weights = places.map((_, k) => solution.get(k, 0));
  const left = Math.sqrt(weights.reduce((sum, weight) => sum + (smoothing * weight) ** 2, 0) / n);
  return { weights, plane: [solution.get(n, 0), solution.get(n + 1, 0), solution.get(n + 2, 0)], left };
}
