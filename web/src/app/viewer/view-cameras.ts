import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { boundsAround, type Bounds } from '@pampero/core/cloud';
import { Subject } from 'rxjs';
import { JobStore } from '../state/job-store';
import { ViewStore, type SectionLine } from '../state/view-store';
import {
  modelDepthScale,
  modelDistance,
  modelMatrix,
  panModel,
  planMatrix,
  planToPixel,
  planToScene,
  sectionLength,
  sectionMatrix,
  sectionToPixel,
  sectionToScene,
  toPixel,
  turnModel,
  zoomPlan,
  type ModelCamera,
  type PlanCamera,
  type SectionCamera,
} from '../drawing/cameras';
import { SectionComparison } from './section-comparison';
import { landExtent, shiftedBounds, type LandExtent } from './land-extent';
import type { ViewPlace } from './picture-sink';
import { draggedSection, endsOf, framedOn, framedSection, walkedLine, zoomedSection } from './section-framing';
import { viewPlaces } from './view-places';
import type { DepthScale } from '../drawing/depth-shading';
import type { ViewId } from '../drawing/view-id';

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

  readonly places = computed<Record<ViewId, ViewPlace>>(() =>
    viewPlaces({
      ...this.size(),
      isBoth: this.views.pane() === 'both',
      hasSection: this.section() !== undefined,
      isCompared: this.comparison.isOn(),
    }),
  );

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

  /** A pixel of Plan or Section as two scene coordinates that stay put when the view moves; Model's pixels stay pixels. */
  hold(view: ViewId, px: number, py: number): [number, number] {
    const { width, height } = this.places()[view];
    if (view === 'plan') return planToScene(this.plan(), px, py, width, height);
    if (view === 'model') return [px, py];
    const { station, z } = sectionToScene(this.section()!, px, py, width, height);
    return [station, z];
  }

  /** The reverse of {@link hold}. */
  pixelOf(view: ViewId, held: readonly [number, number]): [number, number] {
    const { width, height } = this.places()[view];
    if (view === 'model') return [...held];
    if (view === 'plan') return planToPixel(this.plan(), held, width, height);
    return sectionToPixel(this.section()!, held, width, height);
  }

  /** Full coordinates on the screen; `undefined` behind the eye. */
  project(view: ViewId, [e, n, z]: readonly [number, number, number]): [number, number] | undefined {
    const { width, height } = this.places()[view];
    const [ox, oy, oz] = this.origin();
    return toPixel(this.matrixOf(view), [e - ox, n - oy, z - oz], width, height);
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
    else this.section.update((c) => c && draggedSection(c, dx, dy));
    this.moved(view);
  }

  zoom(view: ViewId, factor: number, px: number, py: number): void {
    const { width, height } = this.places()[view];
    if (view === 'plan') this.plan.update((c) => zoomPlan(c, factor, px, py, width, height));
    else if (view === 'model')
      this.model.update((c) => ({ ...c, distance: Math.max(0.5, Math.min(1e6, c.distance * factor)) }));
    else this.section.update((c) => c && zoomedSection(c, factor, sectionToScene(c, px, py, width, height)));
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
    const step = this.views.sectionStep() * times;
    this.views.section.set(walkedLine(line, step * along, step * across));
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
    const ends = endsOf(line, this.origin());
    this.section.update((old) => {
      if (old) return { ...old, ...ends };
      const framed = framedSection(ends, this.views.sectionDepth(), this.size(), this.land());
      this.views.sectionExaggeration.set(framed.exaggeration);
      return framed;
    });
    this.moved('section');
    this.changed('plan');
    this.changed('model');
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
      const framed = framedOn(camera, elevation - this.origin()[2], height, pixels);
      this.views.sectionExaggeration.set(framed.exaggeration);
      return framed;
    });
    this.changed('section');
  }

  /** The whole job in every view. */
  frameAll(): void {
    const bounds = shiftedBounds(this.jobBounds(), this.origin());
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
      z: this.land().groundLevel,
      distance: modelDistance(Math.hypot(wide, deep) / 2, model.width, model.height),
    });
    this.changed();
  }

  /** A place in the middle of Plan and Model. */
  lookAt([e, n, z]: readonly [number, number, number]): void {
    const [ox, oy, oz] = this.origin();
    this.plan.update((c) => ({ ...c, x: e - ox, y: n - oy }));
    this.model.update((c) => ({ ...c, x: e - ox, y: n - oy, z: z - oz }));
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
    return boundsAround(this.store.inSight().map(({ bounds }) => bounds));
  }

  private land(): LandExtent {
    return landExtent(this.store.inSight(), this.origin());
  }

  /** Length of the section's line, job units. */
  sectionLength(): number {
    const camera = this.section();
    return camera ? sectionLength(camera) : 0;
  }
}
