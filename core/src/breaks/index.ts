export { PointField, type FieldPoints } from './point-field.js';
export { BREAK_KINDS, STRANDS, type BreakKind, type BreakOptions } from './break-kinds.js';
export { followBreak, followFrom, type FoundBreak } from './follow-break.js';
export { findStep, type Step, type StepLimits } from './step-profile.js';
export { findBends, type Bend, type BentProfile } from './bend-profile.js';
export { findBreaks, type FindOptions } from './find-breaks.js';
