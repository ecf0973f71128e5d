import type { PairSums } from './overlaps.js';

/** A pair counts as this many points at most, or those with much in common would say all. */
const MOST_POINTS = 500;
/** How much a photograph wants to stay as it is, in points of overlap. */
const STIFFNESS = 1;
const ROUNDS = 200;
/** No photograph is made lighter or darker by more than this. */
const MOST_GAIN = 2;

/**
 * What red, green and blue of each photograph are multiplied by so that pairs agree: least squares of the logarithms over all overlaps,
 * each photograph held a little where it is, by conjugate gradients.
 */
export function balanceGains(count: number, pairs: readonly PairSums[]): [number, number, number][] {
  const bands = [0, 1, 2].map((band) => {
    const weights = pairs.map((pair) => Math.min(MOST_POINTS, pair.count));
    const right = new Float64Array(count);
    pairs.forEach(({ one, other, count: points, ratio }, k) => {
      // log other - log one, which the two gains are to take away: g(one) - g(other) = the mean.
      const mean = ratio[band]! / points;
      right[one]! += weights[k]! * mean;
      right[other]! -= weights[k]! * mean;
    });
    const times = (v: Float64Array): Float64Array => {
      const out = v.map((value) => STIFFNESS * value);
      pairs.forEach(({ one, other }, k) => {
        const pull = weights[k]! * (v[one]! - v[other]!);
        out[one]! += pull;
        out[other]! -= pull;
      });
      return out;
    };
    return conjugateGradients(times, right);
  });
  const limit = Math.log(MOST_GAIN);
  return Array.from(
    { length: count },
    (_, k) => bands.map((log) => Math.exp(Math.max(-limit, Math.min(limit, log[k]!)))) as [number, number, number],
  );
}

/** Solves A x = b of a symmetric, positive A that is told by what it makes of a vector (Hestenes and Stiefel 1952). */
function conjugateGradients(times: (v: Float64Array) => Float64Array, right: Float64Array): Float64Array {
  const x = new Float64Array(right.length);
  const rest = Float64Array.from(right);
  const way = Float64Array.from(right);
  const dot = (a: Float64Array, b: Float64Array): number => a.reduce((sum, value, k) => sum + value * b[k]!, 0);
  let size = dot(rest, rest);
  const enough = 1e-20 * size;
  for (let round = 0; round < ROUNDS && size > enough && size > 0; round++) {
    const moved = times(way);
    const step = size / dot(way, moved);
    for (let k = 0; k < x.length; k++) {
      x[k]! += step * way[k]!;
      rest[k]! -= step * moved[k]!;
    }
    const next = dot(rest, rest);
    for (let k = 0; k < x.length; k++) way[k] = rest[k]! + (next / size) * way[k]!;
    size = next;
  }
  return x;
}
