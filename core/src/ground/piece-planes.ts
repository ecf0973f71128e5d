/** Points in full coordinates, job units, column by column. */
export interface PointColumns3 {
  readonly count: number;
  readonly x: ArrayLike<number>;
  readonly y: ArrayLike<number>;
  readonly z: ArrayLike<number>;
}

/** Points looked at for evidence, with the strip each is from. */
export interface StripPoints extends PointColumns3 {
  readonly strip: ArrayLike<number>;
}

const LEAST_IN_PIECE = 7;
/** Scatter is told apart in steps of this share; a peak is looked for over so many steps either way. */
const [STEP, REACH] = [Math.log(1.1), 3];
/** A peak holds at least so many pieces and this share of them, or it is chance. */
const [LEAST_COUNT, LEAST_SHARE] = [25, 0.003];
const FINEST = 1e-4;

/**
 * The ranging noise: scatter of points about planes fitted to small pieces of the land. Hard and bare pieces all scatter alike, by the
 * noise; grass, crowns and broken land scatter more, and all by something else. So the lowest scatter that many pieces have in
 * common is the noise, however few of the pieces are bare. Undefined where fewer than twenty pieces hold enough points.
 * @param piece - side of a piece, job units: some ten points
 */
export function groundNoise(patches: readonly PointColumns3[], piece: number): number | undefined {
  const scatter: number[] = [];
  for (const { count, x, y, z } of patches) {
    for (const list of inPieces(x, y, count, piece)) {
      if (list.length < LEAST_IN_PIECE) continue;
      const plane = planeThrough(list, x, y, z);
      if (plane) scatter.push(plane.scatter);
    }
  }
  return scatter.length < 20 ? undefined : lowestPeak(scatter);
}

/** The lowest of the values that many have in common. */
function lowestPeak(values: readonly number[]): number {
  const steps = values.map((value) => Math.log(Math.max(value, FINEST) / FINEST) / STEP);
  const counts = new Float64Array(Math.ceil(Math.max(...steps)) + 2 * REACH + 1);
  for (const step of steps) counts[Math.floor(step) + REACH]!++;
  // Each step with its neighbours, the near ones counting more.
  const smooth = counts.map((_, at) => {
    let sum = 0;
    for (let off = 1 - REACH; off < REACH; off++) sum += (REACH - Math.abs(off)) * (counts[at + off] ?? 0);
    return sum / REACH;
  });
  const about = (at: number): Float64Array => smooth.subarray(Math.max(0, at - REACH), at + REACH + 1);
  const isPeak = (at: number): boolean =>
    smooth[at]! >= Math.max(...about(at)) && smooth[at]! > Math.max(LEAST_COUNT, LEAST_SHARE * values.length);
  const found = smooth.findIndex((_, at) => isPeak(at));
  if (found < 0) return [...values].sort((a, b) => a - b)[Math.floor(values.length / 7)]!;
  // The mean of those about the peak, not the step they fall in.
  const near = values.filter((_, k) => Math.abs(steps[k]! + REACH - found - 0.5) <= REACH);
  return near.reduce((sum, value) => sum + value, 0) / near.length;
}

/** Points of a strip in a piece, and pieces, that say how strips agree. */
const [LEAST_OF_STRIP, LEAST_PIECES] = [6, 30];
/** Smooth is what scatters by no more than this many times the noise. */
const SMOOTH = 1.6;

/**
 * How far strips lie apart in elevation where they overlap on smooth land: the median of the differences of planes fitted to each
 * strip's points in the same piece. 0 where no difference stands out of the noise; undefined where fewer than thirty pieces are covered twice.
 * @param piece - side of a piece, job units: some ten points of a strip
 * @param noise - of one strip, job units
 */
export function stripDisagreement(patches: readonly StripPoints[], piece: number, noise: number): number | undefined {
  const differences: number[] = [];
  for (const { count, x, y, z, strip } of patches) {
    for (const list of inPieces(x, y, count, piece)) {
      const lists = [...grouped(list, (i) => strip[i]!).entries()]
        .sort(([a], [b]) => a - b)
        .map(([, own]) => own)
        .filter((own) => own.length >= LEAST_OF_STRIP);
      if (lists.length < 2) continue;
      const all = lists.flat();
      const [east, north] = [mean(all, x), mean(all, y)];
      const planes = lists.flatMap((own) => {
        const plane = planeThrough(own, x, y, z);
        return plane && plane.scatter <= SMOOTH * noise
          ? [plane.z + plane.east * (east - plane.x) + plane.north * (north - plane.y)]
          : [];
      });
      for (let k = 1; k < planes.length; k++) differences.push(Math.abs(planes[k]! - planes[0]!));
    }
  }
  if (differences.length < LEAST_PIECES) return undefined;
  differences.sort((a, b) => a - b);
  const median = differences[differences.length >> 1]!;
  return median > noise ? median : 0;
}

function mean(list: readonly number[], values: ArrayLike<number>): number {
  return list.reduce((sum, i) => sum + values[i]!, 0) / list.length;
}

/** Points by the square piece they lie in, pieces in the order they are met. */
function* inPieces(x: ArrayLike<number>, y: ArrayLike<number>, count: number, piece: number): Generator<Uint32Array> {
  const pieces = new Map<number, number>();
  const pieceOf = new Uint32Array(count);
  const sizes: number[] = [];
  let [last, at] = [NaN, 0];
  for (let i = 0; i < count; i++) {
    const key = Math.floor(x[i]! / piece) * 2 ** 26 + Math.floor(y[i]! / piece);
    // Points that follow each other mostly lie in one piece.
    if (key !== last) {
      last = key;
      at = pieces.get(key) ?? pieces.size;
      if (at === pieces.size) {
        pieces.set(key, at);
        sizes.push(0);
      }
    }
    pieceOf[i] = at;
    sizes[at]!++;
  }
  const next = new Uint32Array(sizes.length);
  for (let k = 1; k < sizes.length; k++) next[k] = next[k - 1]! + sizes[k - 1]!;
  const points = new Uint32Array(count);
  for (let i = 0; i < count; i++) points[next[pieceOf[i]!]!++] = i;
  let from = 0;
  for (const size of sizes) yield points.subarray(from, (from += size));
}

/** Points by a key of each, in their order. */
export function grouped(points: Iterable<number>, keyOf: (i: number) => number): Map<number, number[]> {
  const groups = new Map<number, number[]>();
  for (const i of points) {
    const key = keyOf(i);
    const list = groups.get(key);
    if (list) list.push(i);
    else groups.set(key, [i]);
  }
  return groups;
}

export interface PiecePlane {
  /** The mean of the points, and the slopes. */
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly east: number;
  readonly north: number;
  /** Root of the residual variance. */
  readonly scatter: number;
}

/** The least-squares plane; undefined where the points lie in a line. */
export function planeThrough(
  list: ArrayLike<number> & Iterable<number>,
  x: ArrayLike<number>,
  y: ArrayLike<number>,
  z: ArrayLike<number>,
): PiecePlane | undefined {
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
  const scatter = Math.sqrt(Math.max(0, zz - a * xz - b * yz) / (n - 3));
  return { x: mx, y: my, z: mz, east: a, north: b, scatter };
}
