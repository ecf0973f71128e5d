import { inject, Injectable } from '@angular/core';
import type { ViewId } from '../drawing/view-id';
import { ViewCameras } from './view-cameras';

/** Pictures of views as they are drawn now, for the report. */
@Injectable()
export class ViewCapture {
  private readonly cameras = inject(ViewCameras);
  /** The canvas that is seen; the viewer says which. */
  canvas: (() => HTMLCanvasElement) | undefined;

  /** A view as a PNG, base 64; undefined where it is not shown. */
  capture(view: ViewId): string | undefined {
    if (!this.canvas || !this.cameras.shown().includes(view)) return undefined;
    const from = this.canvas();
    const { left, top, width, height } = this.cameras.places()[view];
    const scale = from.width / Math.max(1, from.clientWidth);
    const to = document.createElement('canvas');
    to.width = Math.max(1, Math.round(width * scale));
    to.height = Math.max(1, Math.round(height * scale));
    const context = to.getContext('2d')!;
    context.drawImage(from, left * scale, top * scale, to.width, to.height, 0, 0, to.width, to.height);
    return to.toDataURL('image/png').split(',')[1];
  }
}
