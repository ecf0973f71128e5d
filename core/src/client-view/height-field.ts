import type { RasterFrame } from '../raster/index.js';

type Place = readonly [x: number, y: number];

/**
 * Land as heights at the centres of cells, between them bilinear: what a page without a server measures on. Places are from the
 * frame's least corner.
 */
export class HeightField {
  constructor(
    private readonly frame: Pick<RasterFrame, 'columns' | 'rows' | 'cell'>,
    private readonly heights: Float32Array,
  ) {}

  /** The land's height at a place; NaN in voids and outside. */
  at(x: number, y: number): number {
    const { columns, rows, cell } = this.frame;
    const [c, r] = [x / cell - 0.5, y / cell - 0.5];
    const c0 = Math.max(0, Math.min(columns - 2, Math.floor(c)));
    const r0 = Math.max(0, Math.min(rows - 2, Math.floor(r)));
    const [u, v] = [c - c0, r - r0];
    // Half a cell beyond the outermost centres still belongs to them.
    if (!(u >= -0.5 && u <= 1.5 && v >= -0.5 && v <= 1.5)) return NaN;
    const i = r0 * columns + c0;
    const h = (k: number): number => this.heights[k] ?? NaN;
    const [a, b, d, e] = [h(i), h(i + 1), h(i + columns), h(i + columns + 1)];
    const [cu, cv] = [Math.max(0, Math.min(1, u)), Math.max(0, Math.min(1, v))];
    return (a * (1 - cu) + b * cu) * (1 - cv) + (d * (1 - cu) + e * cu) * cv;
  }

  /** Heights along a line of places, every `step`, with the distance from its beginning. */
  profile(places: readonly Place[], step: number): { distance: number[]; height: number[] } {
    const [distance, height]: [number[], number[]] = [[], []];
    let from = 0;
    for (let k = 0; k + 1 < places.length; k++) {
      const [a, b] = [places[k]!, places[k + 1]!];
      const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
      const pieces = Math.max(1, Math.ceil(length / step));
      for (let p = k === 0 ? 0 : 1; p <= pieces; p++) {
        const t = p / pieces;
        distance.push(from + t * length);
        height.push(this.at(a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])));
      }
      from += length;
    }
    return { distance, height };
  }

  /** Where a ray from above first meets the land; undefined where it does not. Directions need not be of length one. */
  hit(
    origin: readonly [number, number, number],
    direction: readonly [number, number, number],
  ): [number, number, number] | undefined {
    const { columns, rows, cell } = this.frame;
    const plan = Math.hypot(direction[0], direction[1]);
    const reach =
      Math.hypot(columns, rows) * cell + Math.hypot(origin[0] - (columns * cell) / 2, origin[1] - (rows * cell) / 2);
    const [low, high] = this.range();
    // Only the stretch of the ray between the highest and the lowest land can meet it.
    const [t0, t1] =
      direction[2] === 0
        ? [0, reach / Math.max(plan, 1e-12)]
        : [(high - origin[2]) / direction[2], (low - origin[2]) / direction[2]];
    const [begin, end] = [
      Math.max(0, Math.min(t0, t1)),
      Math.min(Math.max(t0, t1), plan > 0 ? (2 * reach) / plan : Infinity),
    ];
    if (!(end >= begin)) return undefined;
    const steps = Math.max(1, Math.min(20_000, Math.ceil(((end - begin) * plan) / (0.5 * cell))));
    const place = (t: number): [number, number, number] => [
      origin[0] + t * direction[0],
      origin[1] + t * direction[1],
      origin[2] + t * direction[2],
    ];
    const over = (t: number): number => {
      const [x, y, z] = place(t);
      return z - this.at(x, y);
    };
    let before = begin;
    for (let k = 0; k <= steps; k++) {
      const t = begin + ((end - begin) * k) / steps;
      if (over(t) <= 1e-6) {
        let [above, below] = [before, t];
        for (let n = 0; n < 30; n++) {
          const middle = (above + below) / 2;
          if (over(middle) > 0) above = middle;
          else below = middle;
        }
        const [x, y] = place(below);
        const z = this.at(x, y);
        return Number.isNaN(z) ? undefined : [x, y, z];
      }
      before = t;
    }
    return undefined;
  }

  /**
   * Earth over and under a level within an outline, in cubic units, and the area in plan that has land. Each cell of a fine
   * raster counts by its middle.
   */
  volume(outline: readonly Place[], level: number): { above: number; below: number; area: number } {
    const xs = outline.map(([x]) => x);
    const ys = outline.map(([, y]) => y);
    const [west, east, south, north] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
    const side = Math.max(this.frame.cell / 2, Math.max(east - west, north - south) / 2000);
    let [above, below, area] = [0, 0, 0];
    for (let y = south + side / 2; y < north; y += side) {
      const crossings = crossingsAt(outline, y);
      for (let k = 0; k + 1 < crossings.length; k += 2) {
        const first = Math.ceil((crossings[k]! - west) / side - 0.5);
        for (let x = west + (first + 0.5) * side; x < crossings[k + 1]!; x += side) {
          const height = this.at(x, y);
          if (Number.isNaN(height)) continue;
          const depth = (height - level) * side * side;
          area += side * side;
          if (depth > 0) above += depth;
          else below -= depth;
        }
      }
    }
    return { above, below, area };
  }

  range(): [low: number, high: number] {
    if (!this.extremes) {
      let [low, high] = [Infinity, -Infinity];
      for (const height of this.heights) {
        if (height < low) low = height;
        if (height > high) high = height;
      }
      this.extremes = low <= high ? [low, high] : [0, 0];
    }
    return this.extremes;
  }
  private extremes: [number, number] | undefined;
}

/** Where the sides of an outline cross a level of y, from west to east. */
function crossingsAt(outline: readonly Place[], y: number): number[] {
  const found: number[] = [];
  for (let k = 0; k < outline.length; k++) {
    const [a, b] = [outline[k]!, outline[(k + 1) % outline.length]!];
    if (a[1] > y !== b[1] > y) found.push(a[0] + ((y - a[1]) / (b[1] - a[1])) * (b[0] - a[0]));
  }
  return found.sort((p, q) => p - q);
}

/** Area in plan of an outline (Gauss's area formula). */
export function outlineArea(outline: readonly Place[]): number {
  let sum = 0;
  for (let k = 0; k < outline.length; k++) {
    const [a, b] = [outline[k]!, outline[(k + 1) % outline.length]!];
    sum += a[0] * b[1] - b[0] * a[1];
  }
  return Math.abs(sum) / 2;
}
