import { findBends } from './bend-profile.js';
import { firstFrom, Moments } from './moments.js';
import type { Slab } from './point-field.js';
import { findStep, findToneEdge } from './step-profile.js';

export const BREAK_KINDS = ['kerb', 'wall', 'bank', 'ridge', 'ditch', 'track', 'bend', 'tone'] as const;
export type BreakKind = (typeof BREAK_KINDS)[number];

/** What is looked for across a guide; lengths in job units, slopes as rise over run. */
export interface BreakOptions {
  readonly kind: BreakKind;
  /** Of kerbs and walls: between foot and top. */
  readonly leastHeight: number;
  readonly mostHeight: number;
  readonly faceWidth: number;
  /** Of a kerb: width of the stone, 0 to look for no back. */
  readonly stoneWidth: number;
  /** Of banks and bends: how much the slope changes at least. */
  readonly leastTurn: number;
  /** Half the width of a profile. */
  readonly halfProfile: number;
  /** How far from the guide the break may lie. */
  readonly reach: number;
  /** Gaps up to this are bridged. */
  readonly longestGap: number;
}

/** The lines that a kind gives, in the order of {@link ProfileFit.strands}. */
export const STRANDS: Readonly<Record<BreakKind, readonly string[]>> = {
  kerb: ['foot', 'top', 'back'],
  wall: ['foot', 'top'],
  bank: ['top', 'toe'],
  ridge: ['line'],
  ditch: ['line'],
  track: ['left', 'right'],
  bend: ['line'],
  tone: ['line'],
};

/** Kinds that are told by the ground to either side of two bends: their profiles are wide. */
export const hasTwoBends = (kind: BreakKind): boolean => kind === 'bank' || kind === 'track';

/** What a profile across a break shows. */
export interface ProfileFit {
  /** Place across and elevation of each strand; undefined where this profile does not show it. */
  readonly strands: readonly ({ readonly at: number; readonly elevation: number } | undefined)[];
  /** The place that is followed from profile to profile. */
  readonly centre: number;
  readonly residual: number;
  /** How much the break explains of the profile: the squares it takes out, in variances of what is left. */
  readonly strength: number;
  /** Which way it lies: 1 where the higher side is to the right, 0 where neither is. */
  readonly side: number;
}

/** Bends are tried at places this share of a profile's half width apart. */
const RASTER = 1 / 24;

/** Looks for the break in one profile, at most `reach` from its middle. */
export function fitProfile(
  { across, elevation, tone }: Slab,
  count: number,
  options: BreakOptions,
  reach: number,
): ProfileFit | undefined {
  const { kind, halfProfile, leastTurn } = options;
  switch (kind) {
    case 'kerb':
    case 'wall': {
      const step = findStep(across, elevation, count, {
        ...{ least: options.leastHeight, most: options.mostHeight, faceWidth: options.faceWidth, reach },
        stoneWidth: kind === 'kerb' ? options.stoneWidth : 0,
      });
      if (!step) return undefined;
      const strands = [
        { at: step.foot, elevation: step.footElevation },
        { at: step.top, elevation: step.topElevation },
        ...(kind === 'kerb' ? [step.back] : []),
      ];
      return {
        strands,
        centre: (step.foot + step.top) / 2,
        residual: step.residual,
        strength: step.strength,
        side: step.isUpRight ? 1 : -1,
      };
    }
    case 'bank': {
      const bent = twoBends({ across, elevation }, count, options, reach);
      if (!bent) return undefined;
      const [left, middle, right] = bent.slopes;
      const { first, second, centre } = bent;
      const isSteep =
        Math.abs(middle) > Math.max(Math.abs(left), Math.abs(right)) &&
        Math.min(Math.abs(first.turn), Math.abs(second.turn)) >= leastTurn &&
        first.turn * second.turn < 0;
      if (!isSteep) return undefined;
      if (Math.abs(centre) > reach) return undefined;
      const [top, toe] = middle < 0 ? [first, second] : [second, first];
      return {
        strands: [top, toe],
        centre,
        residual: bent.residual,
        strength: bent.strength,
        side: middle > 0 ? 1 : -1,
      };
    }
    case 'track': {
      const bent = twoBends({ across, elevation }, count, options, reach);
      if (!bent) return undefined;
      const [left, middle, right] = bent.slopes;
      const { first, second, centre } = bent;
      // Flatter than what falls off, or climbs, to either side: on a bank of its own, or worn into the ground.
      const isTrack =
        Math.abs(middle) < Math.min(Math.abs(left), Math.abs(right)) &&
        Math.min(Math.abs(first.turn), Math.abs(second.turn)) >= leastTurn &&
        first.turn * second.turn > 0;
      if (!isTrack) return undefined;
      if (Math.abs(centre) > reach) return undefined;
      return {
        strands: [first, second],
        centre,
        residual: bent.residual,
        strength: bent.strength,
        side: Math.sign(first.turn),
      };
    }
    case 'ridge':
    case 'ditch':
    case 'bend': {
      const bent = findBends(across, elevation, count, { bends: 1, reach, raster: halfProfile * RASTER, least: 0 });
      const bend = bent?.bends[0];
      if (!bent || !bend || Math.abs(bend.turn) < leastTurn) return undefined;
      const [left, right] = bent.slopes as [number, number];
      if (kind === 'ridge' && !(left > 0 && right < 0)) return undefined;
      if (kind === 'ditch' && !(left < 0 && right > 0)) return undefined;
      return {
        strands: [bend],
        centre: bend.at,
        residual: bent.residual,
        strength: bent.strength,
        side: Math.sign(bend.turn),
      };
    }
    case 'tone': {
      const edge = findToneEdge(across, tone, count, reach);
      if (!edge) return undefined;
      const from = firstFrom(across, count, edge.at - halfProfile / 2);
      const to = firstFrom(across, count, edge.at + halfProfile / 2);
      const line = new Moments(across, elevation, count).line(from, to);
      const elevationThere = line.height + line.slope * edge.at;
      const residual = Math.sqrt(line.rest / Math.max(1, to - from - 2));
      return {
        strands: [{ at: edge.at, elevation: elevationThere }],
        centre: edge.at,
        residual,
        strength: edge.strength,
        side: 0,
      };
    }
  }
}

/** The profile with two bends, which a bank and a track have. */
function twoBends(
  { across, elevation }: Pick<Slab, 'across' | 'elevation'>,
  count: number,
  { halfProfile }: BreakOptions,
  reach: number,
) {
  const raster = halfProfile * RASTER;
  const bent = findBends(across, elevation, count, { bends: 2, reach: Math.min(halfProfile * 0.9, reach + halfProfile * 0.6), raster, least: 3 * raster }); // prettier-ignore
  if (!bent) return undefined;
  const [first, second] = bent.bends as [(typeof bent.bends)[number], (typeof bent.bends)[number]];
  const slopes = bent.slopes as readonly [number, number, number];
  return { ...bent, slopes, first, second, centre: (first.at + second.at) / 2 };
}
