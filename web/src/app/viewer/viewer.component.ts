import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { HttpClient } from '@angular/common/http';
import { unpackContours } from '@pampero/core/contours';
import type { Bounds } from '@pampero/core/cloud';
import type { CloudNode } from '@pampero/contract';
import { firstValueFrom } from 'rxjs';
import { formatNumber, shortUnit } from '../shared/format';
import { WorkbenchStore, type SectionLine } from '../workbench/workbench-store';
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
} from './cameras';
import { abgr, classColour } from './colours';
import { Compositor } from './compositor';
import { FlatCompositor } from './flat-compositor';
import { rgbOf, type LineLayer, type PictureSink, type ViewPlace } from './picture-sink';
import { contourSegments } from './contour-lines';
import { DrawingLink } from './drawing-link';
import type { PainterName } from './point-painter';
import { roundLength, roundMarks } from './scale-bar';
import type { ViewId } from './viewer-protocol';

const SECTION_HEIGHT_SHARE = 0.36;
/** How often heights may be drawn out in a section. */
export const EXAGGERATIONS: readonly number[] = [1, 2, 5, 10];
const DARK_GROUND = '#1C262D';
const LIGHT_GROUND = '#F2EEE4';
const SECTION_GROUND = '#FDFCF9';
/** Still this long after the last move, and the full picture is drawn. */
const STILL_AFTER_MS = 160;

/** Plan, Section and Model over one canvas: cameras, pointer and keys; the drawing itself is the worker's and the compositor's. */
@Component({
  selector: 'pam-viewer',
  templateUrl: './viewer.component.html',
  styleUrl: './viewer.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ViewerComponent {
  protected readonly store = inject(WorkbenchStore);
  private readonly http = inject(HttpClient);
  private readonly destroyRef = inject(DestroyRef);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  private readonly glCanvas = viewChild.required<ElementRef<HTMLCanvasElement>>('glCanvas');
  protected readonly isByGraphics = computed(() => this.store.painter() === 'graphics');

  protected readonly viewNames: Readonly<Record<ViewId, string>> = { plan: 'Plan', section: 'Section', model: 'Model' };
  protected readonly isReady = computed(() => this.store.workbench() !== undefined);
  protected readonly hasClouds = computed(() => this.store.clouds().length > 0);
  private readonly size = signal({ width: 800, height: 600 });

  private readonly planCamera = signal<PlanCamera>({ x: 0, y: 0, unitsPerPixel: 1, low: -100, high: 100 });
  private readonly modelCamera = signal<ModelCamera>({
    x: 0,
    y: 0,
    z: 0,
    turn: 20,
    tilt: 38,
    distance: 500,
    exaggeration: 1,
  });
  private readonly sectionCamera = signal<SectionCamera | undefined>(undefined);
  protected readonly firstClick = signal<readonly [number, number] | undefined>(undefined);
  private readonly hoverStation = signal<number | undefined>(undefined);

  private link: DrawingLink | undefined;
  private compositor: PictureSink | undefined;
  private readonly lines = new Map<string, { layer: LineLayer; views: readonly ViewId[] }>();
  private origin: readonly [number, number, number] = [0, 0, 0];
  private nodes = new Map<number, { revision: number; nodes: readonly CloudNode[] }>();
  private shownContourIds = new Set<number>();
  private framedCloudIds = '';
  private stillTimer: ReturnType<typeof setTimeout> | undefined;
  private readonly dirty = new Map<ViewId, boolean>();
  private frameRequested = false;
  private drag: { view: ViewId; x: number; y: number; button: number; travelled: number } | undefined;
  private pickBusy = false;

  protected readonly shownViews = computed<readonly ViewId[]>(() => {
    const pane = this.store.pane();
    const above: ViewId[] = pane === 'both' ? ['plan', 'model'] : [pane];
    return this.sectionCamera() ? [...above, 'section'] : above;
  });

  protected readonly places = computed<Record<ViewId, ViewPlace>>(() => {
    const { width, height } = this.size();
    const sectionHeight = this.sectionCamera() ? Math.round(height * SECTION_HEIGHT_SHARE) : 0;
    const top = height - sectionHeight - (sectionHeight ? 3 : 0);
    const isBoth = this.store.pane() === 'both';
    const half = Math.floor(width / 2);
    return {
      plan: { left: 0, top: 0, width: isBoth ? half - 1 : width, height: top },
      model: { left: isBoth ? half + 1 : 0, top: 0, width: isBoth ? width - half - 1 : width, height: top },
      section: { left: 0, top: height - sectionHeight, width, height: sectionHeight },
    };
  });

  protected readonly scaleBar = computed(() => {
    const { unitsPerPixel } = this.planCamera();
    const length = roundLength(unitsPerPixel, 170);
    return {
      pixels: length / unitsPerPixel,
      label: `${formatNumber(length, length < 1 ? 2 : 0)} ${shortUnit(this.store.unit())}`,
    };
  });

  protected readonly sectionOnPlan = computed(() => {
    const camera = this.sectionCamera();
    const laying = this.firstClick();
    const place = this.places().plan;
    const plan = this.planCamera();
    const toPixel = (x: number, y: number): [number, number] => [
      (x - plan.x) / plan.unitsPerPixel + place.width / 2,
      place.height / 2 - (y - plan.y) / plan.unitsPerPixel,
    ];
    if (laying) {
      const cursor = this.store.cursor();
      const b = cursor ? ([cursor.easting - this.origin[0], cursor.northing - this.origin[1]] as const) : laying;
      return this.markOf(laying, b, 0, toPixel);
    }
    return camera && this.markOf([camera.ax, camera.ay], [camera.bx, camera.by], camera.depth, toPixel);
  });

  /** Surveyed points in Plan: a cross each, with its number when few are in view. */
  protected readonly controlOnPlan = computed(() => {
    const points = this.store.controlLook()?.points ?? [];
    const { width, height } = this.places().plan;
    const plan = this.planCamera();
    const marks = points
      .map(({ id, number, easting, northing, role, difference }) => ({
        id,
        number,
        isCheck: role === 'check',
        isFound: difference !== undefined,
        x: (easting - this.origin[0] - plan.x) / plan.unitsPerPixel + width / 2,
        y: height / 2 - (northing - this.origin[1] - plan.y) / plan.unitsPerPixel,
      }))
      .filter(({ x, y }) => x > -10 && y > -10 && x < width + 10 && y < height + 10);
    return { marks, isNamed: marks.length <= 60 };
  });

  protected readonly sectionAxes = computed(() => {
    const camera = this.sectionCamera();
    if (!camera) return undefined;
    const { width, height } = this.places().section;
    const unit = shortUnit(this.store.unit());
    const top = sectionToScene(camera, 0, 0, width, height);
    const bottom = sectionToScene(camera, width, height, width, height);
    const ups = roundMarks(bottom.z + this.origin[2], top.z + this.origin[2], Math.max(2, height / 34));
    const alongs = roundMarks(top.station, bottom.station, Math.max(2, width / 90));
    const decimals = (step: number): number => Math.max(0, -Math.floor(Math.log10(step) + 1e-9));
    const atStation = (station: number): number => (station - top.station) / camera.unitsPerPixel;
    return {
      elevations: ups.marks.map((z) => ({
        at: ((top.z + this.origin[2] - z) * camera.exaggeration) / camera.unitsPerPixel,
        label: formatNumber(z, decimals(ups.step)),
      })),
      stations: alongs.marks.map((s) => ({
        at: atStation(s),
        label: `${formatNumber(s, decimals(alongs.step))} ${unit}`,
      })),
      ends: [
        { at: atStation(0), label: 'A' },
        { at: atStation(sectionLength(camera)), label: 'A′' },
      ],
    };
  });

  constructor() {
    afterNextRender(() => this.begin());
    effect(() => {
      const clouds = this.store.clouds();
      const jobId = this.store.jobId();
      untracked(
        () =>
          void this.loadNodes(
            jobId,
            clouds.map((cloud) => ({ id: cloud.id, revision: cloud.revision })),
          ),
      );
    });
    effect(() => {
      this.store.shownClouds();
      this.sendClouds();
    });
    effect(() => {
      const name = this.store.wantedPainter();
      this.link?.setPainter(name);
    });
    effect(() => {
      this.store.colourMode();
      this.store.hiddenClasses();
      this.store.clouds();
      this.sendStyle();
    });
    effect(() => {
      const surface = this.store.shownSurface();
      const jobId = this.store.jobId();
      this.link?.setSurface(surface && `/api/jobs/${jobId}/surfaces/${surface.id}/grid`);
      this.invalidate();
    });
    effect(() => {
      const wanted = this.store.shownContours().map((set) => set.id);
      untracked(() => void this.showContours(wanted));
    });
    effect(() => {
      const line = this.store.section();
      untracked(() => this.laySection(line));
    });
    effect(() => {
      const depth = this.store.sectionDepth();
      const exaggeration = this.store.sectionExaggeration();
      untracked(() => {
        const camera = this.sectionCamera();
        if (camera) this.sectionCamera.set({ ...camera, depth, exaggeration });
        this.invalidate('section', 'plan');
      });
    });
    effect(() => {
      this.places();
      this.store.isDarkGround();
      this.store.drawnSurface();
      untracked(() => this.invalidate());
    });
  }

  /** The whole job in every view. */
  frameAll(): void {
    const bounds = this.sceneBounds();
    const { plan, model } = this.places();
    const [wide, deep] = [bounds.max[0] - bounds.min[0], bounds.max[1] - bounds.min[1]];
    const middle = [0, 1, 2].map((axis) => (bounds.min[axis]! + bounds.max[axis]!) / 2) as [number, number, number];
    this.planCamera.set({
      x: middle[0],
      y: middle[1],
      unitsPerPixel: Math.max(wide / Math.max(1, plan.width - 40), deep / Math.max(1, plan.height - 40), 1e-3),
      low: bounds.min[2] - 1,
      high: bounds.max[2] + 1,
    });
    this.modelCamera.set({
      ...this.modelCamera(),
      x: middle[0],
      y: middle[1],
      z: this.groundLevel(),
      distance: modelDistance(Math.hypot(wide, deep) / 2, model.width, model.height),
    });
    this.invalidate();
  }

  /** Turns the section to look back along itself. */
  turnSection(): void {
    const line = this.store.section();
    if (line) this.store.section.set({ a: line.b, b: line.a });
  }

  protected pressed(event: PointerEvent, view: ViewId): void {
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
    (event.currentTarget as HTMLElement).focus({ preventScroll: true });
    this.drag = { view, x: event.clientX, y: event.clientY, button: event.button, travelled: 0 };
  }

  protected moved(event: PointerEvent, view: ViewId): void {
    const { drag } = this;
    const [px, py] = within(event);
    if (!drag) {
      this.readOut(view, px, py);
      return;
    }
    const dx = event.clientX - drag.x;
    const dy = event.clientY - drag.y;
    drag.x = event.clientX;
    drag.y = event.clientY;
    drag.travelled += Math.abs(dx) + Math.abs(dy);
    if (drag.travelled < 4) return;
    const place = this.places()[drag.view];
    if (drag.view === 'plan')
      this.planCamera.update((c) => ({ ...c, x: c.x - dx * c.unitsPerPixel, y: c.y + dy * c.unitsPerPixel }));
    else if (drag.view === 'model') {
      const pans = drag.button !== 0 || event.shiftKey;
      this.modelCamera.update((c) => (pans ? panModel(c, dx, dy, place.height) : turnModel(c, dx, dy)));
    } else
      this.sectionCamera.update(
        (c) =>
          c && { ...c, station: c.station - dx * c.unitsPerPixel, z: c.z + (dy * c.unitsPerPixel) / c.exaggeration },
      );
    this.moving(drag.view);
  }

  protected released(event: PointerEvent, view: ViewId): void {
    const wasClick = this.drag && this.drag.travelled < 4;
    this.drag = undefined;
    if (wasClick && view === 'plan' && this.store.isLayingSection()) this.clickedSection(...within(event));
  }

  protected left(): void {
    this.store.cursor.set(undefined);
    this.hoverStation.set(undefined);
  }

  protected wheeled(event: WheelEvent, view: ViewId): void {
    event.preventDefault();
    this.zoom(view, Math.exp(Math.max(-120, Math.min(120, event.deltaY)) * 0.0022), ...within(event));
  }

  protected keyed(event: KeyboardEvent, view: ViewId): void {
    const place = this.places()[view];
    const step = event.shiftKey ? 200 : 60;
    const sideways = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    const forwards = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
    if (event.key === 'Escape' && this.store.isLayingSection()) {
      this.store.isLayingSection.set(false);
      this.firstClick.set(undefined);
    } else if (event.key === 'Enter' && view === 'plan' && this.store.isLayingSection())
      this.clickedSection(place.width / 2, place.height / 2);
    else if (event.key === '+' || event.key === '=') this.zoom(view, 0.8, place.width / 2, place.height / 2);
    else if (event.key === '-') this.zoom(view, 1.25, place.width / 2, place.height / 2);
    else if (sideways !== 0 || forwards !== 0) {
      if (view === 'plan')
        this.planCamera.update((c) => ({
          ...c,
          x: c.x + sideways * step * c.unitsPerPixel,
          y: c.y + forwards * step * c.unitsPerPixel,
        }));
      else if (view === 'model') this.modelCamera.update((c) => turnModel(c, sideways * 15, forwards * 8));
      else this.walkSection(sideways, forwards, event.shiftKey ? 10 : 1);
      this.moving(view);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  }

  private zoom(view: ViewId, factor: number, px: number, py: number): void {
    const { width, height } = this.places()[view];
    if (view === 'plan') this.planCamera.update((c) => zoomPlan(c, factor, px, py, width, height));
    else if (view === 'model')
      this.modelCamera.update((c) => ({ ...c, distance: Math.max(0.5, Math.min(1e6, c.distance * factor)) }));
    else
      this.sectionCamera.update((c) => {
        if (!c) return c;
        const at = sectionToScene(c, px, py, width, height);
        return {
          ...c,
          unitsPerPixel: c.unitsPerPixel * factor,
          station: at.station + (c.station - at.station) * factor,
          z: at.z + (c.z - at.z) * factor,
        };
      });
    this.moving(view);
  }

  /** Right and left walk along the line, up and down across it, by its own depth. */
  private walkSection(along: number, across: number, times: number): void {
    const line = this.store.section();
    if (!line) return;
    const length = Math.hypot(line.b[0] - line.a[0], line.b[1] - line.a[1]) || 1;
    const u = [(line.b[0] - line.a[0]) / length, (line.b[1] - line.a[1]) / length] as const;
    const step = this.store.sectionDepth() * times;
    const shift = [step * (u[0] * along - u[1] * across), step * (u[1] * along + u[0] * across)] as const;
    this.store.section.set({
      a: [line.a[0] + shift[0], line.a[1] + shift[1]],
      b: [line.b[0] + shift[0], line.b[1] + shift[1]],
    });
  }

  private clickedSection(px: number, py: number): void {
    const { width, height } = this.places().plan;
    const at = planToScene(this.planCamera(), px, py, width, height);
    const first = this.firstClick();
    if (!first) {
      this.firstClick.set(at);
      return;
    }
    this.firstClick.set(undefined);
    this.store.isLayingSection.set(false);
    if (Math.hypot(at[0] - first[0], at[1] - first[1]) < this.planCamera().unitsPerPixel * 3) {
      this.store.say('The section’s two ends are at the same place: lay it again.');
      return;
    }
    const full = (point: readonly [number, number]): [number, number] => [
      point[0] + this.origin[0],
      point[1] + this.origin[1],
    ];
    this.sectionCamera.set(undefined); // a new section is framed afresh
    this.store.section.set({ a: full(first), b: full(at) });
  }

  private laySection(line: SectionLine | undefined): void {
    if (!line) {
      if (this.sectionCamera()) {
        this.sectionCamera.set(undefined);
        this.link?.drop('section');
      }
      return;
    }
    const [ax, ay, bx, by] = [
      line.a[0] - this.origin[0],
      line.a[1] - this.origin[1],
      line.b[0] - this.origin[0],
      line.b[1] - this.origin[1],
    ];
    const old = this.sectionCamera();
    if (old) this.sectionCamera.set({ ...old, ax, ay, bx, by });
    else {
      const length = Math.hypot(bx - ax, by - ay);
      const { width, height } = this.size();
      const sectionHeight = height * SECTION_HEIGHT_SHARE;
      const unitsPerPixel = (length * 1.06) / Math.max(1, width - 20);
      const exaggeration = this.fittingExaggeration(unitsPerPixel, sectionHeight);
      this.store.sectionExaggeration.set(exaggeration);
      // The ground a third of the way up, so that what stands on it has room.
      const z = this.groundLevel() + ((sectionHeight / 2 - sectionHeight * 0.3) * unitsPerPixel) / exaggeration;
      this.sectionCamera.set({
        ax,
        ay,
        bx,
        by,
        depth: this.store.sectionDepth(),
        exaggeration,
        station: length / 2,
        z,
        unitsPerPixel,
      });
    }
    this.moving('section');
    this.invalidate('plan');
  }

  private readOut(view: ViewId, px: number, py: number): void {
    const { width, height } = this.places()[view];
    if (view === 'plan') {
      const [x, y] = planToScene(this.planCamera(), px, py, width, height);
      const kept = this.store.cursor()?.point;
      this.store.cursor.set({
        easting: x + this.origin[0],
        northing: y + this.origin[1],
        ...(kept && { point: kept }),
      });
    } else if (view === 'section') {
      const camera = this.sectionCamera();
      if (!camera) return;
      const { station, z } = sectionToScene(camera, px, py, width, height);
      const length = sectionLength(camera) || 1;
      this.hoverStation.set(station);
      this.store.cursor.set({
        easting: camera.ax + ((camera.bx - camera.ax) * station) / length + this.origin[0],
        northing: camera.ay + ((camera.by - camera.ay) * station) / length + this.origin[1],
        elevation: z + this.origin[2],
      });
      return;
    }
    if (this.pickBusy || !this.link) return;
    this.pickBusy = true;
    void this.link.pick(view, px, height - py).then((point) => {
      this.pickBusy = false;
      if (this.drag) return;
      const cursor = this.store.cursor();
      if (point)
        this.store.cursor.set({ easting: point.easting, northing: point.northing, elevation: point.elevation, point });
      else if (view === 'model') this.store.cursor.set(undefined);
      else if (cursor) this.store.cursor.set({ easting: cursor.easting, northing: cursor.northing });
    });
  }

  private begin(): void {
    const canvas = this.canvas().nativeElement;
    this.link = new DrawingLink();
    this.compositor = new FlatCompositor(canvas, this.link);
    this.link.pictures$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((picture) => {
      this.compositor?.setPicture(
        picture.view,
        picture.width,
        picture.height,
        picture.rgba,
        picture.depth,
        picture.matrix,
      );
      if (picture.view === this.shownViews()[0]) this.store.drawnPoints.set(picture.drawn);
      this.renderAll();
      canvas.dataset['pictures'] = String(Number(canvas.dataset['pictures'] ?? 0) + 1);
      canvas.dataset['complete'] = String(picture.isComplete);
      canvas.dataset['drawn'] = String(picture.drawn);
      canvas.dataset['milliseconds'] = picture.milliseconds.toFixed(1);
      // What WebGL is here is asked once there is a picture to look at.
      if (picture.isComplete) this.store.findRenderer();
    });
    this.link.trouble$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe((message) => this.store.say(message));
    const observer = new ResizeObserver(([entry]) => {
      const { width, height } = entry!.contentRect;
      this.size.set({ width: Math.max(1, Math.round(width)), height: Math.max(1, Math.round(height)) });
      this.compositor?.resize(this.size().width, this.size().height, Math.min(2, devicePixelRatio));
      this.invalidate();
    });
    observer.observe(canvas);
    this.destroyRef.onDestroy(() => {
      observer.disconnect();
      clearTimeout(this.stillTimer);
      this.link?.close();
      this.compositor?.dispose();
    });
    this.link.painter$.pipe(takeUntilDestroyed(this.destroyRef)).subscribe(({ name }) => {
      canvas.dataset['painter'] = name;
      this.store.painter.set(name);
      this.composeBy(name);
    });
    this.link.setPainter(this.store.wantedPainter());
    this.sendClouds();
    this.sendStyle();
    const surface = this.store.shownSurface();
    this.link.setSurface(surface && `/api/jobs/${this.store.jobId()}/surfaces/${surface.id}/grid`);
  }

  /** Changes the way pictures get on the page; the lines go along. */
  private composeBy(name: PainterName): void {
    const isFlat = name === 'processor';
    if (this.compositor?.isFlat === isFlat) return;
    for (const key of this.lines.keys()) this.compositor?.setLines(key, undefined);
    this.compositor?.dispose();
    try {
      this.compositor = isFlat
        ? new FlatCompositor(this.canvas().nativeElement, this.link!)
        : new Compositor(this.glCanvas().nativeElement);
    } catch {
      this.store.say('This browser offers no WebGL; points are drawn by the processor.');
      this.compositor = new FlatCompositor(this.canvas().nativeElement, this.link!);
      this.store.choosePainter('processor');
    }
    const { width, height } = this.size();
    this.compositor.resize(width, height, Math.min(2, devicePixelRatio));
    for (const [key, { layer, views }] of this.lines) this.compositor.setLines(key, layer, views);
    this.invalidate();
  }

  private setLines(key: string, layer: LineLayer | undefined, views: readonly ViewId[] = ['plan', 'model']): void {
    if (layer) this.lines.set(key, { layer, views });
    else this.lines.delete(key);
    this.compositor?.setLines(key, layer, views);
  }

  private backgroundOf(view: ViewId): string {
    return view === 'section' ? SECTION_GROUND : this.store.isDarkGround() ? DARK_GROUND : LIGHT_GROUND;
  }

  private async loadNodes(jobId: string, clouds: readonly { id: number; revision: number }[]): Promise<void> {
    const fresh = new Map<number, { revision: number; nodes: readonly CloudNode[] }>();
    for (const { id, revision } of clouds) {
      const known = this.nodes.get(id);
      fresh.set(
        id,
        known?.revision === revision
          ? known
          : {
              revision,
              ...(await firstValueFrom(this.http.get<{ nodes: CloudNode[] }>(`/api/jobs/${jobId}/clouds/${id}/nodes`))),
            },
      );
    }
    this.nodes = fresh;
    const ids = clouds.map(({ id }) => id).join();
    if (ids !== this.framedCloudIds && clouds.length > 0) {
      this.framedCloudIds = ids;
      const bounds = this.jobBounds();
      const round = (value: number): number => Math.round(value / 10) * 10;
      this.origin = [
        round((bounds.min[0] + bounds.max[0]) / 2),
        round((bounds.min[1] + bounds.max[1]) / 2),
        round(this.store.clouds()[0]!.source.elevationRange[0]),
      ];
      this.sendClouds();
      this.frameAll();
      this.shownContourIds.clear();
      void this.showContours(this.store.shownContours().map((set) => set.id));
    } else this.sendClouds();
  }

  private sendClouds(): void {
    const clouds = this.store.shownClouds().flatMap((cloud) => {
      const nodes = this.nodes.get(cloud.id)?.nodes;
      if (!nodes) return [];
      const { min, max } = cloud.bounds;
      const pointSpacing = Math.sqrt(((max[0] - min[0]) * (max[1] - min[1])) / Math.max(1, cloud.pointCount));
      return [
        { id: cloud.id, nodes, scale: cloud.quantisation.scale, offset: cloud.quantisation.offset, pointSpacing },
      ];
    });
    this.link?.setClouds(this.store.jobId(), this.origin, clouds);
  }

  private sendStyle(): void {
    const clouds = this.store.clouds();
    const hidden = this.store.hiddenClasses();
    const classColours = new Uint32Array(256);
    for (let code = 0; code < 256; code++) classColours[code] = hidden.has(code) ? 0 : abgr(classColour(code));
    const range = (of: (cloud: (typeof clouds)[number]) => readonly [number, number]): [number, number] => [
      Math.min(...clouds.map((c) => of(c)[0])),
      Math.max(...clouds.map((c) => of(c)[1])),
    ];
    this.link?.setStyle({
      mode: this.store.colourMode(),
      classColours,
      elevationRange: range((cloud) => cloud.source.elevationRange),
      intensityRange: range((cloud) => cloud.intensityRange),
      showWithheld: false,
    });
  }

  private async showContours(wanted: readonly number[]): Promise<void> {
    const jobId = this.store.jobId();
    for (const id of this.shownContourIds) if (!wanted.includes(id)) this.dropContours(id);
    for (const id of wanted) {
      if (this.shownContourIds.has(id)) continue;
      this.shownContourIds.add(id);
      const bytes = await firstValueFrom(
        this.http.get(`/api/jobs/${jobId}/contours/${id}/lines`, { responseType: 'arraybuffer' }),
      ).catch(() => undefined);
      if (!bytes || !this.shownContourIds.has(id)) continue;
      const { index, between } = contourSegments(unpackContours(new Uint8Array(bytes)), this.origin);
      this.setLines(`contours-${id}-between`, {
        positions: between,
        colour: '#5A3A22',
        opacity: 0.55,
        isDepthTested: true,
      });
      this.setLines(`contours-${id}-index`, {
        positions: index,
        colour: '#3B2212',
        opacity: 1,
        isDepthTested: true,
      });
    }
    this.renderAll();
  }

  private dropContours(id: number): void {
    this.shownContourIds.delete(id);
    for (const part of ['between', 'index']) this.setLines(`contours-${id}-${part}`, undefined);
  }

  private moving(view: ViewId): void {
    this.requestDraw(view, true);
    clearTimeout(this.stillTimer);
    this.stillTimer = setTimeout(() => this.invalidate(view), STILL_AFTER_MS);
  }

  /** Draws the views again in full. */
  private invalidate(...views: ViewId[]): void {
    for (const view of views.length > 0 ? views : this.shownViews()) this.requestDraw(view, false);
  }

  private requestDraw(view: ViewId, isMoving: boolean): void {
    this.dirty.set(view, isMoving);
    if (this.frameRequested) return;
    this.frameRequested = true;
    requestAnimationFrame(() => {
      this.frameRequested = false;
      for (const [dirtyView, moves] of this.dirty)
        if (this.shownViews().includes(dirtyView)) this.draw(dirtyView, moves);
      this.dirty.clear();
    });
  }

  private draw(view: ViewId, isMoving: boolean): void {
    const { width, height } = this.places()[view];
    if (width < 2 || height < 2) return;
    const showSurface = this.store.drawnSurface() !== undefined;
    const showPoints = !showSurface;
    const ground = this.compositor?.isFlat ? rgbOf(this.backgroundOf(view)) : undefined;
    const common = { view, width, height, isMoving, showPoints, ground };
    if (view === 'plan') {
      const camera = this.planCamera();
      const scale = { isPerspective: false, near: 0, far: camera.high - camera.low, pixel: camera.unitsPerPixel };
      this.link?.draw({
        ...common,
        matrix: planMatrix(camera, width, height),
        scale,
        shading: showPoints ? 0.55 : 0,
        showSurface,
      });
    } else if (view === 'model') {
      const camera = this.modelCamera();
      this.link?.draw({
        ...common,
        matrix: modelMatrix(camera, width, height),
        scale: modelDepthScale(camera, height),
        shading: 0.5,
        showSurface,
      });
    } else {
      const camera = this.sectionCamera();
      if (!camera) return;
      const scale = { isPerspective: false, near: 0, far: camera.depth, pixel: camera.unitsPerPixel };
      this.link?.draw({
        ...common,
        showPoints: true,
        matrix: sectionMatrix(camera, width, height),
        scale,
        shading: 0,
        showSurface: false,
      });
    }
  }

  private renderAll(): void {
    const { height } = this.size();
    for (const view of this.shownViews()) {
      this.compositor?.render(view, this.places()[view], height, this.backgroundOf(view));
    }
  }

  private jobBounds(): Bounds {
    const clouds = this.store.clouds();
    const of = (end: 'min' | 'max', pick: (...values: number[]) => number): [number, number, number] =>
      [0, 1, 2].map((axis) => pick(...clouds.map((c) => c.bounds[end][axis]!))) as [number, number, number];
    return { min: of('min', Math.min), max: of('max', Math.max) };
  }

  private sceneBounds(): Bounds {
    const bounds = this.jobBounds();
    const shift = (corner: readonly number[]): [number, number, number] =>
      corner.map((value, axis) => value - this.origin[axis]!) as [number, number, number];
    return { min: shift(bounds.min), max: shift(bounds.max) };
  }

  /** The most heights can be drawn out while the land's own still take no more than half of the section. */
  private fittingExaggeration(unitsPerPixel: number, height: number): number {
    const ranges = this.store.clouds().map((cloud) => cloud.source.elevationRange);
    const span = Math.max(1, Math.max(...ranges.map(([, high]) => high)) - Math.min(...ranges.map(([low]) => low)));
    return EXAGGERATIONS.findLast((times) => (span * times) / unitsPerPixel < height / 2) ?? 1;
  }

  private groundLevel(): number {
    const ranges = this.store.clouds().map((cloud) => cloud.source.elevationRange);
    return ranges.length === 0 ? 0 : Math.min(...ranges.map(([low]) => low)) - this.origin[2];
  }

  private markOf(
    a: readonly [number, number],
    b: readonly [number, number],
    depth: number,
    toPixel: (x: number, y: number) => [number, number],
  ) {
    const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
    const n = [(-(b[1] - a[1]) / length) * (depth / 2), ((b[0] - a[0]) / length) * (depth / 2)] as const;
    const [pa, pb] = [toPixel(...a), toPixel(...b)];
    const far = Math.hypot(pb[0] - pa[0], pb[1] - pa[1]) || 1;
    const out = [((pb[0] - pa[0]) / far) * 14, ((pb[1] - pa[1]) / far) * 14] as const;
    const corners = [
      toPixel(a[0] + n[0], a[1] + n[1]),
      toPixel(b[0] + n[0], b[1] + n[1]),
      toPixel(b[0] - n[0], b[1] - n[1]),
      toPixel(a[0] - n[0], a[1] - n[1]),
    ];
    const station = this.hoverStation();
    const hover =
      station === undefined || depth === 0
        ? undefined
        : toPixel(a[0] + ((b[0] - a[0]) * station) / length, a[1] + ((b[1] - a[1]) * station) / length);
    return {
      a: pa,
      b: pb,
      band: corners.map((corner) => corner.join()).join(' '),
      hover,
      labelA: [pa[0] - out[0], pa[1] - out[1]],
      labelB: [pb[0] + out[0], pb[1] + out[1]],
    };
  }
}

function within(event: MouseEvent): [number, number] {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect();
  return [event.clientX - box.left, event.clientY - box.top];
}
