import type { CloudNode } from '@pampero/contract';
import type { LinePaint } from './line-rasteriser';
import type { PainterName } from './point-painter';
import type { DepthScale } from './rasteriser';

export type ViewId = 'plan' | 'section' | 'model';
export type ColourMode = 'class' | 'elevation' | 'intensity';

/** Everything that says how points look; the same for all views. */
export interface PointStyle {
  readonly mode: ColourMode;
  /** ABGR of each class; 0 where it is turned off. */
  readonly classColours: Uint32Array;
  readonly elevationRange: readonly [number, number];
  readonly intensityRange: readonly [number, number];
  readonly showWithheld: boolean;
}

export interface DrawnCloud {
  readonly id: number;
  readonly nodes: readonly CloudNode[];
  readonly scale: readonly [number, number, number];
  readonly offset: readonly [number, number, number];
  /** Average distance between neighbouring points in plan, job units. */
  readonly pointSpacing: number;
}

/** Line segments that the worker draws itself. */
export interface DrawnLines {
  readonly positions: Float32Array;
  readonly paint: LinePaint;
  readonly views: readonly ViewId[];
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
  | { readonly kind: 'surface'; readonly url: string | undefined }
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
  | {
      readonly kind: 'pick';
      readonly view: ViewId;
      readonly serial: number;
      readonly column: number;
      readonly row: number;
    }
  | { readonly kind: 'drop'; readonly view: ViewId };

export interface PickedPoint {
  /** Exact coordinates, from the scaled integers. */
  readonly easting: number;
  readonly northing: number;
  readonly elevation: number;
  readonly classCode: number;
  readonly cloudId: number;
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
  | { readonly kind: 'picked'; readonly view: ViewId; readonly serial: number; readonly point: PickedPoint | undefined }
  /** Who draws the points from now on. */
  | { readonly kind: 'painter'; readonly name: PainterName }
  | { readonly kind: 'trouble'; readonly message: string };
