import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import type { MaskPreview, MaskRingResource } from '@pampero/contract';
import { catchError, EMPTY, type Subscription } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';
import { SelectionStore } from '../../tools/selection-store';
import { ToolGestures } from '../../tools/tool-gestures';
import { PictureStore } from '../../viewer/picture-store';
import { PlanCovers } from '../../viewer/plan-covers';
import { PlanMarks } from '../../viewer/plan-marks';
import type { ToolEvent } from '../../viewer/pointer-tool';
import { ViewCameras } from '../../viewer/view-cameras';

/** What the tool does: picks places whose colour is looked for, or paints. */
export type MaskMode = 'pick' | 'add' | 'remove';
type Place = readonly [number, number];
export interface Stroke {
  readonly path: readonly Place[];
  readonly radius: number;
  readonly adds: boolean;
}

const FOLLOWS_AFTER_MS = 120;
/** Pixels between the places of a stroke. */
const STEP = 4;

/** A mask in the making: places that were picked, strokes painted over it, and what it would be. Masks of the job that are shown. */
@Injectable()
export class MaskStore {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly covers = inject(PlanCovers);
  private readonly marks = inject(PlanMarks);
  private readonly selection = inject(SelectionStore);
  private readonly pictures = inject(PictureStore);

  readonly mode = signal<MaskMode>('pick');
  readonly places = signal<readonly Place[]>([]);
  readonly strokes = signal<readonly Stroke[]>([]);
  /** What the form holds. */
  readonly values = signal<Readonly<Record<string, unknown>>>({});
  readonly preview = signal<MaskPreview | undefined>(undefined);
  readonly fault = signal('');
  readonly isEmpty = computed(() => this.places().length === 0 && this.strokes().length === 0);
  /** What goes into the form that nobody types. */
  private readonly drawn = computed(() => ({ places: this.places(), painted: this.strokes() }));
  /** ... with the tolerance that the preview found, so that what is made is what was seen. */
  readonly given = computed(() => {
    const seen = this.values()['tolerance'] === undefined ? this.preview()?.tolerance : undefined;
    return { ...this.drawn(), ...(seen !== undefined && { tolerance: Math.max(0.5, seen) }) };
  });

  private stroke: Place[] | undefined;
  private lastPixel: readonly [number, number] = [0, 0];
  private asking: Subscription | undefined;
  private readonly rings = signal<ReadonlyMap<number, readonly MaskRingResource[]>>(new Map());

  constructor() {
    inject(ToolGestures).handle('mask', {
      down: (event) => this.begin(event),
      move: (event) => this.draw(event),
      up: () => this.finish(),
      click: (event) => this.click(event),
      keyed: (event) => this.keyed(event),
    });
    effect(() => {
      const [picking, places] = [this.views.tool() === 'mask', this.places()];
      const dots = places.map(([easting, northing], k) => ({
        key: `mask ${k}`,
        kind: 'dot' as const,
        easting,
        northing,
      }));
      this.marks.set('mask-places', picking || this.preview() ? dots : []);
    });
    // Places are picked on the picture: while the tool is in hand it lies over the points.
    effect((onCleanup) => {
      if (this.views.tool() !== 'mask') return;
      const before = untracked(this.pictures.wipe);
      this.pictures.wipe.set(1);
      onCleanup(() => {
        if (untracked(this.pictures.wipe) === 1) this.pictures.wipe.set(before);
      });
    });
    // What would be made follows what is picked, painted, typed and looked at, a moment after the last change.
    effect((onCleanup) => {
      const [isOn, isEmpty, values, drawn] = [
        this.views.tool() === 'mask',
        this.isEmpty(),
        this.values(),
        this.drawn(),
      ];
      const window = this.cameras.planWindow();
      if (!isOn || (isEmpty && values['like'] === undefined)) {
        untracked(() => this.forgetPreview());
        return;
      }
      const timer = setTimeout(() => this.look(values, drawn, window), FOLLOWS_AFTER_MS);
      onCleanup(() => clearTimeout(timer));
    });
    effect(() => {
      const preview = this.preview();
      this.covers.set('mask-preview', preview ? [{ key: 'preview', look: 'preview', rings: preview.rings }] : []);
    });
    effect(() => {
      const masks = this.layers.shownMasks();
      const rings = this.rings();
      for (const { id } of masks) if (!rings.has(id)) untracked(() => this.read(id));
      this.covers.set(
        'masks',
        // While one is in the making the others would hide it.
        this.preview() ? [] : masks.map(({ id }) => ({ key: `mask-${id}`, look: 'kept', rings: rings.get(id) ?? [] })),
      );
    });
  }

  /** Takes the tool in hand. */
  take(mode: MaskMode): void {
    this.mode.set(mode);
    this.views.takeTool('mask');
  }

  clear(): void {
    this.places.set([]);
    this.strokes.set([]);
    this.forgetPreview();
  }

  private forgetPreview(): void {
    this.asking?.unsubscribe();
    this.preview.set(undefined);
    this.fault.set('');
  }

  private look(
    values: Readonly<Record<string, unknown>>,
    drawn: object,
    window: { west: number; south: number; east: number; north: number },
  ): void {
    const { picture, ...parameters } = values;
    if (typeof picture !== 'number') return;
    this.asking?.unsubscribe();
    this.asking = this.api
      .call('previewMask', {
        params: { jobId: this.store.jobId(), productId: picture },
        body: { window, parameters: { ...parameters, ...drawn } },
      })
      .pipe(
        catchError((error: unknown) => {
          this.preview.set(undefined);
          this.fault.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
      )
      .subscribe((preview) => {
        this.preview.set(preview);
        this.fault.set(preview.pieces === 0 ? 'Nothing is left: give a larger colour tolerance, or soften less.' : '');
      });
  }

  private read(id: number): void {
    this.rings.update((rings) => new Map(rings).set(id, []));
    this.api
      .call('showProduct', { params: { jobId: this.store.jobId(), productId: id }, query: {} })
      .pipe(catchError(() => EMPTY))
      .subscribe((bytes) => {
        const rings = JSON.parse(new TextDecoder().decode(bytes)) as MaskRingResource[];
        this.rings.update((all) => new Map(all).set(id, rings));
      });
  }

  private placeOf({ px, py }: ToolEvent): Place {
    const [x, y] = this.cameras.hold('plan', px, py);
    const [ox, oy] = this.cameras.origin();
    return [x + ox, y + oy];
  }

  private begin(event: ToolEvent): void {
    if (this.mode() === 'pick' || event.view !== 'plan') return;
    this.stroke = [this.placeOf(event)];
    this.lastPixel = [event.px, event.py];
  }

  private draw(event: ToolEvent): void {
    if (!this.stroke || Math.hypot(event.px - this.lastPixel[0], event.py - this.lastPixel[1]) < STEP) return;
    this.stroke.push(this.placeOf(event));
    this.lastPixel = [event.px, event.py];
  }

  private finish(): void {
    const path = this.stroke;
    this.stroke = undefined;
    if (path && path.length > 1) this.paint(path);
  }

  private click(event: ToolEvent): void {
    if (event.view !== 'plan') return;
    const place = this.placeOf(event);
    if (this.mode() === 'pick') this.places.update((places) => [...places, place]);
    else this.paint([place]);
  }

  private paint(path: readonly Place[]): void {
    const radius = this.selection.brushRadius() * this.cameras.plan().unitsPerPixel;
    this.strokes.update((strokes) => [...strokes, { path, radius, adds: this.mode() === 'add' }]);
  }

  private keyed({ key }: KeyboardEvent): boolean {
    if (key !== 'Backspace' || this.isEmpty()) return false;
    const last = this.mode() === 'pick' || this.strokes().length === 0 ? this.places : this.strokes;
    (last as typeof this.places).update((all) => all.slice(0, -1));
    return true;
  }
}
