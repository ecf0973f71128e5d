import type { PlanBounds } from '../raster/index.js';

export interface ContourOptions {
  /** Between neighbouring contours, job units. */
  readonly interval: number;
  /** An elevation that the contours pass through. */
  readonly base: number;
  /** Every n-th contour counted from the base is an index contour; 0 for none. */
  readonly indexEvery: number;
  /** Lines shorter than this are left out; job units, 0 keeps all. */
  readonly minimumLength: number;
  /** Contours lower or higher than these are left out. */
  readonly from?: number | undefined;
  readonly to?: number | undefined;
  /** Full coordinates. A line that ends on an edge of it goes on in the neighbouring square, and is kept however short. */
  readonly square?: PlanBounds | undefined;
}

export const contourDefaults: ContourOptions = { interval: 0.5, base: 0, indexEvery: 5, minimumLength: 0 };

/** Contours as columns. Line l has vertices `starts[l]` up to but not including `starts[l + 1]`. */
export interface ContourSet {
  readonly origin: readonly [number, number];
  /** Elevation of each line. */
  readonly level: Float64Array;
  readonly isIndex: Uint8Array;
  /** 1 where the line closes on itself; its first vertex is then repeated at its end. */
  readonly isClosed: Uint8Array;
  /** 1 where lower ground lies inside a closed line. */
  readonly isDepression: Uint8Array;
  /** 1 where few ground points stand behind the line: drawn dashed. */
  readonly isObscured: Uint8Array;
  readonly starts: Uint32Array;
  readonly easting: Float64Array;
  readonly northing: Float64Array;
}

/** Contours with the facet that each vertex was reached through; of a line’s first vertex that of the second. */
export interface TracedContours {
  readonly contours: ContourSet;
  readonly facetOf: Uint32Array;
}
