import { BendFit } from './bend-profile.js';
import { firstFrom, heightAt, Moments } from './moments.js';

/** A step across a line: kerb or wall. Places across, to the right positive. */
export interface Step {
  readonly foot: number;
  readonly top: number;
  readonly footElevation: number;
  readonly topElevation: number;
  /** The ground is higher to the right. */
  readonly isUpRight: boolean;
  /** What points are off the two sides, root mean square. */
  readonly residual: number;
  /** The squares it takes out of a profile that only bends there, in variances of what is left. */
  readonly strength: number;
  /** Beyond the top, where the stone ends and the ground drops again. */
  readonly back?: { readonly at: number; readonly elevation: number };
}

export interface StepLimits {
  readonly least: number;
  readonly most: number;
  /** How wide the face may be in plan. */
  readonly faceWidth: number;
  /** How far from the middle the step may lie. */
  readonly reach: number;
  /** Width of the stone beyond the top, 0 to look for no back. */
  readonly stoneWidth: number;
}

/** Points on either side that a line is put through. */
const LEAST_POINTS = 4;
/** A step this many times its own standard error is no chance. */
const SURE = 5;
/**
 * The squares that a step takes out of a profile that only bends there, in variances of what is left: of many places tried in plain
 * scatter, the best takes out 10 to 20.
 */
const WORTH = 35;

/**
 * The step in a profile: the two lines, left and right of a place, that leave the least of the squares. Then what lies on the face is
 * told from what lies on the sides, and the sides are fitted without it.
 * @param across - n places from left to right
 */
export function findStep(
  across: Float64Array,
  elevation: Float64Array,
  count: number,
  limits: StepLimits,
): Step | undefined {
  if (count < 2 * LEAST_POINTS) return undefined;
  const moments = new Moments(across, elevation, count);
  const beyond = 1.5 * limits.reach;
  let best: { k: number; rest: number } | undefined;
  for (let k = LEAST_POINTS; k <= count - LEAST_POINTS; k++) {
    const t = (across[k - 1]! + across[k]!) / 2;
    // A little beyond the reach as well: what only looks like a step at the edge of it belongs to one outside.
    if (t < -beyond) continue;
    if (t > beyond) break;
    const [left, right] = [moments.line(0, k), moments.line(k, count)];
    const size = Math.abs(heightAt(right, t) - heightAt(left, t));
    if (size < limits.least || size > limits.most) continue;
    const rest = left.rest + right.rest;
    if (!best || rest < best.rest) best = { k, rest };
  }
  if (!best) return undefined;
  const t = (across[best.k - 1]! + across[best.k]!) / 2;
  if (Math.abs(t) > limits.reach) return undefined;
  // Sides without what may lie on the face or be seen on both of its edges.
  const apart = limits.faceWidth;
  const from = firstFrom(across, count, t - apart);
  const to = firstFrom(across, count, t + apart);
  const hasSides = from >= LEAST_POINTS && count - to >= LEAST_POINTS;
  const [left, right] = hasSides
    ? [moments.line(0, from), moments.line(to, count)]
    : [moments.line(0, best.k), moments.line(best.k, count)];
  const size = heightAt(right, t) - heightAt(left, t);
  if (Math.abs(size) < limits.least || Math.abs(size) > limits.most) return undefined;
  const used = hasSides ? count - (to - from) : count;
  const residual = Math.sqrt((left.rest + right.rest) / Math.max(1, used - 4));
  const error = residual * Math.sqrt(4 / Math.max(1, Math.min(from, count - to)) + 4 / used);
  if (Math.abs(size) < SURE * error) return undefined;
  // What the sides alone explain, bent where they meet, is no step.
  const bend = new BendFit(moments, count, 1);
  bend.offer(t, best.k, t, best.k);
  const strength = ((bend.best?.rest ?? Infinity) - best.rest) / Math.max(1e-12, best.rest / (count - 4));
  if (strength < WORTH) return undefined;
  const isUpRight = size > 0;
  const [low, high] = isUpRight ? [left, right] : [right, left];
  // Walked from the low side to the high one: the last that still lies low, the first that already lies high.
  let [lastLow, firstHigh] = [NaN, NaN];
  const way = isUpRight ? 1 : -1;
  for (let k = isUpRight ? from : to - 1; isUpRight ? k < to : k >= from; k += way) {
    const x = across[k]!;
    const share = (elevation[k]! - heightAt(low, x)) / (heightAt(high, x) - heightAt(low, x));
    if (share < 0.3) lastLow = x;
    if (share > 0.7 && Number.isNaN(firstHigh)) firstHigh = x;
  }
  if (Number.isNaN(lastLow)) lastLow = Number.isNaN(firstHigh) ? t : Math.min(way * firstHigh, way * t) * way;
  if (Number.isNaN(firstHigh)) firstHigh = Math.max(way * lastLow, way * t) * way;
  // Rows of points along the slab part the two by less than they are apart; where they overlap, the face is upright between them.
  if (way * (firstHigh - lastLow) < 0) lastLow = firstHigh = (lastLow + firstHigh) / 2;
  const back = limits.stoneWidth > 0 ? findBack(across, elevation, count, firstHigh, way, limits, residual) : undefined;
  return {
    foot: lastLow,
    top: firstHigh,
    footElevation: heightAt(low, lastLow),
    topElevation: back ? topOfStone(across, elevation, count, firstHigh, back.at, way) : heightAt(high, firstHigh),
    isUpRight,
    residual,
    strength,
    ...(back && { back }),
  };
}

/** A drop behind the top that is as wide as a stone may be from it, at least half as high as the step must be. */
function findBack(
  across: Float64Array,
  elevation: Float64Array,
  count: number,
  top: number,
  way: number,
  { least, stoneWidth }: StepLimits,
  residual: number,
): { at: number; elevation: number } | undefined {
  const on: [number, number][] = [];
  for (let k = 0; k < count; k++) {
    const beyond = way * (across[k]! - top);
    if (beyond >= 0 && beyond <= 4 * stoneWidth) on.push([beyond, elevation[k]!]);
  }
  on.sort((a, b) => a[0] - b[0]);
  let best: { at: number; drop: number; score: number } | undefined;
  for (let k = 3; k + 3 < on.length; k++) {
    const at = (on[k - 1]![0] + on[k]![0]) / 2;
    if (at < 0.5 * stoneWidth || at > 2 * stoneWidth) continue;
    const [near, far] = [meanOf(on.slice(0, k)), meanOf(on.slice(k))];
    const drop = near - far;
    const score = drop * Math.sqrt(Math.min(k, on.length - k));
    if (drop > Math.max(least / 2, 3 * residual) && (!best || score > best.score)) best = { at, drop, score };
  }
  if (!best) return undefined;
  const edge = best.at;
  return { at: top + way * edge, elevation: meanOf(on.filter(([beyond]) => beyond < edge)) };
}

function topOfStone(
  across: Float64Array,
  elevation: Float64Array,
  count: number,
  top: number,
  back: number,
  way: number,
): number {
  let [sum, n] = [0, 0];
  for (let k = 0; k < count; k++) {
    const x = across[k]!;
    if (way * (x - top) < 0 || way * (x - back) > 0) continue;
    sum += elevation[k]!;
    n++;
  }
  return n > 0 ? sum / n : NaN;
}

function meanOf(on: readonly [number, number][]): number {
  return on.reduce((sum, [, z]) => sum + z, 0) / Math.max(1, on.length);
}

/** Where a tone changes: two levels, left and right of a place; undefined where the change is within the scatter. */
export function findToneEdge(
  across: Float64Array,
  tone: Float64Array,
  count: number,
  reach: number,
): { readonly at: number; readonly strength: number } | undefined {
  if (count < 4 * LEAST_POINTS) return undefined;
  const moments = new Moments(across, tone, count);
  let best: { k: number; rest: number } | undefined;
  for (let k = LEAST_POINTS; k <= count - LEAST_POINTS; k++) {
    const t = (across[k - 1]! + across[k]!) / 2;
    if (t < -reach || t > reach) continue;
    const rest = moments.line(0, k, true).rest + moments.line(k, count, true).rest;
    if (!best || rest < best.rest) best = { k, rest };
  }
  if (!best) return undefined;
  const { k, rest } = best;
  const [left, right] = [moments.line(0, k, true).height, moments.line(k, count, true).height];
  const scatter = Math.sqrt(rest / Math.max(1, count - 2));
  const contrast = Math.abs(right - left) / Math.max(1e-9, scatter);
  const strength = (moments.line(0, count, true).rest - rest) / Math.max(1e-12, scatter * scatter);
  return contrast > LEAST_CONTRAST ? { at: (across[k - 1]! + across[k]!) / 2, strength } : undefined;
}

/** In scatters of either side: less is as often chance. */
const LEAST_CONTRAST = 1.2;
