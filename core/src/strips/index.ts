export { bodyToLocal, rotateBy, toDegrees, toRadians, wrapAngle } from './attitude.js';
export {
  ACCURACY_COLUMNS,
  medianStep,
  orderedTrajectory,
  POSE_LENGTH,
  PoseFinder,
  TRAJECTORY_COLUMNS,
  type Trajectory,
} from './trajectory.js';
export type { StripSection } from './strip-section.js';
export { proposeGroups, type ProposedGroups } from './propose-groups.js';
export { correctedTrajectory } from './corrected-trajectory.js';
export {
  ADJUSTED,
  checkTrajectory,
  clockOf,
  clockShift,
  WEEK_SECONDS,
  type Clock,
  type TrajectoryCheck,
} from './check-trajectory.js';
export {
  NO_STRIP,
  spansAt,
  spansByGaps,
  STRAIGHT_RUNS,
  straightRuns,
  stripsOfPoints,
  type StraightRunSettings,
  type StripRule,
  type StripSpan,
} from './strip-finder.js';
export {
  georeference,
  mountingMatrix,
  PLAIN_SENSOR,
  type GeoreferencedPoints,
  type RawScan,
  type ScanLimits,
  type Sensor,
} from './georeference.js';
export {
  choosePairs,
  fitPatches,
  joinPairs,
  LEAST_POINTS,
  pairPatches,
  smoothRoughness,
  type Patches,
  type PatchFrame,
  type PatchLimits,
  type PatchPairs,
  type StripPoints,
} from './patches.js';
export {
  differencesOf,
  facesEnough,
  facingShares,
  FACING_SLOPE,
  histogram,
  relativeLimits,
  summarise,
  summariseByPair,
  type DifferenceSummary,
  type FacingShares,
  type PairDifference,
} from './differences.js';
export {
  Corrector,
  needsTrajectory,
  noCorrection,
  stationOf,
  type Correction,
  type StripPart,
  type TimeSpline,
} from './correction.js';
export {
  adjustStrips,
  MOST_UNKNOWNS,
  type AdjustedUnknown,
  type Adjustment,
  type AdjustmentSettings,
  type ControlObservation,
} from './adjustment.js';
export { TRAJECTORY_GROUPS, UNKNOWN_GROUPS, type UnknownGroup } from './unknowns.js';
export { balancedPairs } from './choose-pairs.js';
export { fitHeights, heightAt, type HeightCorrection, type HeightMethod, type HeightResidual } from './control-fit.js';
export {
  applySimilarity,
  fitSimilarity,
  fitTargets,
  TARGET_FITS,
  type Similarity,
  type TargetFit,
} from './similarity.js';
export { cellsOf, keptStrips, type OverlapFrame, type OverlapPoints } from './overlap.js';
export { smoothedPlaces, type SmoothSettings } from './smooth-surfaces.js';
export { addCorrections } from './add-corrections.js';
