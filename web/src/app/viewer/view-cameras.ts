import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import type { Bounds } from '@pampero/core/cloud';
import type { DrawnView } from '@pampero/core/selection';
import { Subject } from 'rxjs';
import { JobStore } from '../state/job-store';
import { ViewStore, type SectionLine } from '../state/view-store';
import {
  modelDepthScale,
  modelDistance,
  modelMatrix,
  panModel,
  planMatrix,
  planToScene,
  sectionLength,
  sectionMatrix,
  sectionToScene,
  turnModel,
  zoomPlan,
  type ModelCamera,
  type PlanCamera,
  type SectionCamera,
} from '../drawing/cameras';
import { SectionComparison } from './section-comparison';
import type { ViewPlace } from './picture-sink';
import type { DepthScale } from '../drawing/rasteriser';
import type { ViewId } from '../drawing/drawing-protocol';

const SECTION_HEIGHT_SHARE = 0.36;
/** Of each of two sections one above the other. */
const COMPARED_HEIGHT_SHARE = 0.31;
/** How often heights may be drawn out in a section. */
export const EXAGGERATIONS: readonly number[] = [1, 2, 5, 10];

/** A view has changed and wants drawing; all of them where none is named. */
export interface ViewChange {
  readonly view?: ViewId;
  readonly isMoving: boolean;
}

/** Where each view looks, and how pixels and land come together in it. */
@Injectable()
export class ViewCameras {
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly comparison = inject(SectionComparison);

  readonly size = signal({ width: 800, height: 600 });
  /** Scene coordinates are about this place, so that single floats will do. */
  readonly origin = signal<readonly [number, number, number]>([0, 0, 0]);
  readonly plan = signal<PlanCamera>({ x: 0, y: 0, unitsPerPixel: 1, low: -100, high: 100 });
  readonly model = signal<ModelCamera>({ x: 0, y: 0, z: 0, turn: 20, tilt: 38, distance: 500, exaggeration: 1 });
  readonly section = signal<SectionCamera | undefined>(undefined);
  readonly changes$ = new Subject<ViewChange>();

  readonly shown = computed<readonly ViewId[]>(() => {
    const pane = this.views.pane();
    const above: ViewId[] = pane === 'both' ? ['plan', 'model'] : [pane];
    if (!this.section()) return above;
    return this.comparison.isOn() ? [...above, 'section', 'after'] : [...above, 'section'];
  });

  readonly places = computed<Record<ViewId, ViewPlace>>(() => {
    const { width, height } = this.size();
    const isCompared = this.comparison.isOn();
    const share = isCompared ? COMPARED_HEIGHT_SHARE : SECTION_HEIGHT_SHARE;
    const sectionHeight = this.section() ? Math.round(height * share) : 0;
    const below = isCompared && sectionHeight ? sectionHeight + 3 : 0;
    const top = height - below - sectionHeight - (sectionHeight ? 3 : 0);
    const isBoth = this.views.pane() === 'both';
    const half = Math.floor(width / 2);
    return {
      plan: { left: 0, top: 0, width: isBoth ? half - 1 : width, height: top },
      model: { left: isBoth ? half + 1 : 0, top: 0, width: isBoth ? width - half - 1 : width, height: top },
      section: { left: 0, top: height - below - sectionHeight, width, height: sectionHeight },
      after: { left: 0, top: height - sectionHeight, width, height: sectionHeight },
    };
  });

  /** How much of the views' height sections take; 0 without one. */
  readonly sectionsHeight = computed(() => (this.section() ? this.size().height - this.places().section.top : 0));

  constructor() {
    effect(() => {
      const line = this.views.section();
      untracked(() => this.laySection(line));
    });
    effect(() => {
      const depth = this.views.sectionDepth();
      const exaggeration = this.views.sectionExaggeration();
      untracked(() => {
        this.section.update((camera) => camera && { ...camera, depth, exaggeration });
        this.changed('section');
        this.changed('plan');
      });
    });
  }

  changed(view?: ViewId): void {
    this.changes$.next({ ...(view && { view }), isMoving: false });
  }

  private moved(view: ViewId): void {
    this.changes$.next({ view, isMoving: true });
  }

  matrixOf(view: ViewId, { width, height }: { width: number; height: number } = this.places()[view]): Float64Array {
    if (view === 'plan') return planMatrix(this.plan(), width, height);
    if (view === 'model') return modelMatrix(this.model(), width, height);
    return sectionMatrix(this.section()!, width, height);
  }

  scaleOf(view: ViewId): DepthScale {
    if (view === 'model') return modelDepthScale(this.model(), this.places().model.height);
    if (view === 'plan') {
      const { low, high, unitsPerPixel } = this.plan();
      return { isPerspective: false, near: 0, far: high - low, pixel: unitsPerPixel };
    }
    const camera = this.section()!;
    return { isPerspective: false, near: 0, far: camera.depth, pixel: camera.unitsPerPixel };
  }

  /**
   * The view as a selection keeps it. Plan and Section are widened to hold all `pixels`, since something may have been drawn
   * beyond the edge by moving the view meanwhile; the shift says where the view's own corner then lies.
   */
  drawnView(
    view: ViewId,
    pixels: readonly (readonly [number, number])[],
  ): { view: DrawnView & { name: ViewId }; shift: readonly [number, number] } {
    const { width, height } = this.places()[view];
    const canGrow = view !== 'model';
    const most = (of: number, axis: 0 | 1): number =>
      canGrow ? pixels.reduce((far, p) => Math.max(far, Math.abs(p[axis]! - of / 2) + 2), of / 2) : of / 2;
    const size = { width: 2 * Math.ceil(most(width, 0)), height: 2 * Math.ceil(most(height, 1)) };
    return {
      view: {
        name: view,
        matrix: Array.from(this.matrixOf(view, canGrow ? size : { width, height })),
        origin: this.origin(),
        ...(canGrow ? size : { width, height }),
      },
      shift: canGrow ? [(size.width - width) / 2, (size.height - height) / 2] : [0, 0],
    };
  }

  /** A pixel of Plan or Section as two scene coordinates that stay put when the view moves; Model's pixels stay pixels. */
  hold(view: ViewId, px: number, py: number): [number, number] {
    const { width, height } = this.places()[view];
    if (view === 'plan') return planToScene(this.plan(), px, py, width, height);
    if (view === 'model') return [px, py];
    const { station, z } = sectionToScene(this.section()!, px, py, width, height);
    return [station, z];
  }

  /** The reverse of {@link hold}. */
  pixelOf(view: ViewId, [a, b]: readonly [number, number]): [number, number] {
    const { width, height } = this.places()[view];
    if (view === 'model') return [a, b];
    if (view === 'plan') {
      const camera = this.plan();
      return [(a - camera.x) / camera.unitsPerPixel + width / 2, height / 2 - (b - camera.y) / camera.unitsPerPixel];
    }
    const camera = this.section()!;
    return [
      (a - camera.station) / camera.unitsPerPixel + width / 2,
      height / 2 - ((b - camera.z) * camera.exaggeration) / camera.unitsPerPixel,
    ];
  }

  /** Full coordinates on the screen; `undefined` behind the eye. */
  project(view: ViewId, [e, n, z]: readonly [number, number, number]): [number, number] | undefined {
    const { width, height } = this.places()[view];
    const [ox, oy, oz] = this.origin();
    const m = this.matrixOf(view);
    const [x, y, up] = [e - ox, n - oy, z - oz];
    const w = m[3]! * x + m[7]! * y + m[11]! * up + m[15]!;
    if (w <= 0) return undefined;
    const cx = (m[0]! * x + m[4]! * y + m[8]! * up + m[12]!) / w;
    const cy = (m[1]! * x + m[5]! * y + m[9]! * up + m[13]!) / w;
    return [((cx + 1) / 2) * width, ((1 - cy) / 2) * height];
  }

  /** Job units a pixel spans in a view; in Model at its target. */
  unitsPerPixel(view: ViewId): number {
    if (view === 'plan') return this.plan().unitsPerPixel;
    if (view === 'section' || view === 'after') return this.section()?.unitsPerPixel ?? 1;
    return modelDepthScale(this.model(), this.places().model.height).pixel * this.model().distance;
  }

  drag(view: ViewId, dx: number, dy: number, pans: boolean): void {
    if (view === 'plan')
      this.plan.update((c) => ({ ...c, x: c.x - dx * c.unitsPerPixel, y: c.y + dy * c.unitsPerPixel }));
    else if (view === 'model')
      this.model.update((c) => (pans ? panModel(c, dx, dy, this.places().model.height) : turnModel(c, dx, dy)));
    else
      this.section.update(
        (c) =>
          c && { ...c, station: c.station - dx * c.unitsPerPixel, z: c.z + (dy * c.unitsPerPixel) / c.exaggeration },
      );
    this.moved(view);
  }

  zoom(view: ViewId, factor: number, px: number, py: number): void {
    const { width, height } = this.places()[view];
    if (view === 'plan') this.plan.update((c) => zoomPlan(c, factor, px, py, width, height));
    else if (view === 'model')
      this.model.update((c) => ({ ...c, distance: Math.max(0.5, Math.min(1e6, c.distance * factor)) }));
    else
      this.section.update((c) => {
        if (!c) return c;
        const at = sectionToScene(c, px, py, width, height);
        return {
          ...c,
          unitsPerPixel: c.unitsPerPixel * factor,
          station: at.station + (c.station - at.station) * factor,
          z: at.z + (c.z - at.z) * factor,
        };
      });
    this.moved(view);
  }

  /** As the arrow keys do: Plan moves, Model turns, Section walks. */
  step(view: ViewId, sideways: number, forwards: number, isFar: boolean): void {
    const pixels = isFar ? 200 : 60;
    if (view === 'plan')
      this.plan.update((c) => ({
        ...c,
        x: c.x + sideways * pixels * c.unitsPerPixel,
        y: c.y + forwards * pixels * c.unitsPerPixel,
      }));
    else if (view === 'model') this.model.update((c) => turnModel(c, sideways * 15, forwards * 8));
    else this.walkSection(sideways, forwards, isFar ? 10 : 1);
    this.moved(view);
  }

  /** Right and left walk along the line, up and down across it, by the step. */
  private walkSection(along: number, across: number, times: number): void {
    const line = this.views.section();
    if (!line) return;
    const length = Math.hypot(line.b[0] - line.a[0], line.b[1] - line.a[1]) || 1;
    const u = [(line.b[0] - line.a[0]) / length, (line.b[1] - line.a[1]) / length] as const;
    const step = this.views.sectionStep() * times;
    const shift = [step * (u[0] * along - u[1] * across), step * (u[1] * along + u[0] * across)] as const;
    this.views.section.set({
      a: [line.a[0] + shift[0], line.a[1] + shift[1]],
      b: [line.b[0] + shift[0], line.b[1] + shift[1]],
    });
  }

  /** Turns the section to look back along itself. */
  turnSection(): void {
    const line = this.views.section();
    if (line) this.views.section.set({ a: line.b, b: line.a });
  }

  /** The next section is framed afresh. */
  forgetSection(): void {
    this.section.set(undefined);
  }

  private laySection(line: SectionLine | undefined): void {
    if (!line) {
      this.section.set(undefined);
      return;
    }
    const [ox, oy] = this.origin();
    const [ax, ay, bx, by] = [line.a[0] - ox, line.a[1] - oy, line.b[0] - ox, line.b[1] - oy];
    const old = this.section();
    if (old) this.section.set({ ...old, ax, ay, bx, by });
    else this.frameSection(ax, ay, bx, by);
    this.moved('section');
    this.changed('plan');
    this.changed('model');
  }

  private frameSection(ax: number, ay: number, bx: number, by: number): void {
    const length = Math.hypot(bx - ax, by - ay);
    const { width, height } = this.size();
    const sectionHeight = height * SECTION_HEIGHT_SHARE;
    const unitsPerPixel = (length * 1.06) / Math.max(1, width - 20);
    const exaggeration = this.fittingExaggeration(unitsPerPixel, sectionHeight);
    this.views.sectionExaggeration.set(exaggeration);
    // The ground a third of the way up, so that what stands on it has room.
    const z = this.groundLevel() + ((sectionHeight / 2 - sectionHeight * 0.3) * unitsPerPixel) / exaggeration;
    const depth = this.views.sectionDepth();
    this.section.set({ ax, ay, bx, by, depth, exaggeration, station: length / 2, z, unitsPerPixel });
  }

  /** Frames the section that is there afresh, after its line was dragged. */
  reframeSection(): void {
    const line = this.views.section();
    if (!line) return;
    this.forgetSection();
    this.laySection(line);
  }

  /** Frames the section so that an elevation is in its middle and so high a stretch takes about a third of it. */
  frameSectionOn(elevation: number, height: number): void {
    this.reframeSection();
    const { height: pixels } = this.places().section;
    this.section.update((camera) => {
      if (!camera) return camera;
      // The least that shows it plainly: drawn out more than it must be, land looks steeper than it is.
      const isPlain = (times: number): boolean => (height * times) / camera.unitsPerPixel >= pixels / 3;
      const exaggeration = EXAGGERATIONS.find(isPlain) ?? EXAGGERATIONS.at(-1)!;
      this.views.sectionExaggeration.set(exaggeration);
      return { ...camera, exaggeration, z: elevation - this.origin()[2] };
    });
    this.changed('section');
  }

  /** The whole job in every view. */
  frameAll(): void {
    const bounds = this.sceneBounds();
    const { plan, model } = this.places();
    const [wide, deep] = [bounds.max[0] - bounds.min[0], bounds.max[1] - bounds.min[1]];
    const middle = [0, 1, 2].map((axis) => (bounds.min[axis]! + bounds.max[axis]!) / 2) as [number, number, number];
    this.plan.set({
      x: middle[0],
      y: middle[1],
      unitsPerPixel: Math.max(wide / Math.max(1, plan.width - 40), deep / Math.max(1, plan.height - 40), 1e-3),
      low: bounds.min[2] - 1,
      high: bounds.max[2] + 1,
    });
    this.model.set({
      ...this.model(),
      x: middle[0],
      y: middle[1],
      z: this.groundLevel(),
      distance: modelDistance(Math.hypot(wide, deep) / 2, model.width, model.height),
    });
    this.changed();
  }

  /** A place in the middle of Plan and Model. */
  lookAt([e, n, z]: readonly [number, number, number]): void {
    const [ox, oy, oz] = this.origin();
    this.plan.update((c) => ({
      ...c,
      x: e - ox,
      y: n - oy,
    }));
    this.model.update((c) => ({
      ...c,
      x: e - ox,
      y: n - oy,
      z: z - oz,
    }));
    this.changed();
  }

  /** A place in the middle of Plan and Model, so near that so much land is seen. */
  lookClose(place: readonly [number, number, number], across: number): void {
    const { plan, model } = this.places();
    this.plan.update((c) => ({ ...c, unitsPerPixel: across / Math.max(1, Math.min(plan.width, plan.height)) }));
    this.model.update((c) => ({ ...c, distance: modelDistance(across / 2, model.width, model.height) }));
    this.lookAt(place);
  }

  /** The land that Plan shows, in full coordinates; `scale` times as wide and high about its middle. */
  planWindow(scale = 1): { west: number; south: number; east: number; north: number } {
    const { x, y, unitsPerPixel } = this.plan();
    const { width, height } = this.places().plan;
    const [ox, oy] = this.origin();
    const [w, h] = [(width / 2) * unitsPerPixel * scale, (height / 2) * unitsPerPixel * scale];
    return { west: x + ox - w, south: y + oy - h, east: x + ox + w, north: y + oy + h };
  }

  /** All of the job's points, full coordinates. */
  jobBounds(): Bounds {
    const clouds = this.store.inSight();
    const of = (end: 'min' | 'max', pick: (...values: number[]) => number): [number, number, number] =>
      [0, 1, 2].map((axis) => pick(...clouds.map((c) => c.bounds[end][axis]!))) as [number, number, number];
    return { min: of('min', Math.min), max: of('max', Math.max) };
  }

  private sceneBounds(): Bounds {
    const bounds = this.jobBounds();
    const origin = this.origin();
    const shift = (corner: readonly number[]): [number, number, number] =>
      corner.map((value, axis) => value - origin[axis]!) as [number, number, number];
    return { min: shift(bounds.min), max: shift(bounds.max) };
  }

  /** The most heights can be drawn out while the land's own still take no more than half of the section. */
  private fittingExaggeration(unitsPerPixel: number, height: number): number {
    const ranges = this.store.inSight().map((cloud) => cloud.source.elevationRange);
    const span = Math.max(1, Math.max(...ranges.map(([, high]) => high)) - Math.min(...ranges.map(([low]) => low)));
    return EXAGGERATIONS.findLast((times) => (span * times) / unitsPerPixel < height / 2) ?? 1;
  }

  private groundLevel(): number {
    const ranges = this.store.inSight().map((cloud) => cloud.source.elevationRange);
    return ranges.length === 0 ? 0 : Math.min(...ranges.map(([low]) => low)) - this.origin()[2];
  }

  /** Length of the section's line, job units. */
  sectionLength(): number {
    const camera = this.section();
    return camera ? sectionLength(camera) : 0;
  }
}
