export { Outline } from './outline.js';
export type { BoxRelation, Place } from './outline.js';
export { Stroke } from './stroke.js';
export { Projection } from './drawn-view.js';
export type { Box, DrawnView, PixelBox } from './drawn-view.js';
export type { Front } from './front.js';
export { RANGE_ATTRIBUTES, RETURN_KINDS } from './selection.js';
export type {
  NodeBits,
  RangeAttribute,
  ReturnKind,
  Selection,
  SelectionStep,
  Shape,
  StepKind,
  Visible,
} from './selection.js';
export { greenness, PreparedSelection, returnKind } from './prepared-selection.js';
export type { SelectablePoints } from './prepared-selection.js';
export { growPatch } from './grow-patch.js';
export type { PatchPlaces, PatchRule } from './grow-patch.js';
