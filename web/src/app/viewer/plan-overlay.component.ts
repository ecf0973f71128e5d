import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { DoubtStore } from '../review/doubt-store';
import { formatNumber, shortUnit } from '../shared/format';
import { SurfaceEditStore } from '../terrain/surface-edit-store';
import { ToolGestures } from '../tools/tool-gestures';
import { WorkbenchStore } from '../workbench/workbench-store';
import { dragHandle } from './drag-handle';
import { notesIn } from './pinned-notes';
import { roundLength } from './scale-bar';
import { ContourFigures } from './contour-figures';
import { ViewCameras } from './view-cameras';

/** Over Plan: surveyed points, notes, the section's line with its handles, the scale. */
@Component({
  selector: 'pam-plan-overlay',
  templateUrl: './plan-overlay.component.html',
  styleUrls: ['./overlay.scss', './plan-overlay.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PlanOverlayComponent {
  protected readonly store = inject(WorkbenchStore);
  protected readonly gestures = inject(ToolGestures);
  private readonly cameras = inject(ViewCameras);
  private readonly review = inject(DoubtStore);
  private readonly surfaceEdits = inject(SurfaceEditStore);
  private readonly contourFigures = inject(ContourFigures);
  protected readonly notes = notesIn('plan');

  protected readonly scaleBar = computed(() => {
    const { unitsPerPixel } = this.cameras.plan();
    const length = roundLength(unitsPerPixel, 170);
    return {
      pixels: length / unitsPerPixel,
      label: `${formatNumber(length, length < 1 ? 2 : 0)} ${shortUnit(this.store.unit())}`,
    };
  });

  /** Surveyed points: a cross each, with its number when few are in view. */
  protected readonly control = computed(() => {
    const points = this.store.controlLook()?.points ?? [];
    const { width, height } = this.cameras.places().plan;
    const [ox, oy] = this.cameras.origin();
    const marks = points
      .map(({ id, number, easting, northing, role, difference }) => {
        const [x, y] = this.cameras.pixelOf('plan', [easting - ox, northing - oy]);
        return { id, number, isCheck: role === 'check', isFound: difference !== undefined, x, y };
      })
      .filter(({ x, y }) => x > -10 && y > -10 && x < width + 10 && y < height + 10);
    return { marks, isNamed: marks.length <= 60 };
  });

  /** Figures on contours: at the size of the plan, but never too small to read; where they would crowd, fewer. */
  protected readonly figures = computed(() => {
    const { unitsPerPixel } = this.cameras.plan();
    const { width, height } = this.cameras.places().plan;
    const [ox, oy] = this.cameras.origin();
    const taken = new Set<string>();
    const out: { key: string; transform: string; text: string; size: number }[] = [];
    for (const [id, figures] of this.contourFigures.all())
      for (const [k, { easting, northing, degrees, text, height: high }] of figures.entries()) {
        const size = Math.max(10, Math.min(15, high / unitsPerPixel));
        const [x, y] = this.cameras.pixelOf('plan', [easting - ox, northing - oy]);
        if (x < 0 || y < 0 || x > width || y > height) continue;
        const place = `${Math.floor(x / 190)} ${Math.floor(y / 100)}`;
        if (taken.has(place)) continue;
        taken.add(place);
        out.push({ key: `${id} ${k}`, transform: `translate(${x},${y}) rotate(${-degrees})`, text, size });
      }
    return out;
  });

  /** Doubtful places of the ground: the one looked at outlined, the others dotted. */
  protected readonly doubts = computed(() => {
    const { width, height } = this.cameras.places().plan;
    const [ox, oy] = this.cameras.origin();
    const current = this.review.currentKey();
    if (!this.review.isOpen()) return [];
    return (this.review.rows() ?? []).flatMap(({ key, easting, northing, outline, state }) => {
      const [x, y] = this.cameras.pixelOf('plan', [easting - ox, northing - oy]);
      const isCurrent = key === current;
      if (!isCurrent && (state !== 'open' || x < 0 || y < 0 || x > width || y > height)) return [];
      const corners = outline.map(([e, n]) => this.cameras.pixelOf('plan', [e - ox, n - oy]).join());
      return [{ key, x, y, outline: isCurrent ? corners.join(' ') : undefined }];
    });
  });

  /** The spike, pit or hole that is looked at. */
  protected readonly surfaceFault = computed(() => {
    const fault = this.surfaceEdits.currentFault();
    if (!fault || this.store.tool() !== 'triangles') return undefined;
    const [ox, oy] = this.cameras.origin();
    const [x, y] = this.cameras.pixelOf('plan', [fault.easting - ox, fault.northing - oy]);
    return { x, y };
  });

  protected readonly section = computed(() => {
    const camera = this.cameras.section();
    const isLaying = this.store.tool() === 'section';
    const held = this.gestures.held();
    if (isLaying && held.length === 1) {
      const at = this.gestures.at();
      return this.markOf(held[0]!, at?.view === 'plan' ? this.cameras.hold('plan', at.px, at.py) : held[0]!, 0);
    }
    return camera && this.markOf([camera.ax, camera.ay], [camera.bx, camera.by], camera.depth);
  });

  private markOf(a: readonly [number, number], b: readonly [number, number], depth: number) {
    const toPixel = (x: number, y: number): [number, number] => this.cameras.pixelOf('plan', [x, y]);
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const n = [(-(b[1] - a[1]) / length) * (depth / 2), ((b[0] - a[0]) / length) * (depth / 2)] as const;
    const [pa, pb] = [toPixel(...a), toPixel(...b)];
    const far = Math.hypot(pb[0] - pa[0], pb[1] - pa[1]) || 1;
    const out = [((pb[0] - pa[0]) / far) * 14, ((pb[1] - pa[1]) / far) * 14] as const;
    const middle = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2] as const;
    const corners = [
      toPixel(a[0] + n[0], a[1] + n[1]),
      toPixel(b[0] + n[0], b[1] + n[1]),
      toPixel(b[0] - n[0], b[1] - n[1]),
      toPixel(a[0] - n[0], a[1] - n[1]),
    ];
    const station = this.store.hoverStation();
    return {
      a: pa,
      b: pb,
      band: corners.map((corner) => corner.join()).join(' '),
      hover:
        station === undefined || depth === 0
          ? undefined
          : toPixel(a[0] + ((b[0] - a[0]) * station) / length, a[1] + ((b[1] - a[1]) * station) / length),
      labelA: [pa[0] - out[0], pa[1] - out[1]],
      labelB: [pb[0] + out[0], pb[1] + out[1]],
      middle: toPixel(...middle),
      /** The band's edge a quarter of the way, where it can be drawn out. */
      edge: toPixel(a[0] + (b[0] - a[0]) / 4 + n[0], a[1] + (b[1] - a[1]) / 4 + n[1]),
      isLaid: depth > 0,
    };
  }

  protected dragSection(event: PointerEvent, part: 'a' | 'b' | 'all' | 'depth'): void {
    const start = this.store.section();
    if (!start) return;
    const startDepth = this.store.sectionDepth();
    const { unitsPerPixel } = this.cameras.plan();
    dragHandle(event, (dx, dy) => {
      const [de, dn] = [dx * unitsPerPixel, -dy * unitsPerPixel];
      const moved = ([e, n]: readonly [number, number]): [number, number] => [e + de, n + dn];
      if (part === 'depth') {
        const length = Math.hypot(start.b[0] - start.a[0], start.b[1] - start.a[1]) || 1;
        const across = (-(start.b[1] - start.a[1]) * de + (start.b[0] - start.a[0]) * dn) / length;
        this.store.sectionDepth.set(Math.max(0.01, startDepth + 2 * across));
      } else
        this.store.section.set({
          a: part === 'b' ? start.a : moved(start.a),
          b: part === 'a' ? start.b : moved(start.b),
        });
    });
  }
}
