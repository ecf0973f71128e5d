import {
  cornerAt,
  cornerBetween,
  distanceToLeg,
  legCount,
  legIndex,
  type Corner,
  type LineShape,
} from '../lines/index.js';
import { profileOf, type Profile } from '../profiles/index.js';
import type { Tin } from '../terrain/index.js';
import { FacetIndex } from '../volumes/facet-index.js';

export interface SlopeSettings {
  /** Run over rise: 2 is a slope of 1 in 2. */
  readonly fill: number;
  readonly cut: number;
  /** Slope lines stand no further apart along the edge, job units. */
  readonly step: number;
  /** A slope is not followed further than this in plan, job units. */
  readonly reach: number;
}

/** A line down or up the side slope, square to the edge. */
export interface SlopeLine {
  readonly top: Corner;
  readonly foot: Corner;
  /** What it ends at: the ground, the slope of another part of the edge, or neither within reach of the ground's surface. */
  readonly endsAt: 'ground' | 'slope' | 'nothing';
}

/** Round a corner slope lines stand no further apart than this. */
const FAN = (10 * Math.PI) / 180;
/** Lengths and heights below this are nothing, job units. */
const NOTHING = 1e-6;
/** Halvings of a length that find where something begins. */
const HALVINGS = 40;
/** A bend of less is none, as a sine. */
const STRAIGHT = 1e-6;

/**
 * Slope lines from an edge to the ground, in order along it: square to the edge, in fans round its outer corners. Each belongs to the part of the edge that
 * is nearest in plan, so that slopes meet in the middle between two parts and none runs through another.
 * @param edge - closed, counter-clockwise, with elevations
 */
export function sideSlopes(edge: LineShape, ground: Tin, settings: SlopeSettings): SlopeLine[] {
  const facets = new FacetIndex(ground, ground.origin);
  const index = legIndex(edge);
  const legs = legCount(edge);
  const out: SlopeLine[] = [];
  for (let leg = 0; leg < legs; leg++) {
    const [a, b] = [cornerAt(edge, leg), cornerAt(edge, (leg + 1) % legs)];
    const before = normalOf((leg + legs - 1) % legs);
    const normal = normalOf(leg);
    cornerLines(a, before, normal);
    const places = placesAlong(a, b);
    places.forEach((share, k) => {
      const line = follow(cornerBetween(a, b, share), normal);
      refine(a, b, places[k - 1] ?? 0, share, normal, line);
      out.push(line);
    });
  }
  return out;

  /** To the right of a leg, which is outwards. */
  function normalOf(leg: number): Direction {
    const [a, b] = [cornerAt(edge, leg), cornerAt(edge, (leg + 1) % legs)];
    const length = Math.hypot(b.e - a.e, b.n - a.n) || 1;
    return [(b.n - a.n) / length, -(b.e - a.e) / length];
  }

  function cornerLines(corner: Corner, before: Direction, after: Direction): void {
    const turn = before[0] * after[1] - before[1] * after[0];
    const along = before[0] * after[0] + before[1] * after[1];
    if (Math.abs(turn) < STRAIGHT && along > 0) {
      out.push(follow(corner, after));
      return;
    }
    if (turn < 0) {
      // An inner corner: the two slopes meet in the middle, which falls less steeply than they do.
      const [e, n] = [before[0] + after[0], before[1] + after[1]];
      const length = Math.hypot(e, n);
      if (length > STRAIGHT) out.push(follow(corner, [e / length, n / length], length / 2));
      return;
    }
    const angle = Math.atan2(turn, along);
    const count = Math.max(1, Math.ceil(angle / FAN));
    for (let k = 0; k <= count; k++) {
      const [sin, cos] = [Math.sin((angle * k) / count), Math.cos((angle * k) / count)];
      out.push(follow(corner, [before[0] * cos - before[1] * sin, before[0] * sin + before[1] * cos]));
    }
  }

  /** Shares of a leg at which slope lines stand: every step, and where the design passes through the ground. */
  function placesAlong(a: Corner, b: Corner): number[] {
    const length = Math.hypot(b.e - a.e, b.n - a.n);
    const pieces = Math.max(1, Math.ceil(length / settings.step));
    const shares = Array.from({ length: pieces - 1 }, (_, k) => (k + 1) / pieces);
    const { station, elevation } = profileOf(ground, [[a.e, a.n], [b.e, b.n]], facets); // prettier-ignore
    const over = (k: number): number => a.z + ((b.z - a.z) * station[k]!) / length - elevation[k]!;
    for (let k = 1; k < station.length; k++) {
      const [p, q] = [over(k - 1), over(k)];
      if (!(p * q < 0)) continue;
      shares.push((station[k - 1]! + ((station[k]! - station[k - 1]!) * p) / (p - q)) / length);
    }
    return shares.filter((share) => share > 0 && share < 1).sort((p, q) => p - q);
  }

  /** Where slope lines begin to end at another slope, the last that reaches the ground is put in. */
  function refine(a: Corner, b: Corner, from: number, to: number, normal: Direction, line: SlopeLine): void {
    const last = out.at(-1);
    if (!last || from === 0 || (last.endsAt === 'slope') === (line.endsAt === 'slope')) return;
    let [low, high] = [from, to];
    let found: SlopeLine | undefined;
    for (let turn = 0; turn < HALVINGS / 2; turn++) {
      const middle = (low + high) / 2;
      const tried = follow(cornerBetween(a, b, middle), normal);
      if (tried.endsAt !== 'slope') found = tried;
      if (tried.endsAt === last.endsAt) low = middle;
      else high = middle;
    }
    if (found) out.push(found);
  }

  /** @param steepness - how much of the slope there is in this direction: 1 square to the edge */
  function follow(top: Corner, [ue, un]: Direction, steepness = 1): SlopeLine {
    const at = (t: number, z: number): Corner => ({ ...top, e: top.e + ue * t, n: top.n + un * t, z });
    const profile = (length: number): Profile =>
      profileOf(ground, [[top.e, top.n], [top.e + ue * length, top.n + un * length]], facets); // prettier-ignore
    const first = profile(Math.min(settings.step, settings.reach)).elevation[0] ?? NaN;
    const over = top.z - first;
    if (Number.isNaN(over)) return { top, foot: top, endsAt: 'nothing' };
    if (Math.abs(over) < NOTHING) return { top, foot: top, endsAt: 'ground' };
    const rise = (over > 0 ? -1 / settings.fill : 1 / settings.cut) * steepness;
    let met: { readonly t: number; readonly isGround: boolean };
    // Further and further: most slopes end near, and a long profile over much land costs.
    for (let length = Math.min(settings.reach, 4 * Math.abs(over / rise)); ; length *= 4) {
      const tried = Math.min(length, settings.reach);
      met = meetingOf(profile(tried), top.z, rise);
      if (met.isGround || tried === settings.reach || met.t < tried - NOTHING) break;
    }
    // Nearest to its own part of the edge up to here?
    const isOwn = (t: number): boolean => !isNearAnother(top.e + ue * t, top.n + un * t, t * steepness);
    if (!isOwn(met.t)) {
      let [low, high] = [0, met.t];
      for (let turn = 0; turn < HALVINGS; turn++) {
        const middle = (low + high) / 2;
        if (isOwn(middle)) low = middle;
        else high = middle;
      }
      return { top, foot: at(low, top.z + rise * low), endsAt: 'slope' };
    }
    return { top, foot: at(met.t, top.z + rise * met.t), endsAt: met.isGround ? 'ground' : 'nothing' };
  }

  function isNearAnother(e: number, n: number, distance: number): boolean {
    const reach = distance * (1 - 1e-7) - NOTHING;
    return (
      reach > 0 &&
      index!.search(e - reach, n - reach, e + reach, n + reach).some((leg) => distanceToLeg(edge, leg, e, n) < reach)
    );
  }
}

type Direction = readonly [e: number, n: number];

/** How far a straight slope runs before it meets a profile, or before that ends. */
function meetingOf(
  { station, elevation }: Profile,
  z: number,
  rise: number,
): { readonly t: number; readonly isGround: boolean } {
  const over = (k: number): number => z + rise * station[k]! - elevation[k]!;
  for (let k = 1; k < station.length; k++) {
    const [p, q] = [over(k - 1), over(k)];
    if (Number.isNaN(q)) return { t: station[k - 1]!, isGround: false };
    if (rise < 0 ? q > 0 : q < 0) continue;
    return { t: station[k - 1]! + ((station[k]! - station[k - 1]!) * p) / (p - q || 1), isGround: true };
  }
  return { t: station.at(-1) ?? 0, isGround: false };
}
