import type { LinePaint } from '../drawing/line-rasteriser';
import type { ViewId } from '../drawing/view-id';

/** Where a view lies in the canvas, CSS pixels from its upper left corner. */
export interface ViewPlace {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
}

/** Line segments in scene coordinates, drawn over or into the picture. */
export interface LineLayer {
  /** x, y, z of both ends of each segment, single precision about the scene's origin. */
  readonly positions: Float32Array;
  readonly colour: string;
  readonly opacity: number;
  /** Hidden behind nearer points where true; always seen where false. */
  readonly isDepthTested: boolean;
}

/** Puts pictures and lines on the page: by three.js where there is a graphics card, else as the worker has composed them. */
export interface PictureSink {
  /** The worker draws lines and ground itself. */
  readonly isFlat: boolean;
  resize(width: number, height: number, pixelRatio: number): void;
  setPicture(
    view: ViewId,
    width: number,
    height: number,
    rgba: Uint8ClampedArray<ArrayBuffer>,
    depth: Float32Array<ArrayBuffer> | undefined,
    matrix: Float64Array,
  ): void;
  /** Replaces a layer of lines, or takes it away. */
  setLines(key: string, layer: LineLayer | undefined, views?: readonly ViewId[]): void;
  /** Draws one view into its place of the canvas. */
  render(view: ViewId, place: ViewPlace, canvasHeight: number, background: string): void;
  dispose(): void;
}

/** "#RRGGBB" as numbers. */
export function rgbOf(colour: string): [number, number, number] {
  const value = Number.parseInt(colour.slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}

export function paintOf({ colour, opacity, isDepthTested }: LineLayer): LinePaint {
  return { rgb: rgbOf(colour), opacity, isDepthTested };
}
