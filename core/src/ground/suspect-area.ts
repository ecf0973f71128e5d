import type { RasterFrame } from '../raster/index.js';

export const SUSPECT_KINDS = ['spike', 'pit', 'hole', 'roof', 'step', 'thin'] as const;
export type SuspectKind = (typeof SUSPECT_KINDS)[number];

/** A place where the ground is most likely wrong. */
export interface SuspectArea {
  readonly kind: SuspectKind;
  readonly easting: number;
  readonly northing: number;
  /** Of the ground there; of the ground about it where there is none; half way up a step. */
  readonly elevation: number;
  /** Across, job units. */
  readonly width: number;
  /** How far off or how high, job units; for thin support the share of points that are ground. */
  readonly size: number;
  /** Corners of the place's outline, counter-clockwise, job units. */
  readonly outline: readonly (readonly [number, number])[];
  /** More is more likely wrong, or worse if wrong. */
  readonly weight: number;
}

/** What is known of each cell. */
export interface SuspectGrid extends RasterFrame {
  /** Ground points and their mean elevation, NaN where there are none. */
  readonly ground: Uint32Array;
  readonly elevation: Float64Array;
  /** Points that account for a cell without ground: buildings, water. */
  readonly settled: Uint32Array;
  /** All points but noise. */
  readonly all: Uint32Array;
}

export interface SuspectLimits {
  /** A patch this far off the plane that the land about it lies in is a spike or a pit, job units. */
  readonly spike: number;
  /** A place without ground this wide is a hole, job units. */
  readonly hole: number;
  /** Ground that stands this high over what lies about it is like a roof, job units. */
  readonly roof: number;
  /** A step this high between neighbouring cells is abrupt on even land, job units; on rough land it has to be higher. */
  readonly step: number;
  /** Fewer of the points than this are ground: thin support. */
  readonly share: number;
}
