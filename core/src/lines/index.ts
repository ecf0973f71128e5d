export { isAreaRole, isSoftRole, LINE_ROLES, LINE_ROLE_NAMES, type LineRole } from './line-roles.js';
export { CODE_OF_ROLE, DEFAULT_CODES, LINE_STYLES, type FeatureCode, type LineStyle } from './code-list.js';
export {
  CORNER_SOURCE_NAMES,
  CORNER_SOURCES,
  cornerAt,
  cornerBetween,
  cornersOf,
  legCount,
  planLength,
  shapeOf,
  sourceNumber,
  stationsOf,
  type Corner,
  type CornerSource,
  type LineShape,
} from './line-shape.js';
export { packLines, unpackLines, type FeatureLine } from './feature-line.js';
export { simplifyLine } from './simplify-line.js';
export { densifyLine } from './densify-line.js';
export { smoothLine } from './smooth-line.js';
export { distanceToLeg, nearerEnd, nearestOnLeg, offsetLine } from './offset-line.js';
export { LINE_SHAPERS, type ShapingSettings } from './shape-line.js';
export { fillElevations, gradeLine } from './grade-line.js';
export {
  extendLine,
  joinLines,
  reverseLine,
  splitLine,
  trimLine,
  withCorner,
  withCornerAt,
  withoutCorner,
  type LinePlace,
} from './cut-line.js';
export { crossingsOf, legIndex, selfCrossings, type LegCrossing } from './segments.js';
export { LineIndex, MAGNETS, MAGNET_NAMES, type Magnet, type Snap } from './snap.js';
export { joinEnds, type JoinedLine } from './join-ends.js';
export { LineError, type LineErrorCode } from './line-error.js';
