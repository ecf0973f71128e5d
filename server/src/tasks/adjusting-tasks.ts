import {
  adjustStrips,
  PoseFinder,
  type Adjustment,
  type AdjustmentSettings,
  type ControlObservation,
  type Correction,
  type PatchPairs,
  type Trajectory,
} from '@pampero/core/strips';

/** One adjustment, in a thread. */
export function adjust(task: {
  readonly pairs: PatchPairs;
  readonly control: readonly ControlObservation[];
  readonly base: Pick<Correction, 'spans' | 'leverArm'>;
  readonly trajectory: Trajectory | undefined;
  readonly settings: AdjustmentSettings;
}): Adjustment {
  const finder = task.trajectory && new PoseFinder(task.trajectory);
  return adjustStrips(task.pairs, task.control, task.base, finder, task.settings);
}
