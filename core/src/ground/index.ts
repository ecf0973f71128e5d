export { addLowestPoints, mergeLowestRaster, newLowestRaster, rejectLowOutliers } from './lowest-raster.js';
export type { LowestRaster } from './lowest-raster.js';
export { clothDefaults, settleCloth } from './cloth.js';
export type { ClothOptions, LandShape } from './cloth.js';
export { densifyDefaults, densifyTin } from './progressive-tin.js';
export type { DensifyOptions } from './progressive-tin.js';
export { classifyAgainstSurface } from './surface-classification.js';
export type { GroundRule } from './surface-classification.js';
export {
  addNearPoints,
  classifyAgainstPlanes,
  groundPlanes,
  heightAt,
  mergeNearSums,
  newNearSums,
  type GroundBatch,
  type GroundPlanes,
  type NearSums,
} from './ground-planes.js';
export {
  addGreenness,
  doubtOfConfidence,
  doubtOfGreen,
  excessGreen,
  greennessLimit,
  newGreennessHistogram,
  strongerDoubt,
  tooDoubtful,
  type GreennessHistogram,
} from './doubtful-points.js';
export {
  bandOf,
  CROWD_METRES,
  findGround,
  firstSurface,
  GROUND_METHODS,
  lookAgain,
  surfaceOver,
  type GroundSettings,
} from './find-ground.js';
export { refuseOvergrown } from './refuse-overgrown.js';
export { rejectUnsupported } from './unsupported-patches.js';
export { proposeGround, type GroundEvidence, type GroundProposal } from './ground-proposal.js';
export { pointEvidence, steepSlope, type PointEvidence } from './ground-evidence.js';
export { groundNoise, stripDisagreement, type PointColumns3, type StripPoints } from './piece-planes.js';
export {
  SUSPECT_KINDS,
  type SuspectGrid,
  type SuspectKind,
  type SuspectLimits,
  type SuspectArea,
} from './suspect-area.js';
export { suspectLimits, findSuspectAreas } from './suspect-areas.js';
