import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { formatNumber } from '@pampero/core/wording';
import { shortUnit } from '../shared/format';
import { JobStore } from '../state/job-store';
import { ControlStore } from '../state/control-store';
import { ViewStore } from '../state/view-store';
import { dragHandle } from './drag-handle';
import { PlanCovers } from './plan-covers';
import { PlanMarks } from './plan-marks';
import { PointerTool } from './pointer-tool';
import { notesIn } from './pinned-notes';
import { roundLength } from './scale-bar';
import { ContourLabels } from './contour-labels';
import { ViewCameras } from './view-cameras';

/** Over Plan: surveyed points, notes, the section's line with its handles, the scale. */
@Component({
  selector: 'pam-plan-overlay',
  templateUrl: './plan-overlay.component.html',
  styleUrls: ['./overlay.scss', './plan-overlay.component.scss'],
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class PlanOverlayComponent {
  protected readonly store = inject(JobStore);
  protected readonly controls = inject(ControlStore);
  protected readonly views = inject(ViewStore);
  protected readonly gestures = inject(PointerTool);
  private readonly cameras = inject(ViewCameras);
  private readonly marks = inject(PlanMarks);
  private readonly covers = inject(PlanCovers);
  private readonly contourLabels = inject(ContourLabels);
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
    const points = this.controls.look()?.points ?? [];
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

  /**
   * Elevations on contours: at the size of the plan, but never too small to read; never over one another, nor over what stands at
   * a surveyed point.
   */
  protected readonly labels = computed(() => {
    const { unitsPerPixel } = this.cameras.plan();
    const { width, height } = this.cameras.places().plan;
    const [ox, oy] = this.cameras.origin();
    const { marks, isNamed } = this.control();
    const taken = marks.map(({ x, y, number }) => controlBox(x, y, isNamed ? number : ''));
    const square = this.square();
    if (square) taken.push([square.x, square.y, square.x + 110, square.y + 20]);
    const out: { key: string; transform: string; text: string; size: number }[] = [];
    for (const [id, labels] of this.contourLabels.all())
      for (const [k, { easting, northing, degrees, text, height: high }] of labels.entries()) {
        const size = Math.max(9, Math.min(13, high / unitsPerPixel));
        const [x, y] = this.cameras.pixelOf('plan', [easting - ox, northing - oy]);
        if (x < 0 || y < 0 || x > width || y > height) continue;
        const box = turnedBox(x, y, size, degrees, text);
        if (taken.some((other) => overlap(box, other))) continue;
        taken.push(box);
        out.push({ key: `${id} ${k}`, transform: `translate(${x},${y}) rotate(${-degrees})`, text, size });
      }
    return out;
  });

  /** What stages point at: dots and rings where they are in view, areas wherever they are. */
  protected readonly pointed = computed(() => {
    const { width, height } = this.cameras.places().plan;
    const [ox, oy] = this.cameras.origin();
    return this.marks.all().flatMap(({ key, kind, easting, northing, outline = [] }) => {
      const [x, y] = this.cameras.pixelOf('plan', [easting - ox, northing - oy]);
      if (kind !== 'area' && (x < 0 || y < 0 || x > width || y > height)) return [];
      const vertices = outline.map(([e, n]) => this.cameras.pixelOf('plan', [e - ox, n - oy]).join());
      return [{ key, kind, x, y, outline: vertices.join(' ') }];
    });
  });

  /** Land that is covered by something: one path each, its islands left free. */
  protected readonly covered = computed(() => {
    const [ox, oy] = this.cameras.origin();
    return this.covers.all().map(({ key, look, rings }) => {
      const d = rings.map(({ places }) => {
        const pixels = places.map(([e, n]) => {
          const [x, y] = this.cameras.pixelOf('plan', [e - ox, n - oy]);
          return `${x.toFixed(1)},${y.toFixed(1)}`;
        });
        return `M${pixels.join('L')}Z`;
      });
      return { key, look, d: d.join('') };
    });
  });

  /** Where what leaves ends, in a job that is a square of a larger site. */
  protected readonly square = computed(() => {
    const square = this.store.job()?.square;
    if (!square) return undefined;
    const { west, south, east, north } = square.land;
    const [ox, oy] = this.cameras.origin();
    const corners = [[west, north], [east, north], [east, south], [west, south]] as const; // prettier-ignore
    const pixels = corners.map(([e, n]) => this.cameras.pixelOf('plan', [e - ox, n - oy]));
    const [x, y] = pixels[0]!;
    return { outline: pixels.map((pixel) => pixel.join()).join(' '), x, y };
  });

  protected readonly section = computed(() => {
    const camera = this.cameras.section();
    const isLaying = this.views.tool() === 'section';
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
    const station = this.views.hoverStation();
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
    const start = this.views.section();
    if (!start) return;
    const startDepth = this.views.sectionDepth();
    const { unitsPerPixel } = this.cameras.plan();
    dragHandle(event, (dx, dy) => {
      const [de, dn] = [dx * unitsPerPixel, -dy * unitsPerPixel];
      const moved = ([e, n]: readonly [number, number]): [number, number] => [e + de, n + dn];
      if (part === 'depth') {
        const length = Math.hypot(start.b[0] - start.a[0], start.b[1] - start.a[1]) || 1;
        const across = (-(start.b[1] - start.a[1]) * de + (start.b[0] - start.a[0]) * dn) / length;
        this.views.sectionDepth.set(Math.max(0.01, startDepth + 2 * across));
      } else
        this.views.section.set({
          a: part === 'b' ? start.a : moved(start.a),
          b: part === 'a' ? start.b : moved(start.b),
        });
    });
  }
}

/** A rectangle of the screen: left, top, right, bottom. */
type ScreenBox = readonly [number, number, number, number];

/** What a surveyed point takes up with its number beside it. */
function controlBox(x: number, y: number, number: string): ScreenBox {
  return [x - 7, y - 18, x + 8 + 7 * number.length, y + 7];
}

/** Around a label that stands turned at a place, with room about it so that the eye tells it from the next. */
function turnedBox(x: number, y: number, size: number, degrees: number, text: string): ScreenBox {
  const [half, high] = [0.32 * size * text.length + 8, 0.6 * size + 4];
  const [cos, sin] = [Math.abs(Math.cos((degrees * Math.PI) / 180)), Math.abs(Math.sin((degrees * Math.PI) / 180))];
  const [w, h] = [half * cos + high * sin, half * sin + high * cos];
  return [x - w, y - h, x + w, y + h];
}

function overlap(a: ScreenBox, b: ScreenBox): boolean {
  return a[0] < b[2] && b[0] < a[2] && a[1] < b[3] && b[1] < a[3];
}
