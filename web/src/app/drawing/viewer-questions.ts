import type { CleaningFilter } from '@pampero/core/cleaning';
import type { ColourMode } from './colour-modes';
import type { ViewId } from './view-id';

export interface PickedPoint {
  /** Exact coordinates, from the scaled integers. */
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  readonly classCode: number;
  readonly cloudId: number;
  readonly nodeId: number;
  readonly index: number;
}

export interface PointDetails {
  readonly flags: number;
  readonly intensity?: number;
  readonly returnNumber?: number;
  readonly returns?: number;
  /** Degrees. */
  readonly scanAngle?: number;
  readonly strip?: number;
  readonly gpsTime?: number;
  readonly confidence?: number;
  /** Standard deviation of the elevation, job units. */
  readonly accuracy?: number;
  readonly rgb?: readonly [number, number, number];
}

/** A piece of land: what lies within `half` of a line in plan, between its ends. Full coordinates. */
export interface Corridor {
  readonly a: readonly [number, number];
  readonly b: readonly [number, number];
  readonly half: number;
}

/** No search: all points between two elevations, full coordinates. */
export interface HeightBand {
  readonly kind: 'height-band';
  readonly from?: number;
  readonly to?: number;
}

/** What a search is tried on: a corridor with every point in it. */
export interface PreviewRequest {
  readonly cloudId: number;
  readonly filter: CleaningFilter | HeightBand;
  readonly region: Corridor;
  /** Classes that take no part. */
  readonly leftOut: readonly number[];
}

export interface PreviewAnswer {
  readonly found: number;
  /** Where the first of them are, full coordinates: few points are hard to see. */
  readonly places: readonly (readonly [number, number, number])[];
  readonly judged: number;
  readonly milliseconds: number;
  /** More points than are tried at once: nothing was. */
  readonly isTooMany: boolean;
}

/** How the values that points are coloured by are spread over what is in memory. */
export interface ValueSpread {
  readonly mode: ColourMode;
  readonly low: number;
  readonly high: number;
  readonly counts: readonly number[];
  /** Values that 1, 2, 5, 95, 98 and 99 per cent of the points stay under. */
  readonly percentiles: Readonly<Record<1 | 2 | 5 | 95 | 98 | 99, number>>;
}

/** The shown surface at a place; no elevation outside it. */
export interface SurfaceAnswer {
  readonly elevation: number | undefined;
  /** Steepest rise over run there. */
  readonly slope: number;
  /** From the last corner that was drawn: distance in plan and rise. */
  readonly from: { readonly distance: number; readonly rise: number } | undefined;
}

/** What points say about a place, in scene coordinates. */
export interface GroundAround {
  readonly nearest: readonly [number, number, number];
  readonly lowest: number;
  readonly median: number;
  readonly count: number;
}

/** A surface under an outline. */
export interface AreaAnswer {
  /** Area of the surface itself, and of its plan; square units. */
  readonly slopeArea: number;
  readonly planArea: number;
  /** Volume over and under the level, cubic units. */
  readonly over: number;
  readonly under: number;
}

/** Questions that are answered once each. */
export interface ViewerQuestions {
  pick: {
    ask: { readonly view: ViewId; readonly column: number; readonly row: number };
    answer: PickedPoint | undefined;
  };
  /** Every attribute of a point. */
  details: { ask: { readonly point: PickedPoint }; answer: PointDetails | undefined };
  preview: { ask: { readonly preview: PreviewRequest | undefined }; answer: PreviewAnswer | undefined };
  spread: { ask: { readonly view: ViewId }; answer: ValueSpread | undefined };
  /** Contours of the shown surface as it is on the screen, within a window: segments of index lines and of the others, and how many lines. */
  contours: {
    ask: {
      readonly interval: number;
      readonly base: number;
      readonly indexEvery: number;
      readonly window: { readonly west: number; readonly south: number; readonly east: number; readonly north: number };
    };
    answer: { readonly index: Float32Array; readonly between: Float32Array; readonly lines: number } | undefined;
  };
  /** How the values are spread that the shown surface is coloured by. */
  tinted: {
    ask: Record<string, never>;
    answer: { readonly low: number; readonly high: number; readonly counts: readonly number[] } | undefined;
  };
  /** Elevations of the shown surface along a line in plan: station and elevation, NaN where there is none. */
  profile: {
    ask: { readonly line: readonly [number, number, number, number] };
    answer: { readonly stations: Float64Array; readonly elevations: Float64Array } | undefined;
  };
  /** Colours that the pictures have along a line in plan, at even steps from end to end: red in the lowest byte, 0 where there is none. */
  pictureAlong: {
    ask: { readonly line: readonly [number, number, number, number]; readonly steps: number };
    /** Not complete while finer tiles are on their way. */
    answer: { readonly colours: Uint32Array; readonly isComplete: boolean } | undefined;
  };
  /** Places in scene coordinates. */
  surfaceAt: {
    ask: { readonly at: readonly [number, number]; readonly from: readonly [number, number] | undefined };
    answer: SurfaceAnswer | undefined;
  };
  /** The points of some classes within a circle of the plan; undefined where there are none. */
  around: {
    ask: { readonly at: readonly [number, number]; readonly radius: number; readonly classes: readonly number[] };
    answer: GroundAround | undefined;
  };
  area: {
    ask: { readonly corners: readonly (readonly [number, number])[]; readonly level: number };
    answer: AreaAnswer | undefined;
  };
}
export type Question = keyof ViewerQuestions;
