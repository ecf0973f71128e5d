import type { Box, DrawnView } from './drawn-view.js';
import type { Place } from './outline.js';

/** Attributes that points can be selected by, with the unit their range is given in. */
export const RANGE_ATTRIBUTES = [
  'elevation',
  'intensity',
  'scan-angle',
  'gps-time',
  'strip',
  'greenness',
  'confidence',
  'accuracy',
  'number-of-returns',
] as const;
export type RangeAttribute = (typeof RANGE_ATTRIBUTES)[number];

export const RETURN_KINDS = ['single', 'first', 'last', 'intermediate'] as const;
export type ReturnKind = (typeof RETURN_KINDS)[number];

/** Points of one node, one bit each, lowest bit first. */
export interface NodeBits {
  readonly nodeId: number;
  readonly bits: Uint8Array;
}

/** Something that encloses points. Pixels are those of the view it was drawn in, y down. */
export type Shape =
  | { readonly kind: 'outline'; readonly view: DrawnView; readonly corners: readonly Place[] }
  | { readonly kind: 'stroke'; readonly view: DrawnView; readonly path: readonly Place[]; readonly radius: number }
  /** An outline in plan, in job coordinates; a buffer widens it on every side, a negative one narrows it. */
  | { readonly kind: 'boundary'; readonly corners: readonly Place[]; readonly buffer: number }
  | { readonly kind: 'range'; readonly attribute: RangeAttribute; readonly from?: number; readonly to?: number }
  | { readonly kind: 'returns'; readonly which: readonly ReturnKind[] }
  | { readonly kind: 'classes'; readonly classes: readonly number[] }
  | { readonly kind: 'points'; readonly nodes: readonly NodeBits[] }
  | { readonly kind: 'all' };

/** What could be seen when a step was taken: nothing else is touched by it. */
export interface Visible {
  readonly clouds?: readonly number[];
  readonly hiddenClasses: readonly number[];
  readonly withWithheld: boolean;
  readonly box?: Box;
  /** Only what this selects was shown. */
  readonly focus?: Selection;
}

/** `add` joins, `take` takes away, `keep` leaves only what is also in the shape, `invert` exchanges selected and not. */
export type StepKind = 'add' | 'take' | 'keep' | 'invert';

export interface SelectionStep {
  readonly how: StepKind;
  readonly shape: Shape;
  readonly visible: Visible;
  /** Only points that nothing stands in front of; for shapes drawn in a view. */
  readonly seenOnly?: boolean;
  /** How thick a surface may be to be seen as one, job units. */
  readonly thickness?: number;
}

/** Points told by how they were selected, step by step: the same steps select the same points wherever they are run. */
export type Selection = readonly SelectionStep[];
