import { SquareTransform, type ComplexSquare } from './spectrum.js';

/**
 * Phase correlation of two squares of complex numbers (Kuglin and Hines 1975; of edges after Fitch et al. 2002): the inverse transform of
 * their cross-power spectrum, normalised and damped towards high frequencies, where there is more noise than land. The peak is at the
 * shift that the second has against the first.
 */
export class PhaseCorrelation {
  private readonly transform: SquareTransform;
  private readonly window: Float64Array;
  private readonly damping: Float64Array;

  /** @param softness - standard deviation of the bell that the peak becomes, cells */
  constructor(
    readonly side: number,
    softness = 1,
  ) {
    this.transform = new SquareTransform(side);
    const hann = Float64Array.from({ length: side }, (_, k) => 0.5 - 0.5 * Math.cos((2 * Math.PI * (k + 0.5)) / side));
    this.window = new Float64Array(side * side);
    this.damping = new Float64Array(side * side);
    for (let row = 0; row < side; row++)
      for (let column = 0; column < side; column++) {
        this.window[row * side + column] = hann[row]! * hann[column]!;
        const [u, v] = [column, row].map((k) => (2 * Math.PI * (k <= side / 2 ? k : k - side)) / side) as [
          number,
          number,
        ];
        this.damping[row * side + column] = Math.exp((-softness * softness * (u * u + v * v)) / 2);
      }
  }

  /** The correlation at every shift; that of (x, y) at row y, column x, negative ones from the other end. Both squares are used up. */
  correlate(first: ComplexSquare, second: ComplexSquare): Float64Array {
    const count = this.side * this.side;
    this.prepare(first);
    this.prepare(second);
    for (let k = 0; k < count; k++) {
      const [ar, ai, br, bi] = [first[2 * k]!, first[2 * k + 1]!, second[2 * k]!, second[2 * k + 1]!];
      const re = br * ar + bi * ai;
      const im = bi * ar - br * ai;
      const size = Math.sqrt(re * re + im * im); // hypot takes ten times as long
      const scale = size > 1e-12 ? this.damping[k]! / size : 0;
      first[2 * k] = re * scale;
      first[2 * k + 1] = im * scale;
    }
    this.transform.inverse(first);
    const out = new Float64Array(count);
    for (let k = 0; k < count; k++) out[k] = first[2 * k]!;
    return out;
  }

  private prepare(square: ComplexSquare): void {
    const count = this.side * this.side;
    let [meanRe, meanIm, weight] = [0, 0, 0];
    for (let k = 0; k < count; k++) {
      meanRe += square[2 * k]! * this.window[k]!;
      meanIm += square[2 * k + 1]! * this.window[k]!;
      weight += this.window[k]!;
    }
    for (let k = 0; k < count; k++) {
      square[2 * k] = (square[2 * k]! - meanRe / weight) * this.window[k]!;
      square[2 * k + 1] = (square[2 * k + 1]! - meanIm / weight) * this.window[k]!;
    }
    this.transform.forward(square);
  }
}

/** The highest place of a correlation, to parts of a cell. */
export interface Peak {
  readonly x: number;
  readonly y: number;
  readonly height: number;
}

/**
 * The peak within `reach` cells of a shift.
 * @param about - the shift to look around; nothing for no shift
 */
export function peakOf(
  correlation: Float64Array,
  side: number,
  reach: number,
  about: readonly [number, number] = [0, 0],
): Peak {
  const last = side - 1;
  const at = (x: number, y: number): number => correlation[(y & last) * side + (x & last)]!;
  const [cx, cy] = [Math.round(about[0]), Math.round(about[1])];
  let [bx, by, best] = [cx, cy, -Infinity];
  for (let y = cy - reach; y <= cy + reach; y++)
    for (let x = cx - reach; x <= cx + reach; x++) if (at(x, y) > best) [bx, by, best] = [x, y, at(x, y)];
  return {
    x: bx + partOf(at(bx - 1, by), best, at(bx + 1, by)),
    y: by + partOf(at(bx, by - 1), best, at(bx, by + 1)),
    height: best,
  };
}

/** How clear a peak is: its height over the scatter of all the rest, and the height of the next highest within reach, as a share of its own. */
export function clearnessOf(
  correlation: Float64Array,
  side: number,
  reach: number,
  { x, y, height }: Peak,
): { readonly clearness: number; readonly rival: number } {
  let [sum, squares, count, rival] = [0, 0, 0, 0];
  for (let row = 0; row < side; row++)
    for (let column = 0; column < side; column++) {
      const [dx, dy] = [column - x, row - y].map((d) => d - side * Math.round(d / side)) as [number, number];
      if (dx * dx + dy * dy < RIM * RIM) continue;
      const value = correlation[row * side + column]!;
      sum += value;
      squares += value * value;
      count++;
      const [fx, fy] = [column, row].map((d) => Math.abs(d - side * Math.round(d / side))) as [number, number];
      if (fx <= reach && fy <= reach && value > rival) rival = value;
    }
  const mean = sum / count;
  const scatter = Math.sqrt(Math.max(1e-30, squares / count - mean * mean));
  return { clearness: (height - mean) / scatter, rival: rival / height };
}
/** Cells about a peak that belong to it. */
const RIM = 5;

/** Where between its neighbours a bell through three values has its top: a parabola through their logarithms, or through themselves. */
function partOf(before: number, here: number, after: number): number {
  const areLogs = before > 0 && here > 0 && after > 0;
  const [a, b, c] = areLogs ? [Math.log(before), Math.log(here), Math.log(after)] : [before, here, after];
  const bend = a - 2 * b + c;
  return bend < 0 ? Math.max(-0.5, Math.min(0.5, (a - c) / (2 * bend))) : 0;
}
