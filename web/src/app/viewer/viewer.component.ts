import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  contentChild,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  TemplateRef,
  untracked,
  viewChild,
} from '@angular/core';
import { MatIconModule } from '@angular/material/icon';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { NgTemplateOutlet } from '@angular/common';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { LayerStore } from '../state/layer-store';
import { RendererStore } from '../state/renderer-store';
import { ViewStore } from '../state/view-store';
import { SectionComparison } from './section-comparison';
import { Compositor } from './compositor';
import { DrawTiming } from './draw-timing';
import { DrawingLink } from './drawing-link';
import { FlatCompositor } from './flat-compositor';
import { ModelOverlayComponent } from './model-overlay.component';
import { rgbOf, type LineLayer, type PictureSink } from './picture-sink';
import { PlanOverlayComponent } from './plan-overlay.component';
import { PointerReadout } from './pointer-readout';
import { PointerTool, type ToolEvent } from './pointer-tool';
import { SceneLines } from './scene-lines';
import type { PainterName } from '../drawing/painter-name';
import { FlightFeed } from './flight-feed';
import { SceneFeed } from './scene-feed';
import { SectionOverlayComponent } from './section-overlay.component';
import { ViewCapture } from './view-capture';
import { ViewCameras } from './view-cameras';
import { isSection } from './view-places';
import { ARROW_STEPS, ZOOM_STEPS } from './view-keys';
import type { ViewId } from '../drawing/view-id';

const DARK_GROUND = '#1C262D';
const LIGHT_GROUND = '#F2EEE4';
const SECTION_GROUND = '#FDFCF9';

/** Plan, Section and Model over one canvas: pointer and keys; the drawing itself is the worker's and the compositor's. */
@Component({
  selector: 'pam-viewer',
  imports: [MatIconModule, ModelOverlayComponent, PlanOverlayComponent, NgTemplateOutlet, SectionOverlayComponent],
  providers: [FlightFeed, PointerReadout, SceneFeed],
  templateUrl: './viewer.component.html',
  styleUrl: './viewer.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ViewerComponent {
  protected readonly store = inject(JobStore);
  protected readonly layers = inject(LayerStore);
  protected readonly renderers = inject(RendererStore);
  protected readonly views = inject(ViewStore);
  protected readonly look = inject(LookStore);
  protected readonly cameras = inject(ViewCameras);
  private readonly capture = inject(ViewCapture);
  protected readonly gestures = inject(PointerTool);
  protected readonly comparison = inject(SectionComparison);
  private readonly link = inject(DrawingLink);
  protected readonly readout = inject(PointerReadout);
  private readonly sceneLines = inject(SceneLines);
  /** What goes over each view besides its own overlay, given the view. */
  protected readonly over = contentChild<TemplateRef<{ $implicit: ViewId }>>(TemplateRef);
  private readonly destroyRef = inject(DestroyRef);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly glCanvas = viewChild.required<ElementRef<HTMLCanvasElement>>('glCanvas');
  protected readonly isByGraphics = computed(() => this.renderers.painter() === 'graphics');

  protected readonly viewNames: Readonly<Record<ViewId, string>> = {
    plan: 'Plan',
    section: 'Section',
    after: 'Section as it would be',
    model: 'Model',
  };
  protected readonly isReady = computed(() => this.store.workbench() !== undefined);
  protected readonly hasClouds = computed(() => this.store.inSight().length > 0);

  private compositor: PictureSink | undefined;
  private readonly lines = new Map<string, LineLayer>();
  private readonly timing = new DrawTiming((view, isMoving) => this.draw(view, isMoving));
  private drag: { view: ViewId; x: number; y: number; button: number } | undefined;
  private hadSection = false;

  constructor() {
    // What is loaded is sent to be drawn for as long as there is a viewer.
    inject(SceneFeed);
    inject(FlightFeed);
    this.readout.isMoving = () => this.drag !== undefined;
    afterNextRender(() => this.begin());
    effect(() => {
      const { width, height } = this.cameras.size();
      this.cameras.places();
      // What was drawn between the views' new places goes.
      this.compositor?.resize(width, height, Math.min(2, devicePixelRatio));
      this.look.isDarkGround();
      this.layers.isReliefDrawn();
      untracked(() => this.invalidate());
    });
    effect(() => {
      const has = this.cameras.section() !== undefined;
      if (this.hadSection && !has) this.link.drop('section');
      this.hadSection = has;
    });
    effect(() => {
      const compared = this.comparison.compared();
      this.link.setPreviewed(compared?.views ?? []);
      if (!compared || this.cameras.section() === undefined) this.link.drop('after');
    });
    this.cameras.changes$.pipe(takeUntilDestroyed()).subscribe(({ view, isMoving }) => {
      // The section is shown twice where two states of the ground are held against each other.
      const views: ViewId[] = view && isSection(view) ? ['section', 'after'] : view ? [view] : [];
      if (view && isMoving) this.timing.moving(views);
      else this.invalidate(...views);
    });
    this.sceneLines.changes$.pipe(takeUntilDestroyed()).subscribe(({ key, layer }) => {
      if (layer) this.lines.set(key, layer);
      else this.lines.delete(key);
      this.compositor?.setLines(key, layer);
      this.renderAll();
    });
  }

  protected readonly isSection = isSection;

  protected pressed(event: PointerEvent, view: ViewId): void {
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    if (event.button === 0 && this.gestures.worksIn(view)) this.gestures.down(toolEvent(event, view));
    else this.drag = { view, x: event.clientX, y: event.clientY, button: event.button };
  }

  protected moved(event: PointerEvent, view: ViewId): void {
    const { drag } = this;
    if (!drag) {
      const [px, py] = within(event);
      if (this.gestures.worksIn(view)) this.gestures.move(toolEvent(event, view));
      if (event.buttons === 0) this.readout.at(view, px, py);
      return;
    }
    const dx = event.clientX - drag.x;
    const dy = event.clientY - drag.y;
    drag.x = event.clientX;
    drag.y = event.clientY;
    // What is being drawn on Model's picture belongs to that picture.
    if (drag.view === 'model' && this.gestures.view() === 'model') return;
    this.cameras.drag(drag.view, dx, dy, drag.button !== 0 || event.shiftKey);
  }

  protected released(event: PointerEvent, view: ViewId): void {
    if (!this.drag && event.button === 0 && event.type !== 'pointercancel' && this.gestures.worksIn(view))
      this.gestures.up(toolEvent(event, view));
    this.drag = undefined;
  }

  protected doubled(event: MouseEvent, view: ViewId): void {
    if (this.gestures.worksIn(view)) this.gestures.doubleClick(toolEvent(event, view));
  }

  protected wheeled(event: WheelEvent, view: ViewId): void {
    event.preventDefault();
    if (view === 'model' && this.gestures.view() === 'model') return;
    this.cameras.zoom(view, Math.exp(Math.max(-120, Math.min(120, event.deltaY)) * 0.0022), ...within(event));
  }

  protected keyed(event: KeyboardEvent, view: ViewId): void {
    if (event.ctrlKey || event.metaKey) return;
    const { width, height } = this.cameras.places()[view];
    const [dx, dy] = ARROW_STEPS[event.key] ?? [0, 0];
    const zoom = ZOOM_STEPS[event.key];
    if (this.gestures.keyed(event, view)) {
      const at = this.gestures.at();
      if (at?.byKeys && at.view === view) this.readout.at(view, at.px, at.py);
    } else if (zoom !== undefined) this.cameras.zoom(view, zoom, width / 2, height / 2);
    else if (dx !== 0 || dy !== 0) this.cameras.step(view, dx, dy, event.shiftKey);
    else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private begin(): void {
    const canvas = this.canvas().nativeElement;
    this.capture.canvas = () => (this.compositor?.isFlat === false ? this.glCanvas() : this.canvas()).nativeElement;
    this.compositor = new FlatCompositor(canvas, this.link);
    for (const [key, layer] of this.lines) this.compositor.setLines(key, layer);
    this.link.pictures$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((picture) => {
      this.compositor?.setPicture(
        picture.view,
        picture.width,
        picture.height,
        picture.rgba,
        picture.depth,
        picture.matrix,
      );
      if (picture.view === this.cameras.shown()[0]) this.views.drawnPoints.set(picture.drawn);
      this.renderAll();
      canvas.dataset['pictures'] = String(Number(canvas.dataset['pictures'] ?? 0) + 1);
      canvas.dataset['complete'] = String(picture.isComplete);
      canvas.dataset['drawn'] = String(picture.drawn);
      canvas.dataset['milliseconds'] = picture.milliseconds.toFixed(1);
      // What WebGL is here is asked once there is a picture to look at.
      if (picture.isComplete) this.renderers.find();
    });
    this.link.trouble$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((message) => this.store.say(message));
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      const size = { width: Math.max(1, Math.round(width)), height: Math.max(1, Math.round(height)) };
      this.cameras.size.set(size);
      this.compositor?.resize(size.width, size.height, Math.min(2, devicePixelRatio));
      this.invalidate();
    });
    observer.observe(canvas);
    this.destroyRef.onDestroy(() => {
      observer.disconnect();
      this.timing.stop();
      this.compositor?.dispose();
    });
    this.link.painter$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(({ name }) => {
      canvas.dataset['painter'] = name;
      this.renderers.painter.set(name);
      this.composeBy(name);
    });
    // Who draws was told before anybody listened.
    this.link.setPainter(this.renderers.wanted());
  }

  /** Changes the way pictures get on the page; the lines go along. */
  private composeBy(name: PainterName): void {
    const isFlat = name === 'processor';
    if (this.compositor?.isFlat === isFlat) return;
    for (const key of this.lines.keys()) this.compositor?.setLines(key, undefined);
    this.compositor?.dispose();
    try {
      this.compositor = isFlat
        ? new FlatCompositor(this.canvas().nativeElement, this.link)
        : new Compositor(this.glCanvas().nativeElement);
    } catch {
      this.store.say('This browser has no WebGL. The processor draws the points.');
      this.compositor = new FlatCompositor(this.canvas().nativeElement, this.link);
      this.renderers.choose('processor');
    }
    const { width, height } = this.cameras.size();
    this.compositor.resize(width, height, Math.min(2, devicePixelRatio));
    for (const [key, layer] of this.lines) this.compositor.setLines(key, layer);
    this.invalidate();
  }

  private backgroundOf(view: ViewId): string {
    return isSection(view) ? SECTION_GROUND : this.look.isDarkGround() ? DARK_GROUND : LIGHT_GROUND;
  }

  /** Draws the views again in full; all of them where none is named. */
  private invalidate(...views: ViewId[]): void {
    this.timing.changed(views.length > 0 ? views : this.cameras.shown());
  }

  private draw(view: ViewId, isMoving: boolean): void {
    if (!this.cameras.shown().includes(view)) return;
    const { width, height } = this.cameras.places()[view];
    if (width < 2 || height < 2) return;
    const showSurface = !isSection(view) && this.layers.isReliefDrawn();
    this.link.draw({
      view,
      width,
      height,
      isMoving,
      matrix: this.cameras.matrixOf(view),
      scale: this.cameras.scaleOf(view),
      shading: view === 'model' ? 0.5 : view === 'plan' && !showSurface ? 0.55 : 0,
      showPoints: !showSurface,
      showSurface,
      ground: this.compositor?.isFlat ? rgbOf(this.backgroundOf(view)) : undefined,
    });
  }

  private renderAll(): void {
    const { height } = this.cameras.size();
    for (const view of this.cameras.shown())
      this.compositor?.render(view, this.cameras.places()[view], height, this.backgroundOf(view));
  }
}

function within(event: MouseEvent): [number, number] {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  return [event.clientX - box.left, event.clientY - box.top];
}

function toolEvent(event: MouseEvent, view: ViewId): ToolEvent {
  const [px, py] = within(event);
  return { view, px, py, shift: event.shiftKey, alt: event.altKey };
}
