import type { CachedNode } from './point-cache';
import type { ViewId } from './view-id';
import type { PainterName } from './painter-name';
import { drawPoints } from './point-rasteriser';
import { newFrame, type Frame, type Matrix } from './frame';

/** A picture of one view under way; several views' may be at the same time. */
export interface PointPicture {
  /**
   * @param matrix - from the node's own coordinates to clip space
   * @param size - of a point, pixels
   */
  points(matrix: Matrix, node: CachedNode, size: number): void;
  finish(): Frame;
}

/** Draws nodes of points into a frame of colour, depth and which point is where; the two back ends are alike from here on. */
export interface PointPainter {
  readonly name: PainterName;
  begin(view: ViewId, width: number, height: number): PointPicture;
  /** The node in this slot is no longer kept in memory. */
  forget(slot: number): void;
}

/** Draws into plain arrays: where there is no graphics card, ten times as fast as software WebGL. */
export class ProcessorPainter implements PointPainter {
  readonly name = 'processor';

  /** Two frames a view: one is being drawn while the other, the last one drawn, is what picking asks. */
  private readonly frames = new Map<ViewId, [Frame | undefined, Frame | undefined]>();

  begin(view: ViewId, width: number, height: number): PointPicture {
    const [shown, spare] = this.frames.get(view) ?? [undefined, undefined];
    const frame = cleared(spare, width, height) ?? newFrame(width, height);
    this.frames.set(view, [shown, frame]);
    return {
      points: (matrix, node, size) => void drawPoints(frame, matrix, node.points, node.slot, size),
      finish: () => {
        this.frames.set(view, [frame, shown]);
        return frame;
      },
    };
  }

  forget(): void {
    // Nothing is kept beside the node itself.
  }
}

/** A frame of this size emptied for the next picture; undefined where it is of another size, or its depth was given away. */
function cleared(frame: Frame | undefined, width: number, height: number): Frame | undefined {
  if (frame?.width !== width || frame.height !== height || frame.depth.length !== width * height) return undefined;
  frame.depth.fill(2);
  frame.colour.fill(0);
  frame.point.fill(0);
  return frame;
}
