import type { DrawnView } from '@pampero/core/selection';
import type { ViewId } from '../drawing/view-id';
import type { ViewCameras } from './view-cameras';

/**
 * A view as a selection keeps it. Plan and Section are widened to hold all `pixels`, since something may have been drawn
 * beyond the edge by moving the view meanwhile; the shift says where the view's own upper left then lies.
 */
export function drawnView(
  cameras: Pick<ViewCameras, 'matrixOf' | 'origin' | 'places'>,
  view: ViewId,
  pixels: readonly (readonly [number, number])[],
): { view: DrawnView & { name: ViewId }; shift: readonly [number, number] } {
  const { width, height } = cameras.places()[view];
  const canGrow = view !== 'model';
  const most = (of: number, axis: 0 | 1): number =>
    pixels.reduce((far, p) => Math.max(far, Math.abs(p[axis]! - of / 2) + 2), of / 2);
  const size = canGrow
    ? { width: 2 * Math.ceil(most(width, 0)), height: 2 * Math.ceil(most(height, 1)) }
    : { width, height };
  return {
    view: { name: view, matrix: Array.from(cameras.matrixOf(view, size)), origin: cameras.origin(), ...size },
    shift: [(size.width - width) / 2, (size.height - height) / 2],
  };
}
