/** One check point against a surface; undefined where the surface has no elevation there. */
export interface CheckedPoint {
  readonly number: string;
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  readonly code: string;
  readonly surface: number | undefined;
  /** Why it does not count, if it does not. */
  readonly excluded?: string;
}

/** Lengths in job units. Surface less survey. */
export interface Spread {
  readonly count: number;
  readonly mean: number;
  readonly median: number;
  /** Of a sample: divided by one less than the count. */
  readonly standardDeviation: number;
  readonly rmse: number;
  /** The error furthest from zero, with its sign. */
  readonly worst: number;
  /** 95th percentile of the sizes. */
  readonly percentile95: number;
}

export interface AccuracyStatement {
  /** Bare ground, for NVA. */
  readonly open: Spread | undefined;
  /** Points whose code says vegetation, for VVA. */
  readonly vegetated: Spread | undefined;
  /** 1.96 RMSEz of the open points: 95 % where errors are normal. */
  readonly nva: number | undefined;
  /** 95th percentile of the sizes of the vegetated points' errors. */
  readonly vva: number | undefined;
  /** RMSEz of the open points and of the survey of the check points, in quadrature (edition 2). */
  readonly rmseV: number | undefined;
  /** Contour intervals that the open points support: 3 RMSEz, and 3.2898 RMSEz of the National Map Accuracy Standards. */
  readonly interval: number | undefined;
  readonly intervalNmas: number | undefined;
  /** At least 30, edition 2 asks. */
  readonly hasEnough: boolean;
}

/** 30 check points at least (ASPRS 2023, edition 2). */
export const ENOUGH_POINTS = 30;
const NVA_FACTOR = 1.96;
const INTERVAL_FACTOR = 3;
const NMAS_FACTOR = 3.2898;

/**
 * Vertical accuracy by the ASPRS Positional Accuracy Standards for Digital Geospatial Data: NVA and VVA as edition 1 (2014)
 * defines them, the check points' own error in quadrature and their least number as edition 2 (2023) does.
 * @param isVegetated - whether a point's code says that it stands in vegetation
 * @param surveyError - RMSE of the check points themselves, job units
 */
export function accuracyStatement(
  points: readonly CheckedPoint[],
  isVegetated: (code: string) => boolean,
  surveyError: number,
): AccuracyStatement {
  const errors = (vegetated: boolean): number[] =>
    points.flatMap(({ surface, elevation, code, excluded }) =>
      surface === undefined || excluded !== undefined || isVegetated(code) !== vegetated ? [] : [surface - elevation],
    );
  const open = spreadOf(errors(false));
  const vegetated = spreadOf(errors(true));
  return {
    open,
    vegetated,
    nva: open && NVA_FACTOR * open.rmse,
    vva: vegetated?.percentile95,
    rmseV: open && Math.hypot(open.rmse, surveyError),
    interval: open && INTERVAL_FACTOR * open.rmse,
    intervalNmas: open && NMAS_FACTOR * open.rmse,
    hasEnough: (open?.count ?? 0) >= ENOUGH_POINTS,
  };
}

function spreadOf(errors: readonly number[]): Spread | undefined {
  const count = errors.length;
  if (count === 0) return undefined;
  const mean = errors.reduce((sum, e) => sum + e, 0) / count;
  const sorted = [...errors].sort((a, b) => a - b);
  const sizes = errors.map(Math.abs).sort((a, b) => a - b);
  return {
    count,
    mean,
    median: percentile(sorted, 50),
    standardDeviation: count < 2 ? 0 : Math.sqrt(errors.reduce((sum, e) => sum + (e - mean) ** 2, 0) / (count - 1)),
    rmse: Math.sqrt(errors.reduce((sum, e) => sum + e * e, 0) / count),
    worst: errors.reduce((worst, e) => (Math.abs(e) > Math.abs(worst) ? e : worst), 0),
    percentile95: percentile(sizes, 95),
  };
}

/** At rank P / 100 (n - 1) + 1, between neighbours linear, as the 2014 standard's annex works it. */
export function percentile(sorted: ArrayLike<number>, p: number): number {
  const rank = (p / 100) * (sorted.length - 1);
  const low = Math.floor(rank);
  const high = Math.min(sorted.length - 1, low + 1);
  return sorted[low]! + (sorted[high]! - sorted[low]!) * (rank - low);
}

/** Whether a code is usual for points in vegetation; common practice, no source. */
export function saysVegetated(code: string): boolean {
  return /^(VVA|VEG|GRASS|BRUSH|WOOD|TREE|CROP|FOREST|BUSH|SCRUB)/i.test(code.trim());
}
