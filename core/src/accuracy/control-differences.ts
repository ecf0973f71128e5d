/** A surveyed point and how far the cloud lies above it there. */
export interface ControlDifference {
  readonly easting: number;
  readonly northing: number;
  /** Surveyed elevation. */
  readonly elevation: number;
  /** Cloud less survey, job units. */
  readonly difference: number;
}

/** What the differences say together. Lengths in job units. */
export interface DifferencePattern {
  readonly count: number;
  readonly mean: number;
  readonly rmse: number;
  readonly worst: number;
  /** Rise of the differences from side to side of the site, by the plane that fits them best. */
  readonly tilt: number;
  readonly isTilted: boolean;
  /** Height of the middle of the site over its rim (dome, above 0) or under it (bowl), by the best-fitting bow. */
  readonly bow: number;
  readonly isBowed: boolean;
  /** Cloud elevation over surveyed elevation, where that ratio is one of a unit mix-up. */
  readonly unitRatio: 'feet-as-metres' | 'metres-as-feet' | 'survey-foot' | undefined;
}

/** A plane has three unknowns, a bow one more; fewer points than this say nothing of either. */
const LEAST_FOR_SHAPE = 6;
/** A shape is told where it explains this share of the differences' variance and is larger than what is left. */
const EXPLAINED = 0.5;

/**
 * Looks for what differences to control have in common: a shift, a tilt, the dome or bowl that photogrammetry without enough
 * control bends into, or a mix-up of units. Least squares on plane and on plane with a square term in the distance from the
 * middle; a term counts where it explains half of the remaining variance. Common practice, no source.
 */
export function differencePattern(points: readonly ControlDifference[]): DifferencePattern | undefined {
  if (points.length === 0) return undefined;
  const count = points.length;
  const d = points.map((p) => p.difference);
  const mean = d.reduce((sum, v) => sum + v, 0) / count;
  const rmse = Math.sqrt(d.reduce((sum, v) => sum + v * v, 0) / count);
  const worst = d.reduce((most, v) => (Math.abs(v) > Math.abs(most) ? v : most), 0);
  const base = {
    count,
    mean,
    rmse,
    worst,
    tilt: 0,
    isTilted: false,
    bow: 0,
    isBowed: false,
    unitRatio: unitRatio(points),
  };
  if (count < LEAST_FOR_SHAPE) return base;
  const middle = (of: (p: ControlDifference) => number): number =>
    (Math.max(...points.map(of)) + Math.min(...points.map(of))) / 2;
  const [me, mn] = [middle((p) => p.easting), middle((p) => p.northing)];
  const reach = Math.max(...points.map((p) => Math.hypot(p.easting - me, p.northing - mn)), 1e-9);
  const rows = points.map((p) => {
    const e = (p.easting - me) / reach;
    const n = (p.northing - mn) / reach;
    return [1, e, n, e * e + n * n];
  });
  const left = (terms: number): { coefficients: number[]; variance: number } | undefined => {
    const coefficients = leastSquares(
      rows.map((row) => row.slice(0, terms)),
      d,
    );
    if (!coefficients) return undefined;
    const variance =
      rows.reduce((sum, row, i) => sum + (d[i]! - coefficients.reduce((at, c, k) => at + c * row[k]!, 0)) ** 2, 0) /
      Math.max(1, count - terms);
    return { coefficients, variance };
  };
  const none = left(1)!;
  const plane = left(3);
  const bowed = left(4);
  const tilt = plane ? 2 * Math.hypot(plane.coefficients[1]!, plane.coefficients[2]!) : 0;
  const bow = bowed ? -bowed.coefficients[3]! : 0;
  const isTilted =
    plane !== undefined && plane.variance < (1 - EXPLAINED) * none.variance && tilt > 2 * Math.sqrt(plane.variance);
  const isBowed =
    plane !== undefined &&
    bowed !== undefined &&
    bowed.variance < (1 - EXPLAINED) * plane.variance &&
    Math.abs(bow) > 2 * Math.sqrt(bowed.variance);
  return { ...base, tilt, isTilted, bow, isBowed };
}

const FOOT = 0.3048;
const SURVEY_FOOT = 1200 / 3937;

function unitRatio(points: readonly ControlDifference[]): DifferencePattern['unitRatio'] {
  const ratios = points.filter((p) => Math.abs(p.elevation) > 1).map((p) => (p.elevation + p.difference) / p.elevation);
  if (ratios.length < 3) return undefined;
  const sorted = ratios.sort((a, b) => a - b);
  const median = sorted[sorted.length >> 1]!;
  const spread = sorted[Math.floor(sorted.length * 0.9)]! - sorted[Math.floor(sorted.length * 0.1)]!;
  if (spread > 0.02) return undefined;
  if (Math.abs(median - 1 / FOOT) < 0.05) return 'feet-as-metres';
  if (Math.abs(median - FOOT) < 0.005) return 'metres-as-feet';
  // Two millionths of the elevation: only told on high ground, where it exceeds the scatter.
  return spread < 1e-6 && Math.abs(Math.abs(median - 1) - Math.abs(SURVEY_FOOT / FOOT - 1)) < 3e-7
    ? 'survey-foot'
    : undefined;
}

/** Coefficients by Householder-free normal equations with pivoting; well-scaled rows keep them sound. */
function leastSquares(rows: readonly number[][], values: readonly number[]): number[] | undefined {
  const size = rows[0]!.length;
  const matrix = Array.from({ length: size }, (_, r) => [
    ...Array.from({ length: size }, (_, c) => rows.reduce((sum, row) => sum + row[r]! * row[c]!, 0)),
    rows.reduce((sum, row, i) => sum + row[r]! * values[i]!, 0),
  ]);
  for (let column = 0; column < size; column++) {
    let pivot = column;
    for (let r = column + 1; r < size; r++)
      if (Math.abs(matrix[r]![column]!) > Math.abs(matrix[pivot]![column]!)) pivot = r;
    if (Math.abs(matrix[pivot]![column]!) < 1e-9) return undefined;
    [matrix[column], matrix[pivot]] = [matrix[pivot]!, matrix[column]!];
    for (let r = 0; r < size; r++) {
      if (r === column) continue;
      const factor = matrix[r]![column]! / matrix[column]![column]!;
      for (let c = column; c <= size; c++) matrix[r]![c]! -= factor * matrix[column]![c]!;
    }
  }
  return matrix.map((row, r) => row[size]! / row[r]!);
}
