import {
  adjustStrips,
  PoseFinder,
  proposeGroups,
  type Adjustment,
  type AdjustmentSettings,
  type ControlObservation,
  type Correction,
  type PatchPairs,
  type ProposedGroups,
  type Trajectory,
} from '@pampero/core/strips';

export interface FlightToAdjust {
  readonly pairs: PatchPairs;
  readonly control: readonly ControlObservation[];
  readonly base: Pick<Correction, 'spans' | 'leverArm'>;
  readonly trajectory: Trajectory | undefined;
}

/** One adjustment, in a thread. */
export function adjust(task: FlightToAdjust & { readonly settings: AdjustmentSettings }): Adjustment {
  const finder = task.trajectory && new PoseFinder(task.trajectory);
  return adjustStrips(task.pairs, task.control, task.base, finder, task.settings);
}

/** Which errors a flight has, in a thread. */
export function proposeUnknowns(
  task: FlightToAdjust & { readonly settings: Omit<AdjustmentSettings, 'groups'> },
): ProposedGroups {
  const finder = task.trajectory && new PoseFinder(task.trajectory);
  return proposeGroups(task.pairs, task.control, task.base, finder, task.settings);
}
