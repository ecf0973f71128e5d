import { toRadians } from './attitude.js';
import { noCorrection, type Correction } from './correction.js';

/** What an adjustment may solve for, switched on group by group. */
export const UNKNOWN_GROUPS = [
  'boresight',
  'leverArm',
  'rangeOffset',
  'rangeScale',
  'angleScale',
  'stripHeight',
  'stripPlan',
  'stripTilt',
  'stripDrift',
  'timeHeight',
  'timePlan',
  'timeTilt',
] as const;
export type UnknownGroup = (typeof UNKNOWN_GROUPS)[number];

/** Groups that turn or stretch beams: without a trajectory they cannot be solved. */
export const TRAJECTORY_GROUPS: readonly UnknownGroup[] = UNKNOWN_GROUPS.filter(
  (group) => !['stripHeight', 'stripPlan', 'stripDrift'].includes(group),
);

/** One unknown: where it stands in a correction, and how large it can reasonably be. */
export interface Unknown {
  readonly group: UnknownGroup;
  /** Place of its strip in the list, or of its value in a spline. */
  readonly of?: number;
  readonly axis: number;
  /** What is known of it before: as a standard deviation, job units or radians. */
  readonly prior: number;
}

interface Known {
  readonly axes: readonly number[];
  /** Metres, radians or a share. */
  readonly prior: number;
  readonly isLength: boolean;
}

/**
 * How large each can be in practice. Far wider than what is found on flights, so that what the flight tells is hardly drawn to nothing; what stays as
 * wide as this is not told by the flight. Common practice, no source.
 */
const PRIORS: Readonly<Record<UnknownGroup, Known>> = {
  boresight: { axes: [0, 1, 2], prior: toRadians(2), isLength: false },
  leverArm: { axes: [0, 1, 2], prior: 0.3, isLength: true },
  rangeOffset: { axes: [0], prior: 0.3, isLength: true },
  rangeScale: { axes: [0], prior: 0.002, isLength: false },
  angleScale: { axes: [0], prior: 0.005, isLength: false },
  stripHeight: { axes: [2], prior: 0.5, isLength: true },
  stripPlan: { axes: [0, 1], prior: 0.5, isLength: true },
  stripTilt: { axes: [0, 1, 2], prior: toRadians(0.3), isLength: false },
  stripDrift: { axes: [2], prior: 0.3, isLength: true },
  timeHeight: { axes: [2], prior: 0.1, isLength: true },
  timePlan: { axes: [0, 1], prior: 0.1, isLength: true },
  timeTilt: { axes: [3, 4, 5], prior: toRadians(0.05), isLength: false },
};

export interface SplineFrame {
  readonly start: number;
  readonly step: number;
  readonly count: number;
}

/** All unknowns of the groups, in a fixed order. */
export function unknownsOf(
  groups: readonly UnknownGroup[],
  strips: number,
  spline: SplineFrame | undefined,
  metre: number,
): Unknown[] {
  return UNKNOWN_GROUPS.filter((group) => groups.includes(group)).flatMap((group) => {
    const { axes, prior, isLength } = PRIORS[group];
    const width = isLength ? prior / metre : prior;
    const each = group.startsWith('strip') ? strips : group.startsWith('time') ? (spline?.count ?? 0) : undefined;
    if (each === undefined) return axes.map((axis) => ({ group, axis, prior: width }));
    return axes.flatMap((axis) => Array.from({ length: each }, (_, of) => ({ group, of, axis, prior: width })));
  });
}

/** A correction of the values of some unknowns. */
export function correctionOf(
  unknowns: readonly Unknown[],
  values: Float64Array,
  base: Pick<Correction, 'spans' | 'leverArm'>,
  spline: SplineFrame | undefined,
): Correction {
  const made = noCorrection(base.spans, [...base.leverArm]);
  const lists: [number[], number[], number[], number[], number[], number[]] = [[], [], [], [], [], []];
  unknowns.forEach(({ group, of = 0, axis }, k) => {
    const value = values[k]!;
    if (group === 'boresight') made.boresight[axis] = value;
    else if (group === 'leverArm') made.leverArmChange[axis] = value;
    else if (group === 'rangeOffset') made.rangeOffset = value;
    else if (group === 'rangeScale') made.rangeScale = value;
    else if (group === 'angleScale') made.angleScale = value;
    else if (group === 'stripHeight' || group === 'stripPlan') made.strips[of]!.shift[axis] = value;
    else if (group === 'stripTilt') made.strips[of]!.tilt[axis] = value;
    else if (group === 'stripDrift') made.strips[of]!.drift[axis] = value;
    else {
      if (lists[axis]!.length === 0) lists[axis] = new Array<number>(spline!.count).fill(0);
      lists[axis]![of] = value;
    }
  });
  if (spline && lists.some((list) => list.length > 0)) made.spline = { ...spline, values: lists };
  return made;
}
