import type { CloudNode } from '@pampero/contract';
import type { PictureFrame } from '@pampero/core/imagery';
import type { CleaningFilter } from '@pampero/core/cleaning';
import type { NodeBits, Selection, Visible } from '@pampero/core/selection';
import type { ColourMode } from './colour-modes';
import type { StripSpan } from './strip-span';
import type { ColumnKey } from './column-key';
import type { LinePaint } from './line-rasteriser';
import type { PainterName } from './painter-name';
import type { DepthScale } from './rasteriser';

/** `after` is the section once more, under itself, as the ground would be. */
export type ViewId = 'plan' | 'section' | 'after' | 'model';

/** Everything that says how points look; the same for all views. */
export interface PointStyle {
  readonly mode: ColourMode;
  /** ABGR of each class. */
  readonly classColours: Uint32Array;
  /** Strips that were found by their times, in their order. */
  readonly strips: readonly StripSpan[];
  /** Values at the ends of the ramp. */
  readonly range: readonly [number, number];
  /** ABGR, 1024 of them. */
  readonly ramp: Uint32Array;
  /** 1 for classes that are turned off. */
  readonly hides: Uint8Array;
  /** What is shown at all: classes, withheld points, focus box and focus. */
  readonly visible: Visible;
  /** Pixels; 0 leaves it to the density. */
  readonly pointSize: number;
  /** Strength of the depth shading, 0 to 1. */
  readonly shading: number;
  /** Multiplies the number of points that a picture is made of. */
  readonly detail: number;
  /** ABGR of selected points, and of points that a search would find. */
  readonly selected: number;
  readonly found: number;
}

export interface DrawnCloud {
  readonly id: number;
  readonly nodes: readonly CloudNode[];
  readonly scale: readonly [number, number, number];
  readonly offset: readonly [number, number, number];
  /** Average distance between neighbouring points in plan, job units. */
  readonly pointSpacing: number;
  /** Attributes that its points have. */
  readonly columns: readonly ColumnKey[];
}

/** Line segments that the worker draws itself. */
export interface DrawnLines {
  readonly positions: Float32Array;
  readonly paint: LinePaint;
  readonly views: readonly ViewId[];
}

/** A change that is seen before the server has stored it. */
export interface OptimisticChange {
  readonly classCode?: number;
  readonly setFlags?: number;
  readonly clearFlags?: number;
}

/** Points that one view shows as if they had become ground, or had ceased to be. */
export interface PreviewedView {
  readonly view: ViewId;
  readonly nodes: readonly NodeBits[];
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

/** A surface, where it is read from and how it looks. */
export interface DrawnSurface {
  readonly url: string;
  /** The product it is. */
  readonly productId: number;
  readonly tint: {
    readonly table: Uint32Array;
    readonly low: number;
    readonly high: number;
    /** Its elevation, its slope, or a raster of values to be read from there. */
    readonly by: 'elevation' | 'slope' | { readonly url: string };
  };
  /** 1 hides what is behind it. */
  readonly opacity: number;
  /** Its values are no heights: it is drawn level. */
  readonly isFlat?: boolean;
}

/** A picture that lies on the ground, and how it looks. */
export interface DrawnPicture {
  readonly jobId: string;
  /** The product that its tiles are read from. */
  readonly tilesOf: number;
  readonly frame: PictureFrame;
  readonly levels: number;
  readonly hasMask: boolean;
  /** 1 hides what is behind it. */
  readonly opacity: number;
  /** Added to every channel, -255 to 255, after contrast has spread them about the middle. */
  readonly brightness: number;
  readonly contrast: number;
}

/** What the page asks of the drawing worker. */
export type ViewerRequest =
  | {
      readonly kind: 'clouds';
      readonly jobId: string;
      readonly origin: readonly [number, number, number];
      readonly clouds: readonly DrawnCloud[];
    }
  | { readonly kind: 'style'; readonly style: PointStyle }
  | { readonly kind: 'painter'; readonly name: PainterName }
  /** The surfaces that are shown, the one that heights are measured from last. */
  | { readonly kind: 'surfaces'; readonly surfaces: readonly DrawnSurface[] }
  /** Pictures, the lowest first; to the left of `wipe`, a share of Plan's width, over the points. */
  | {
      readonly kind: 'pictures';
      readonly pictures: readonly DrawnPicture[];
      readonly wipe: number;
      /** Surfaces, which come in white then, have them laid over themselves. */
      readonly areDraped: boolean;
    }
  /** The surface close up, for Plan alone; undefined for none. */
  | { readonly kind: 'detail'; readonly surface: DrawnSurface | undefined }
  /** What is selected now; drawn in its own colour. */
  | { readonly kind: 'selection'; readonly selection: Selection }
  /** Does to the selected points what the server was asked to do. */
  | { readonly kind: 'optimistic'; readonly change: OptimisticChange }
  /** Views that show the ground as it would be; all others show it as it is. */
  | { readonly kind: 'previewed'; readonly views: readonly PreviewedView[] }
  /** The server did not do it: everything as it is stored. */
  | { readonly kind: 'take-back' }
  | {
      readonly kind: 'draw';
      readonly view: ViewId;
      readonly serial: number;
      readonly width: number;
      readonly height: number;
      readonly matrix: Float64Array;
      readonly scale: DepthScale;
      readonly shading: number;
      readonly isMoving: boolean;
      readonly showPoints: boolean;
      readonly showSurface: boolean;
      /** Red, green and blue behind the picture: then lines are drawn into it too, and it comes ready for a canvas. */
      readonly ground: readonly [number, number, number] | undefined;
    }
  | {
      readonly kind: 'lines';
      readonly key: string;
      readonly layer: DrawnLines | undefined;
    }
  | { readonly kind: 'ask'; readonly serial: number; readonly question: Question; readonly about: unknown }
  | { readonly kind: 'drop'; readonly view: ViewId };

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

/** What the worker answers. */
export type ViewerAnswer =
  | {
      readonly kind: 'picture';
      readonly view: ViewId;
      readonly serial: number;
      readonly width: number;
      readonly height: number;
      readonly matrix: Float64Array;
      readonly rgba: Uint8ClampedArray<ArrayBuffer>;
      /** Missing where the picture is ready for a canvas. */
      readonly depth: Float32Array<ArrayBuffer> | undefined;
      readonly drawn: number;
      readonly isComplete: boolean;
      readonly milliseconds: number;
    }
  | { readonly kind: 'answer'; readonly serial: number; readonly answer: unknown }
  /** Who draws the points from now on. */
  | { readonly kind: 'painter'; readonly name: PainterName }
  | { readonly kind: 'trouble'; readonly message: string };
