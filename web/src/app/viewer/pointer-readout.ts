import { inject, Injectable } from '@angular/core';
import { planToScene, sectionToScene } from '../drawing/cameras';
import type { ViewId } from '../drawing/view-id';
import { LayerStore } from '../state/layer-store';
import { ViewStore } from '../state/view-store';
import { DrawingLink } from './drawing-link';
import { PointerTool } from './pointer-tool';
import { ViewCameras } from './view-cameras';
import { isSection } from './view-places';

/** What the foot line says of the place under the pointer. One question at a time: the next move asks for where the pointer is then. */
@Injectable()
export class PointerReadout {
  private readonly cameras = inject(ViewCameras);
  private readonly gestures = inject(PointerTool);
  private readonly layers = inject(LayerStore);
  private readonly link = inject(DrawingLink);
  private readonly views = inject(ViewStore);

  /** A view is being moved: what is under the pointer is of no interest. */
  isMoving: () => boolean = () => false;
  private isPicking = false;
  private isAskingSurface = false;

  at(view: ViewId, px: number, py: number): void {
    if (view === 'plan') {
      this.atPlan(px, py);
      if (this.layers.isReliefDrawn()) return;
      this.views.underCursor.set(undefined);
    } else if (isSection(view)) {
      this.atSection(px, py);
      return;
    }
    this.pick(view, px, py);
  }

  left(): void {
    this.views.cursor.set(undefined);
    this.views.underCursor.set(undefined);
    this.views.hoverStation.set(undefined);
  }

  private atPlan(px: number, py: number): void {
    const { width, height } = this.cameras.places().plan;
    const [ox, oy] = this.cameras.origin();
    const [x, y] = planToScene(this.cameras.plan(), px, py, width, height);
    const kept = this.views.cursor()?.point;
    this.views.cursor.set({ easting: x + ox, northing: y + oy, ...(kept && { point: kept }) });
    if (!this.layers.isReliefDrawn() || this.isAskingSurface) return;
    this.isAskingSurface = true;
    const from = this.gestures.view() === 'plan' ? this.gestures.held().at(-1) : undefined;
    void this.link.ask('surfaceAt', { at: [x, y], from }).then((answer) => {
      this.isAskingSurface = false;
      this.views.underCursor.set(this.layers.isReliefDrawn() ? answer : undefined);
    });
  }

  private atSection(px: number, py: number): void {
    const camera = this.cameras.section();
    if (!camera) return;
    const { width, height } = this.cameras.places().section;
    const [ox, oy, oz] = this.cameras.origin();
    const { station, z } = sectionToScene(camera, px, py, width, height);
    const length = this.cameras.sectionLength() || 1;
    this.views.hoverStation.set(station);
    this.views.cursor.set({
      easting: camera.ax + ((camera.bx - camera.ax) * station) / length + ox,
      northing: camera.ay + ((camera.by - camera.ay) * station) / length + oy,
      elevation: z + oz,
      station,
    });
  }

  private pick(view: ViewId, px: number, py: number): void {
    if (this.isPicking) return;
    this.isPicking = true;
    const { height } = this.cameras.places()[view];
    void this.link.pick(view, px, height - py).then((point) => {
      this.isPicking = false;
      if (this.isMoving()) return;
      const cursor = this.views.cursor();
      if (point)
        this.views.cursor.set({ easting: point.easting, northing: point.northing, elevation: point.elevation, point });
      else if (view === 'model') this.views.cursor.set(undefined);
      else if (cursor) this.views.cursor.set({ easting: cursor.easting, northing: cursor.northing });
    });
  }
}
