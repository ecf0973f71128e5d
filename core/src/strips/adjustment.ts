import { checkCancelled, PamperoError } from '../task/index.js';
import { Corrector, stationOf, type Correction } from './correction.js';
import { solveNormals, type Normals } from './least-squares.js';
import type { PatchPairs } from './patches.js';
import type { PoseFinder } from './trajectory.js';
import { correctionOf, unknownsOf, type SplineFrame, type Unknown, type UnknownGroup } from './unknowns.js';

/** A surveyed point against the plane of one strip's points about it. */
export interface ControlObservation {
  readonly number: string;
  readonly strip: number;
  readonly time: number;
  /** On the strip's plane, at the point's place in plan. */
  readonly x: number;
  readonly y: number;
  readonly z: number;
  readonly slopeEast: number;
  readonly slopeNorth: number;
  /** As surveyed. */
  readonly elevation: number;
  /** Standard deviation of both together. */
  readonly sigma: number;
}

export interface AdjustmentSettings {
  readonly groups: readonly UnknownGroup[];
  /** Metres that a job unit is. */
  readonly metre: number;
  /** Seconds between the values of a correction in time. */
  readonly timeStep: number;
  /** Standard deviation of the second difference of that correction over one step: small is stiff. Job units; its rotations have a thousandth of a radian a unit. */
  readonly stiffness: number;
}

export interface AdjustedUnknown extends Unknown {
  readonly value: number;
  readonly standardDeviation: number;
  /** The flight does not tell it: it was held at nothing. */
  readonly isHeld: boolean;
}

export interface Adjustment {
  readonly correction: Correction;
  readonly unknowns: readonly AdjustedUnknown[];
  /** Every two unknowns that can hardly be told apart. */
  readonly correlated: readonly { readonly one: number; readonly two: number; readonly correlation: number }[];
  /** Standard deviation of an observation of unit weight, before and after. */
  readonly before: { readonly rmsd: number; readonly sigma0: number };
  readonly after: { readonly rmsd: number; readonly sigma0: number };
  readonly observations: number;
  /** Observations that hardly counted: further off than their fellows. */
  readonly doubted: number;
  readonly rounds: number;
}

const MOST_ROUNDS = 12;
/** Movement of the points by the last round, as a share of the least sigma, that ends the rounds. */
const SETTLED = 0.01;
/** Residuals further off than so many robust standard deviations count for nothing (Tukey's biweight, Beaton and Tukey 1974). */
const TUKEY = 4.685;
/** An unknown whose standard deviation stays above this share of what was known before is not told by the flight. */
const UNTOLD = 0.3;
const CORRELATED = 0.9;
/** Slopes under about a degree are noise as much as land: taken for what they seem, they would tell of shifts in plan that are not there. */
const FLAT = 0.02;
/** Without control the mean of what every strip is given stays nothing. */
const MEAN_SIGMA = 1e-4;

/**
 * Adjusts a flight by its own overlaps and by control: the distances of corresponding planes are made least by a Gauss-Newton adjustment with robust
 * weights (Glira et al. 2015, point-to-plane correspondences; Skaloud and Lichti 2006 for the model). What the flight does not tell is found by its
 * standard deviation, held at nothing and named. Standard deviations allow for residuals of one neighbourhood being alike (Liang and Zeger 1986).
 * @param pairs - corresponding planes, with coordinates in the trajectory's own
 * @throws PamperoError `nothing-to-adjust`
 */
export function adjustStrips(
  pairs: PatchPairs,
  control: readonly ControlObservation[],
  base: Pick<Correction, 'spans' | 'leverArm'>,
  finder: PoseFinder | undefined,
  settings: AdjustmentSettings,
  signal?: { readonly aborted: boolean },
): Adjustment {
  if (pairs.count + control.length < 3)
    throw new PamperoError('nothing-to-adjust', {
      what: `The strips share ${pairs.count} smooth patches; that is not enough to adjust by.`,
      fix: 'Choose strips that overlap, or make patches larger or the roughness allowed greater.',
    });
  const spline = settings.groups.some((group) => group.startsWith('time'))
    ? splineFrame(base.spans, settings.timeStep)
    : undefined;
  const all = unknownsOf(settings.groups, base.spans.length, spline, settings.metre);
  if (all.length === 0)
    throw new PamperoError('nothing-to-adjust', {
      what: 'Nothing is to be solved for.',
      fix: 'Switch on at least one thing to correct.',
    });
  if (all.length > MOST_UNKNOWNS)
    throw new PamperoError('too-many-unknowns', {
      what: `${all.length} unknowns are more than the ${MOST_UNKNOWNS} that can be solved at once.`,
      fix: 'Make the step of the correction in time longer, or correct fewer things for each strip.',
    });
  const system = new AdjustedSystem(pairs, control, base, finder, settings, all, spline);
  const values = new Float64Array(all.length);
  const held = new Uint8Array(all.length);
  system.evaluate(values);
  const before = { rmsd: system.rmsd(), sigma0: system.sigma0() };
  let rounds = 0;
  for (let last = Infinity; rounds < MOST_ROUNDS; rounds++) {
    checkCancelled(signal);
    const normals = system.normals(values);
    let solved = solveNormals(normals, held);
    // The worst first: with it held, others may well be told.
    for (; rounds < 2;) {
      const worst = leastTold(solved.standardDeviations, all, held);
      if (worst < 0) break;
      held[worst] = 1;
      solved = solveNormals(normals, held);
    }
    let step = 0;
    for (let k = 0; k < values.length; k++) {
      if (held[k]) {
        values[k] = 0;
        continue;
      }
      values[k]! += solved.values[k]!;
      step = Math.max(step, Math.abs(solved.values[k]!) / Math.max(solved.standardDeviations[k]!, 1e-12));
    }
    system.evaluate(values);
    if (step < SETTLED || (step > last && rounds > 6)) break;
    last = step;
  }
  const final = solveNormals(system.normals(values, true), held);
  const deviations = system.honestDeviations(final.inverse, held);
  return {
    correction: correctionOf(all, values, base, spline),
    unknowns: all.map((unknown, k) => ({
      ...unknown,
      value: values[k]!,
      standardDeviation: held[k] ? 0 : deviations[k]!,
      isHeld: held[k] === 1,
    })),
    correlated: correlatedOf(final.inverse, held, all),
    before,
    after: { rmsd: system.rmsd(), sigma0: system.sigma0() },
    observations: pairs.count + control.length,
    doubted: system.doubted(),
    rounds: rounds + 1,
  };
}

export const MOST_UNKNOWNS = 800;

function splineFrame(spans: readonly { readonly from: number; readonly to: number }[], step: number): SplineFrame {
  const start = Math.min(...spans.map(({ from }) => from));
  const end = Math.max(...spans.map(({ to }) => to));
  return { start, step, count: Math.max(4, Math.ceil((end - start) / step) + 3) };
}

/** The unknown that the flight tells least of; -1 where it tells enough of all. Splines are held by their stiffness. */
function leastTold(deviations: Float64Array, unknowns: readonly Unknown[], held: Uint8Array): number {
  let [worst, share] = [-1, UNTOLD];
  unknowns.forEach(({ prior, group }, k) => {
    if (held[k] || group.startsWith('time')) return;
    const untold = deviations[k]! / prior;
    if (untold > share) [worst, share] = [k, untold];
  });
  return worst;
}

/** Heights of strips rise and fall together, and neighbours in time go with each other: that is no trouble. */
function isAlike(one: Unknown, two: Unknown): boolean {
  return one.group === two.group && one.axis === two.axis && one.of !== undefined;
}

function correlatedOf(inverse: Float64Array, held: Uint8Array, unknowns: readonly Unknown[]): Adjustment['correlated'] {
  const n = held.length;
  const found: { one: number; two: number; correlation: number }[] = [];
  for (let i = 0; i < n; i++)
    for (let j = i + 1; j < n; j++) {
      if (held[i] || held[j] || isAlike(unknowns[i]!, unknowns[j]!)) continue;
      const correlation = inverse[i * n + j]! / Math.sqrt(inverse[i * n + i]! * inverse[j * n + j]!);
      if (Math.abs(correlation) >= CORRELATED) found.push({ one: i, two: j, correlation });
    }
  return found.sort((a, b) => Math.abs(b.correlation) - Math.abs(a.correlation)).slice(0, 50);
}

/** Most unknowns that one observation hangs on: globals, two strips, two places of a spline. */
const MOST_ENTRIES = 96;
/** Side of the neighbourhoods whose residuals may be alike. */
const NEIGHBOURHOOD_METRES = 25;

/** Observations, their residuals, weights and derivatives at the present values. */
class AdjustedSystem {
  private readonly residual: Float64Array;
  private readonly weight: Float64Array;
  private readonly sigma: Float64Array;
  private readonly entries = new Int32Array(MOST_ENTRIES);
  private readonly slopes = new Float64Array(MOST_ENTRIES);
  private readonly splineWeights = new Float64Array(4);
  private corrector: Corrector;
  private correction: Correction;
  private readonly firstOf = new Map<string, number>();
  private used = 0;
  /** Observations whose strips the trajectory covers. */
  private readonly isCovered: Uint8Array;

  constructor(
    private readonly pairs: PatchPairs,
    private readonly control: readonly ControlObservation[],
    private readonly base: Pick<Correction, 'spans' | 'leverArm'>,
    private readonly finder: PoseFinder | undefined,
    private readonly settings: AdjustmentSettings,
    private readonly unknowns: readonly Unknown[],
    private readonly spline: SplineFrame | undefined,
  ) {
    const count = pairs.count + control.length;
    this.residual = new Float64Array(count);
    this.weight = new Float64Array(count).fill(1);
    this.isCovered = new Uint8Array(count).fill(1);
    // Besides the noise there is what planes do not tell of the ground between their points.
    const least = 0.002 / settings.metre;
    this.sigma = new Float64Array(count);
    for (let k = 0; k < pairs.count; k++) this.sigma[k] = Math.hypot(pairs.sigma[k]!, least);
    control.forEach(({ sigma }, k) => (this.sigma[pairs.count + k] = Math.hypot(sigma, least)));
    unknowns.forEach(({ group, axis, of }, k) => {
      if (of === undefined || of === 0) this.firstOf.set(`${group} ${axis}`, k);
    });
    this.correction = correctionOf(unknowns, new Float64Array(unknowns.length), base, spline);
    this.corrector = new Corrector(this.correction, finder);
  }

  evaluate(values: Float64Array): void {
    this.correction = correctionOf(this.unknowns, values, this.base, this.spline);
    this.corrector = new Corrector(this.correction, this.finder);
    for (let k = 0; k < this.residual.length; k++) this.observe(k, false);
    // Control is judged by its fellows: a whole block that lies too high is no reason to doubt every point.
    const scale = this.scale(0, this.pairs.count);
    const controlScale = Math.max(1, this.scale(this.pairs.count, this.residual.length));
    for (let k = 0; k < this.residual.length; k++) {
      const u = this.residual[k]! / this.sigma[k]! / (TUKEY * (k < this.pairs.count ? scale : controlScale));
      this.weight[k] = this.isCovered[k] && Math.abs(u) < 1 ? (1 - u * u) ** 2 : 0;
    }
  }

  /** Robust standard deviation of the weighed residuals: 1.4826 times their median size. */
  private scale(from: number, to: number): number {
    const sizes: number[] = [];
    for (let k = from; k < to; k++) if (this.isCovered[k]) sizes.push(Math.abs(this.residual[k]!) / this.sigma[k]!);
    const sorted = Float64Array.from(sizes).sort();
    return Math.max(1e-9, 1.4826 * (sorted[sorted.length >> 1] ?? 0));
  }

  /** Root mean square of the upright differences of the pairs, without those that hardly count. */
  rmsd(): number {
    let [sum, count] = [0, 0];
    for (let k = 0; k < this.pairs.count; k++) {
      if (this.weight[k]! < 0.05) continue;
      const e = this.pairs.slopeEast[k]!;
      const n = this.pairs.slopeNorth[k]!;
      sum += this.residual[k]! ** 2 * (1 + e * e + n * n);
      count++;
    }
    return count === 0 ? 0 : Math.sqrt(sum / count);
  }

  sigma0(): number {
    let [sum, weights] = [0, 0];
    for (let k = 0; k < this.residual.length; k++) {
      sum += this.weight[k]! * (this.residual[k]! / this.sigma[k]!) ** 2;
      weights += this.weight[k]!;
    }
    return weights > this.unknowns.length
      ? Math.sqrt(sum / (weights - this.unknowns.length))
      : Math.sqrt(sum / Math.max(1, weights));
  }

  doubted(): number {
    return this.weight.reduce((sum, weight) => sum + (weight < 0.05 ? 1 : 0), 0);
  }

  /** @param isLast - what is left is noise; before, most of it is what is to be corrected and says nothing of how well things are told */
  normals(values: Float64Array, isLast = false): Normals {
    const n = this.unknowns.length;
    const matrix = new Float64Array(n * n);
    const right = new Float64Array(n);
    const variance = Math.max(0.25, isLast ? this.sigma0() ** 2 : Math.min(4, this.sigma0() ** 2));
    for (let k = 0; k < this.residual.length; k++) {
      if (this.weight[k] === 0) continue;
      this.observe(k, true);
      this.add(matrix, right, this.weight[k]! / (variance * this.sigma[k]! ** 2), this.residual[k]!);
    }
    this.unknowns.forEach(({ prior }, k) => {
      matrix[k * n + k]! += 1 / prior ** 2;
      right[k]! -= values[k]! / prior ** 2;
    });
    this.stiffen(matrix, right, values);
    this.holdMeans(matrix, right, values);
    return { count: n, matrix, right };
  }

  /** Second differences of the corrections in time are near nothing. */
  private stiffen(matrix: Float64Array, right: Float64Array, values: Float64Array): void {
    if (!this.spline) return;
    for (const { group, axis, of } of this.unknowns) {
      if (!group.startsWith('time') || of !== 0) continue;
      const first = this.firstOf.get(`${group} ${axis}`)!;
      const sigma = axis >= 3 ? (this.settings.stiffness * this.settings.metre) / 1000 : this.settings.stiffness;
      for (let k = 0; k + 2 < this.spline.count; k++) {
        this.used = 0;
        this.put(first + k, 1);
        this.put(first + k + 1, -2);
        this.put(first + k + 2, 1);
        const residual = values[first + k]! - 2 * values[first + k + 1]! + values[first + k + 2]!;
        this.add(matrix, right, 1 / sigma ** 2, residual);
      }
    }
  }

  /** Where nothing but the overlaps speaks, all strips together may go anywhere: their mean stays. */
  private holdMeans(matrix: Float64Array, right: Float64Array, values: Float64Array): void {
    const strips = this.base.spans.length;
    const n = this.unknowns.length;
    for (const { group, axis, of } of this.unknowns) {
      if (of !== 0 || !group.startsWith('strip')) continue;
      if (group === 'stripHeight' && this.control.length > 0) continue;
      // Drifts run with each strip's own way: one that is common to all is no move of the whole, and the overlaps tell it.
      if (group === 'stripDrift') continue;
      const first = this.firstOf.get(`${group} ${axis}`)!;
      const sigma = group === 'stripTilt' ? MEAN_SIGMA / 100 : MEAN_SIGMA / this.settings.metre;
      const weight = 1 / (sigma * strips) ** 2;
      let sum = 0;
      for (let s = first; s < first + strips; s++) sum += values[s]!;
      for (let i = first; i < first + strips; i++) {
        right[i]! -= weight * sum;
        for (let j = first; j < first + strips; j++) matrix[i * n + j]! += weight;
      }
    }
  }

  private add(matrix: Float64Array, right: Float64Array, weight: number, residual: number): void {
    const n = this.unknowns.length;
    const { entries, slopes, used } = this;
    for (let a = 0; a < used; a++) {
      const i = entries[a]!;
      const w = weight * slopes[a]!;
      right[i]! -= w * residual;
      const row = i * n;
      for (let b = 0; b < used; b++) matrix[row + entries[b]!]! += w * slopes[b]!;
    }
  }

  private put(index: number, slope: number): void {
    if (slope === 0) return;
    if (this.used === MOST_ENTRIES) throw new Error('More unknowns in one observation than there is room for.');
    this.entries[this.used] = index;
    this.slopes[this.used++] = slope;
  }

  /** The residual of an observation, and what it hangs on where that is asked for. */
  private observe(k: number, withSlopes: boolean): void {
    this.used = 0;
    const { pairs } = this;
    const isPair = k < pairs.count;
    const c = isPair ? undefined : this.control[k - pairs.count]!;
    const [se, sn] = isPair ? [pairs.slopeEast[k]!, pairs.slopeNorth[k]!] : [c!.slopeEast, c!.slopeNorth];
    const isFlat = se * se + sn * sn < FLAT * FLAT;
    const [e, n] = isFlat ? [0, 0] : [se, sn];
    const length = Math.sqrt(1 + e * e + n * n);
    const normal: readonly [number, number, number] = [-e / length, -n / length, 1 / length];
    let residual: number;
    if (isPair) {
      const [x, y] = [pairs.x[k]!, pairs.y[k]!];
      residual =
        this.side(x, y, pairs.heightTwo[k]!, pairs.timeTwo[k]!, pairs.two[k]!, normal, 1, withSlopes, k) -
        this.side(x, y, pairs.heightOne[k]!, pairs.timeOne[k]!, pairs.one[k]!, normal, -1, withSlopes, k);
    } else {
      const at = this.side(c!.x, c!.y, c!.z, c!.time, c!.strip, normal, 1, withSlopes, k);
      residual = at - (normal[0] * c!.x + normal[1] * c!.y + normal[2] * c!.elevation);
    }
    this.residual[k] = residual;
  }

  /** The point of one strip along the normal, corrected. */
  private side(
    x: number,
    y: number,
    z: number,
    time: number,
    strip: number,
    normal: readonly [number, number, number],
    sign: number,
    withSlopes: boolean,
    k: number,
  ): number {
    const { corrector } = this;
    if (!corrector.correct(x, y, z, time, strip)) {
      this.isCovered[k] = 0;
      return 0;
    }
    if (withSlopes) this.slopesOf(time, strip, normal, sign);
    const [px, py, pz] = corrector.point as unknown as [number, number, number];
    return normal[0] * px + normal[1] * py + normal[2] * pz;
  }

  private slopesOf(time: number, strip: number, normal: readonly [number, number, number], sign: number): void {
    const { corrector, firstOf } = this;
    if (this.finder) {
      const { pose, beam } = corrector;
      // The normal in the body.
      const nx = sign * (pose[3]! * normal[0] + pose[6]! * normal[1] + pose[9]! * normal[2]);
      const ny = sign * (pose[4]! * normal[0] + pose[7]! * normal[1] + pose[10]! * normal[2]);
      const nz = sign * (pose[5]! * normal[0] + pose[8]! * normal[1] + pose[11]! * normal[2]);
      const [bx, by, bz] = beam as unknown as [number, number, number];
      // A turn by w moves the beam b by w x b, along the normal by w . (b x n).
      const turn = [by * nz - bz * ny, bz * nx - bx * nz, bx * ny - by * nx];
      const range = Math.sqrt(bx * bx + by * by + bz * bz) || 1;
      const along = bx * nx + by * ny + bz * nz;
      const global = (group: UnknownGroup, axis: number, slope: number): void => {
        const at = firstOf.get(`${group} ${axis}`);
        if (at !== undefined) this.put(at, slope);
      };
      for (let axis = 0; axis < 3; axis++) global('boresight', axis, turn[axis]!);
      global('leverArm', 0, nx);
      global('leverArm', 1, ny);
      global('leverArm', 2, nz);
      global('rangeOffset', 0, along / range);
      global('rangeScale', 0, along);
      global('angleScale', 0, corrector.angle * (bz * ny - by * nz));
      for (let axis = 0; axis < 3; axis++) {
        const at = firstOf.get(`stripTilt ${axis}`);
        if (at !== undefined) this.put(at + strip, turn[axis]!);
      }
      const first = corrector.splineAt(time, this.splineWeights);
      if (first >= 0)
        for (let axis = 0; axis < 6; axis++) {
          const group = axis === 2 ? 'timeHeight' : axis < 2 ? 'timePlan' : 'timeTilt';
          const at = firstOf.get(`${group} ${axis}`);
          if (at === undefined) continue;
          const slope = axis < 3 ? sign * normal[axis]! : turn[axis - 3]!;
          for (let w = 0; w < 4; w++) this.put(at + first + w, slope * this.splineWeights[w]!);
        }
    }
    for (let axis = 0; axis < 3; axis++) {
      const shift = firstOf.get(`${axis === 2 ? 'stripHeight' : 'stripPlan'} ${axis}`);
      if (shift !== undefined) this.put(shift + strip, sign * normal[axis]!);
      const drift = firstOf.get(`stripDrift ${axis}`);
      if (drift !== undefined) this.put(drift + strip, sign * normal[axis]! * stationOf(this.base.spans[strip]!, time));
    }
  }

  /** Standard deviations that allow for residuals of one neighbourhood being alike: never less than the plain ones. */
  honestDeviations(inverse: Float64Array, held: Uint8Array): Float64Array {
    const n = this.unknowns.length;
    const side = NEIGHBOURHOOD_METRES / this.settings.metre;
    const hoods = new Map<string, Float64Array>();
    const variance = Math.max(0.25, this.sigma0() ** 2);
    for (let k = 0; k < this.residual.length; k++) {
      if (this.weight[k] === 0) continue;
      const [x, y] =
        k < this.pairs.count
          ? [this.pairs.x[k]!, this.pairs.y[k]!]
          : [this.control[k - this.pairs.count]!.x, this.control[k - this.pairs.count]!.y];
      const key = `${Math.floor(x / side)} ${Math.floor(y / side)}`;
      let sum = hoods.get(key);
      if (!sum) hoods.set(key, (sum = new Float64Array(n)));
      this.observe(k, true);
      const pull = (this.weight[k]! * this.residual[k]!) / (variance * this.sigma[k]! ** 2);
      for (let a = 0; a < this.used; a++) sum[this.entries[a]!]! += pull * this.slopes[a]!;
    }
    const spread = new Float64Array(n);
    const moved = new Float64Array(n);
    for (const sum of hoods.values()) {
      for (let i = 0; i < n; i++) {
        let value = 0;
        for (let j = 0; j < n; j++) value += inverse[i * n + j]! * sum[j]!;
        moved[i] = value;
      }
      for (let i = 0; i < n; i++) spread[i]! += moved[i]! ** 2;
    }
    const few = hoods.size / Math.max(1, hoods.size - 1);
    return spread.map((value, i) => (held[i] ? 0 : Math.sqrt(Math.max(value * few, inverse[i * n + i]!))));
  }
}
