import { Matrix, SingularValueDecomposition, determinant } from 'ml-matrix';
import { PamperoError } from '../task/index.js';

type Place = readonly [number, number, number];

/** target = scale · rotation · (source − from) + to. */
export interface Similarity {
  readonly scale: number;
  /** Row by row. */
  readonly rotation: readonly number[];
  readonly from: Place;
  readonly to: Place;
  /** Root mean square of the distances that are left. */
  readonly rms: number;
}

/**
 * The seven-parameter transformation that brings one set of points onto another with the least squares of distances: by the singular values of
 * the covariance (Umeyama 1991, which mends the reflections of Arun et al. 1987; the same answer as Horn 1987 by quaternions).
 * @throws PamperoError `too-few-points` for less than three, `points-in-line` where they lie in a line
 */
export function fitSimilarity(source: readonly Place[], target: readonly Place[], withScale = true): Similarity {
  const n = source.length;
  if (n < 3 || target.length !== n)
    throw new PamperoError('too-few-points', {
      what: `A seven-parameter fit needs three targets at least; there are ${n}.`,
      fix: 'Measure more targets in the cloud.',
    });
  const mean = (of: readonly Place[]): [number, number, number] =>
    [0, 1, 2].map((axis) => of.reduce((sum, p) => sum + p[axis]!, 0) / n) as [number, number, number];
  const [from, to] = [mean(source), mean(target)];
  const covariance = Matrix.zeros(3, 3);
  let variance = 0;
  for (let i = 0; i < n; i++) {
    for (let r = 0; r < 3; r++) {
      variance += (source[i]![r]! - from[r]!) ** 2 / n;
      for (let c = 0; c < 3; c++)
        covariance.set(r, c, covariance.get(r, c) + ((target[i]![r]! - to[r]!) * (source[i]![c]! - from[c]!)) / n);
    }
  }
  const svd = new SingularValueDecomposition(covariance, { autoTranspose: true });
  const [d0, d1, d2] = svd.diagonal as [number, number, number];
  if (!(d1 > 1e-12 * d0))
    throw new PamperoError('points-in-line', {
      what: 'The targets lie in a line, so the turn about it is not known.',
      fix: 'Measure a target to the side.',
    });
  const { leftSingularVectors: u, rightSingularVectors: v } = svd;
  const sign = determinant(u) * determinant(v) < 0 ? -1 : 1;
  const rotation = u.mmul(Matrix.diag([1, 1, sign])).mmul(v.transpose());
  const scale = withScale ? (d0 + d1 + sign * d2) / variance : 1;
  const made = { scale, rotation: rotation.to1DArray(), from, to };
  const squares = source.reduce((sum, p, i) => {
    const q = applySimilarity(made, p);
    return sum + q.reduce((s, value, axis) => s + (value - target[i]![axis]!) ** 2, 0);
  }, 0);
  return { ...made, rms: Math.sqrt(squares / n) };
}

export function applySimilarity(
  { scale, rotation, from, to }: Pick<Similarity, 'scale' | 'rotation' | 'from' | 'to'>,
  [x, y, z]: Place,
): [number, number, number] {
  const [dx, dy, dz] = [x - from[0], y - from[1], z - from[2]];
  return [0, 1, 2].map(
    (r) => to[r]! + scale * (rotation[3 * r]! * dx + rotation[3 * r + 1]! * dy + rotation[3 * r + 2]! * dz),
  ) as [number, number, number];
}

/** What a cloud may be brought onto targets by: moved, turned about the upright as well, turned any way, or also made larger or smaller. */
export const TARGET_FITS = ['shift', 'level', 'turn', 'scale'] as const;
export type TargetFit = (typeof TARGET_FITS)[number];

const IDENTITY = [1, 0, 0, 0, 1, 0, 0, 0, 1];
/** Targets without which the fit is not known. */
const LEAST: Readonly<Record<TargetFit, number>> = { shift: 1, level: 2, turn: 3, scale: 3 };

/**
 * Brings places in a cloud onto surveyed targets with the least squares of distances. A turn about the upright is that of the places in plan (the
 * closed form of the four-parameter transformation, its scale held at one); what tilts is left as it is.
 * @throws PamperoError `too-few-points`, `points-in-line`
 */
export function fitTargets(source: readonly Place[], target: readonly Place[], by: TargetFit): Similarity {
  const n = source.length;
  if (n < LEAST[by])
    throw new PamperoError('too-few-points', {
      what: `There ${n === 1 ? 'is 1 target' : `are ${n} targets`}; this fit needs ${LEAST[by]} at least.`,
      fix: 'Pick more targets in the cloud, or choose a simpler fit.',
    });
  if (by === 'turn' || by === 'scale') return fitSimilarity(source, target, by === 'scale');
  const mean = (of: readonly Place[]): [number, number, number] =>
    [0, 1, 2].map((axis) => of.reduce((sum, p) => sum + p[axis]!, 0) / n) as [number, number, number];
  const [from, to] = [mean(source), mean(target)];
  let rotation: readonly number[] = IDENTITY;
  if (by === 'level') {
    let [along, across] = [0, 0];
    source.forEach((p, i) => {
      const [dx, dy] = [p[0] - from[0], p[1] - from[1]];
      const [tx, ty] = [target[i]![0] - to[0], target[i]![1] - to[1]];
      along += dx * tx + dy * ty;
      across += dx * ty - dy * tx;
    });
    if (!(Math.hypot(along, across) > 0))
      throw new PamperoError('points-in-line', {
        what: 'The targets lie at one place in plan, so the turn is not known.',
        fix: 'Pick a target further away.',
      });
    const [c, s] = [along / Math.hypot(along, across), across / Math.hypot(along, across)];
    rotation = [c, -s, 0, s, c, 0, 0, 0, 1];
  }
  const made = { scale: 1, rotation, from, to };
  const squares = source.reduce(
    (sum, p, i) => sum + applySimilarity(made, p).reduce((s, value, axis) => s + (value - target[i]![axis]!) ** 2, 0),
    0,
  );
  return { ...made, rms: Math.sqrt(squares / n) };
}
