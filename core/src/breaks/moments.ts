/** Running sums of places and values from left to right, so that a line through any run of points costs nothing. */
export class Moments {
  private readonly x: Float64Array;
  private readonly xx: Float64Array;
  private readonly z: Float64Array;
  private readonly xz: Float64Array;
  private readonly zz: Float64Array;

  constructor(
    across: Float64Array,
    value: Float64Array,
    readonly count: number,
  ) {
    const column = (): Float64Array => new Float64Array(count + 1);
    [this.x, this.xx, this.z, this.xz, this.zz] = [column(), column(), column(), column(), column()];
    for (let k = 0; k < count; k++) {
      const [x, z] = [across[k]!, value[k]!];
      this.x[k + 1] = this.x[k]! + x;
      this.xx[k + 1] = this.xx[k]! + x * x;
      this.z[k + 1] = this.z[k]! + z;
      this.xz[k + 1] = this.xz[k]! + x * z;
      this.zz[k + 1] = this.zz[k]! + z * z;
    }
  }

  /** Sums of the points from one to another, the latter not counted. */
  between(from: number, to: number): readonly [n: number, x: number, xx: number, z: number, xz: number, zz: number] {
    const of = (sums: Float64Array): number => sums[to]! - sums[from]!;
    return [to - from, of(this.x), of(this.xx), of(this.z), of(this.xz), of(this.zz)];
  }

  /** The straight line through a run of points by least squares, and what is left of their squares. */
  line(from: number, to: number, isLevel = false): FittedLine {
    const [n, x, xx, z, xz, zz] = this.between(from, to);
    if (n === 0) return { height: NaN, slope: 0, rest: 0 };
    const det = n * xx - x * x;
    // Points all but above each other say nothing of a slope.
    const slope = isLevel || n < 3 || det < 1e-9 * n * n ? 0 : (n * xz - x * z) / det;
    const height = (z - slope * x) / n;
    const rest =
      zz - 2 * height * z - 2 * slope * xz + n * height * height + 2 * height * slope * x + slope * slope * xx;
    return { height, slope, rest: Math.max(0, rest) };
  }
}

export interface FittedLine {
  /** At 0 across. */
  readonly height: number;
  readonly slope: number;
  /** Sum of squares that it leaves. */
  readonly rest: number;
}

export const heightAt = ({ height, slope }: FittedLine, x: number): number => height + slope * x;

/** The first point at a place or beyond. */
export function firstFrom(across: Float64Array, count: number, x: number): number {
  let [low, high] = [0, count];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (across[middle]! < x) low = middle + 1;
    else high = middle;
  }
  return low;
}
