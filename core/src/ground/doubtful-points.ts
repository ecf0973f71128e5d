import { columnFrom } from '../columns/index.js';
import type { PointBatch } from '../cloud/index.js';
import { greenness } from '../selection/index.js';

/** Counts of greenness, for a limit between what is green and what is not. */
export type GreennessHistogram = Float64Array;

const BINS = 256;
/** Excess green runs from -1 (none) to 2 (nothing else); clouds stay within these. */
const [LEAST, MOST] = [-0.5, 1];

/**
 * Excess green, 2g - r - b of the chromatic r, g, b (Woebbecke et al. 1995, Transactions of the ASAE 38(1), 259-269). Black
 * points have none.
 */
export function excessGreen(red: number, green: number, blue: number): number {
  const index = greenness(red, green, blue);
  return Number.isNaN(index) ? 0 : index;
}

type Coloured = Pick<PointBatch, 'count' | 'red' | 'green' | 'blue'>;

export function newGreennessHistogram(): GreennessHistogram {
  return new Float64Array(BINS);
}

export function addGreenness(histogram: GreennessHistogram, { count, red, green, blue }: Coloured): void {
  for (let i = 0; i < count; i++) histogram[binOf(excessGreen(red![i]!, green![i]!, blue![i]!))]!++;
}

function binOf(value: number): number {
  return Math.max(0, Math.min(BINS - 1, Math.floor(((value - LEAST) / (MOST - LEAST)) * BINS)));
}

/**
 * The limit that parts the green points from the others best (Otsu 1979, IEEE Transactions on Systems, Man, and Cybernetics
 * 9(1), 62-66), and the means of the two. Undefined where they do not part: all of a colour, or the means too near each other.
 */
export function greennessLimit(
  histogram: GreennessHistogram,
): { limit: number; bare: number; green: number } | undefined {
  const centre = (bin: number): number => LEAST + ((bin + 0.5) / BINS) * (MOST - LEAST);
  const total = histogram.reduce((sum, n) => sum + n, 0);
  const all = histogram.reduce((sum, n, bin) => sum + n * centre(bin), 0);
  let best: { limit: number; bare: number; green: number; between: number } | undefined;
  let [under, sum] = [0, 0];
  for (let bin = 0; bin < BINS - 1; bin++) {
    under += histogram[bin]!;
    sum += histogram[bin]! * centre(bin);
    if (under === 0 || under === total) continue;
    const [bare, green] = [sum / under, (all - sum) / (total - under)];
    const between = under * (total - under) * (green - bare) ** 2;
    if (!best || between > best.between)
      best = { limit: LEAST + ((bin + 1) / BINS) * (MOST - LEAST), bare, green, between };
  }
  return best && best.green - best.bare > 0.1 ? { limit: best.limit, bare: best.bare, green: best.green } : undefined;
}

/** Green points are never quite out of the question: a lawn is ground. */
const MOST_DOUBT = 0.8;
/** Over this width of excess green about the limit doubt grows from none to most. */
const BLUR = 0.06;

/** How doubtful each point is as ground for its colour, 0 to {@link MOST_DOUBT}. */
export function doubtOfGreen({ count, red, green, blue }: Coloured, limit: number): Float32Array {
  const out = new Float32Array(count);
  for (let i = 0; i < count; i++) {
    const over = (excessGreen(red![i]!, green![i]!, blue![i]!) - limit) / BLUR + 0.5;
    out[i] = MOST_DOUBT * Math.max(0, Math.min(1, over));
  }
  return out;
}

/** Doubt of points that their source is not sure of: those under the limit, the more the less sure. */
export function doubtOfConfidence(confidence: ArrayLike<number>, least: number): Float32Array {
  return columnFrom(Float32Array, confidence, (value) =>
    least > 0 && value < least ? MOST_DOUBT * (0.5 + 0.5 * Math.max(0, 1 - value / least)) : 0,
  );
}

/** The larger of two doubts, point by point; either may be missing. */
export function strongerDoubt(a: Float32Array | undefined, b: Float32Array | undefined): Float32Array | undefined {
  if (!a || !b) return a ?? b;
  return a.map((value, i) => Math.max(value, b[i]!));
}

/** 1 for points too doubtful to bear witness of the ground. */
export function tooDoubtful(doubt: Float32Array): Uint8Array {
  return columnFrom(Uint8Array, doubt, (value) => (value >= MOST_DOUBT / 2 ? 1 : 0));
}
