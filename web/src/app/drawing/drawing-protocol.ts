import type { CloudNode } from '@pampero/contract';
import type { PictureFrame } from '@pampero/core/imagery';
import type { NodeBits, Selection, Visible } from '@pampero/core/selection';
import type { ColourMode } from './colour-modes';
import type { StripSpan } from './strip-span';
import type { ColumnKey } from './column-key';
import type { LinePaint } from './line-rasteriser';
import type { PainterName } from './painter-name';
import type { DepthScale } from './depth-shading';
import type { ViewId } from './view-id';
import type { Question } from './viewer-questions';

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
