import { upperMedian } from '../measuring/index.js';
import { fitProfile, hasTwoBends, type BreakOptions } from './break-kinds.js';
import { followFrom, pace, type FoundBreak } from './follow-break.js';
import { Moments } from './moments.js';
import { Slab, type PointField } from './point-field.js';

export interface FindOptions {
  /** Shorter lines are left out, job units. */
  readonly leastLength: number;
  /** Share of the profiles along a line that must show it. */
  readonly leastAgree: number;
}

/** Directions that are tried at each place. */
const DIRECTIONS = 8;
/** Beside the square to the slope, radians. */
const ASIDE = 0.35;
/** Land that leaves this many times the usual residual of a straight profile is worth a closer look. */
const WORTH = 1.5;

/** Of the middle profile of a line: what chance lines up from profile to profile explains half as much. */
const LEAST_STRENGTH = 70;

interface Seed {
  readonly at: readonly [number, number];
  readonly direction: readonly [number, number];
  readonly strength: number;
}

/**
 * Finds every break of a kind: places on a raster where a profile across shows it, the clearest first, each followed both ways until it
 * ends. The same points give the same lines, in whatever order they come.
 * @param report - told the share that is done
 */
export function findBreaks(
  field: PointField,
  options: BreakOptions,
  { leastLength, leastAgree }: FindOptions,
  report: (share: number) => void = () => undefined,
): FoundBreak[] {
  const { step } = pace(field, options);
  const seeds = seedsOf(field, options, (share) => report(0.6 * share));
  const taken = new Set<string>();
  const cellOf = (column: number, row: number): string => `${column} ${row}`;
  const isTaken = (e: number, n: number): boolean => taken.has(cellOf(Math.floor(e / step), Math.floor(n / step)));
  /** Cells about a place, as far as a line reaches to either side of its middle and a step more. */
  const take = (e: number, n: number, halfWidth: number): void => {
    const reach = Math.ceil(halfWidth / step) + 1;
    const [column, row] = [Math.floor(e / step), Math.floor(n / step)];
    for (let dc = -reach; dc <= reach; dc++)
      for (let dr = -reach; dr <= reach; dr++)
        if (dc * dc + dr * dr <= (reach + 0.5) ** 2) taken.add(cellOf(column + dc, row + dr));
  };
  const found: FoundBreak[] = [];
  seeds.forEach((seed, k) => {
    report(0.6 + (0.4 * k) / seeds.length);
    if (isTaken(...seed.at)) return;
    const lines = followFrom(field, seed.at, seed.direction, options, isTaken);
    for (const line of lines) {
      // Where profiles are laid anew, a line may slide onto one that was there before.
      const again = line.axis.filter((place) => isTaken(...place)).length / line.axis.length;
      const isGood = line.length >= leastLength && line.agree >= leastAgree && line.strength >= LEAST_STRENGTH;
      if (isGood && again < MOST_AGAIN) found.push(line);
    }
    take(...seed.at, 0);
    for (const { axis, halfWidth } of lines) for (const place of between(axis, step)) take(...place, halfWidth);
  });
  return found.sort((a, b) => b.length - a.length || a.axis[0]![0] - b.axis[0]![0]);
}

/** Share of a line that may lie on another. */
const MOST_AGAIN = 0.5;

/** Corners, and places between them no further apart than a step. */
function* between(corners: readonly (readonly [number, number])[], step: number): Generator<readonly [number, number]> {
  for (let k = 0; k < corners.length; k++) {
    const [b, a] = [corners[k]!, corners[Math.max(0, k - 1)]!];
    const pieces = Math.max(1, Math.ceil(Math.hypot(b[0] - a[0], b[1] - a[1]) / step));
    for (let p = 1; p <= pieces; p++) yield [a[0] + ((b[0] - a[0]) * p) / pieces, a[1] + ((b[1] - a[1]) * p) / pieces];
  }
}

/** Where profiles show the break, the clearest first. */
function seedsOf(field: PointField, options: BreakOptions, report: (share: number) => void): Seed[] {
  const { slab: along, step } = pace(field, options);
  const { halfProfile, kind } = options;
  const slab = new Slab();
  const { west, south, east, north } = field.bounds;
  const isByTone = kind === 'tone';
  const every = Math.max(step, hasTwoBends(kind) ? halfProfile / 2 : step);
  const places: { at: [number, number]; rough: number }[] = [];
  const columns = Math.ceil((east - west) / every);
  const rows = Math.ceil((north - south) / every);
  for (let row = 0; row < rows; row++) {
    for (let column = 0; column < columns; column++) {
      const at: [number, number] = [west + (column + 0.5) * every, south + (row + 0.5) * every];
      // Two profiles at right angles: a break shows in one of them at least.
      let rough = 0;
      for (const direction of [[1, 0], [0, 1]] as const) {
        const count = field.slabInto(at, direction, along / 2, halfProfile, slab);
        if (count < 8) continue;
        const { rest } = new Moments(slab.across, isByTone ? slab.tone : slab.elevation, count).line(0, count, isByTone);
        rough = Math.max(rough, Math.sqrt(rest / (count - 2)));
      } // prettier-ignore
      if (rough > 0) places.push({ at, rough });
    }
    report((0.3 * (row + 1)) / rows);
  }
  const usual = upperMedian(places.map(({ rough }) => rough)) ?? 0;
  const worth = places.filter(({ rough }) => rough > WORTH * usual || places.length < 64);
  const seeds: Seed[] = [];
  const all = Array.from({ length: DIRECTIONS }, (_, d) => (Math.PI * d) / DIRECTIONS);
  /** What climbs runs square to the steepest slope; a crest or an edge in tone may run anywhere. */
  const anglesAt = (at: readonly [number, number]): readonly number[] => {
    if (kind === 'ridge' || kind === 'ditch' || kind === 'track' || isByTone) return all;
    const [east, north] = (
      [
        [1, 0],
        [0, 1],
      ] as const
    ).map((direction) => {
      const count = field.slabInto(at, direction, halfProfile / 2, halfProfile / 2, slab);
      return count < 8 ? 0 : new Moments(slab.across, slab.elevation, count).line(0, count).slope;
    }) as [number, number]; // to the right of east is south, to the right of north is east
    const along = Math.atan2(north, east);
    return [along, along + ASIDE, along - ASIDE];
  };
  worth.forEach(({ at, rough }, k) => {
    let best: Seed | undefined;
    for (const angle of anglesAt(at)) {
      const direction = [Math.cos(angle), Math.sin(angle)] as const;
      const count = field.slabInto(at, direction, along / 2, halfProfile + every, slab);
      const fit = fitProfile(slab, count, options, every);
      if (!fit) continue;
      const strength = rough / Math.max(1e-6, fit.residual);
      if (!best || strength > best.strength)
        best = { at: [at[0] + direction[1] * fit.centre, at[1] - direction[0] * fit.centre], direction, strength };
    }
    if (best) seeds.push(best);
    if (k % 64 === 0) report(0.3 + (0.7 * k) / worth.length);
  });
  return seeds.sort((a, b) => b.strength - a.strength || a.at[0] - b.at[0] || a.at[1] - b.at[1]);
}
