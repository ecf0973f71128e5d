export { agreementCounts, agreementOf } from './agreement.js';
export type { Agreement } from './agreement.js';
export { differencePattern } from './control-differences.js';
export type { ControlDifference, DifferencePattern } from './control-differences.js';
export { localElevation } from './local-elevation.js';
export type { LocalElevation } from './local-elevation.js';
export {
  accuracyStatement,
  ENOUGH_POINTS,
  percentile,
  saysVegetated,
  type AccuracyStatement,
  type CheckedPoint,
  type Spread,
} from './statement.js';
