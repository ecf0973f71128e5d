import { computed, effect, inject, Injectable, signal } from '@angular/core';
import type { SurfaceFaultResource } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import type { SurfaceEdit } from '@pampero/core/terrain';
import { catchError, EMPTY, finalize } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { ToolGestures } from '../../tools/tool-gestures';
import { PlanMarks } from '../../viewer/plan-marks';
import { SceneLines } from '../../viewer/scene-lines';
import { ViewCameras } from '../../viewer/view-cameras';
import { JobStore } from '../../state/job-store';
import { LayerStore } from '../../state/layer-store';
import { ViewStore } from '../../state/view-store';

export type EditMode = 'take-out' | 'swap' | 'drop' | 'add';

/** Editing the shown surface by hand: what a click does, the edges that are drawn meanwhile, and what looks wrong on it. */
@Injectable()
export class SurfaceEditStore {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly lines = inject(SceneLines);
  private readonly marks = inject(PlanMarks);
  readonly mode = signal<EditMode>('take-out');
  /** Elevation of points that are added, as typed. */
  readonly elevation = signal<number | undefined>(undefined);
  readonly fault = signal('');
  readonly faults = signal<readonly SurfaceFaultResource[] | undefined>(undefined);
  readonly currentFault = signal<SurfaceFaultResource | undefined>(undefined);
  readonly isLooking = signal(false);
  readonly tooMany = signal(false);
  /** Segments about the scene's origin, by kind: inside, held by a line, boundary. */
  readonly edges = signal<readonly [Float32Array, Float32Array, Float32Array] | undefined>(undefined);
  private readonly isEditing = computed(() => this.views.tool() === 'triangles');
  private readonly surfaceId = computed(() => this.layers.shownSurface()?.id);

  constructor() {
    inject(ToolGestures).onClick('triangles', (place) => this.clickAt(place));
    effect(() => {
      const edges = this.edges();
      const look = { opacity: 1, isDepthTested: false };
      this.lines.set('edges-inside', edges?.[0], { ...look, colour: '#1f2a30', opacity: 0.55 });
      this.lines.set('edges-held', edges?.[1], { ...look, colour: '#0B5FA5' });
      this.lines.set('edges-boundary', edges?.[2], { ...look, colour: '#B3261E' });
    });
    effect(() => {
      const fault = this.isEditing() ? this.currentFault() : undefined;
      this.marks.set('surface-fault', fault ? [{ key: 'surface-fault', kind: 'ring', ...placeOf(fault) }] : []);
    });
    effect((onCleanup) => {
      const surfaceId = this.surfaceId();
      const window = this.cameras.planWindow();
      if (!this.isEditing() || surfaceId === undefined) {
        this.edges.set(undefined);
        return;
      }
      const timer = setTimeout(() => this.readEdges(surfaceId, window), 150);
      onCleanup(() => clearTimeout(timer));
    });
  }

  private readEdges(surfaceId: number, window: { west: number; south: number; east: number; north: number }): void {
    this.api
      .call('readSurfaceEdges', { params: { jobId: this.store.jobId(), productId: surfaceId }, body: window })
      .pipe(catchError(() => EMPTY))
      .subscribe((bytes) => {
        if (this.surfaceId() !== surfaceId || !this.isEditing()) return;
        const { arrays, facts } = unpackArrays(new Uint8Array(bytes));
        this.tooMany.set((facts as { tooMany?: boolean }).tooMany === true);
        const places = arrays['places'] as Float64Array;
        const marks = arrays['marks'] as Uint8Array;
        const origin = this.cameras.origin();
        const out: [number[], number[], number[]] = [[], [], []];
        marks.forEach((mark, k) => {
          const to = out[mark as 0 | 1 | 2];
          for (let i = 0; i < 6; i++) to.push(places[6 * k + i]! - origin[(i % 3) as 0 | 1 | 2]);
        });
        this.edges.set([Float32Array.from(out[0]), Float32Array.from(out[1]), Float32Array.from(out[2])]);
      });
  }

  /** Does what is chosen at a place in plan. */
  clickAt(place: readonly [number, number]): void {
    const mode = this.mode();
    if (mode === 'add') {
      const elevation = this.elevation();
      if (elevation === undefined) {
        this.fault.set('Type the elevation of the new point.');
        return;
      }
      this.apply({ kind: 'add', place, elevation });
    } else this.apply({ kind: mode, place });
  }

  apply(edit: SurfaceEdit): void {
    const surfaceId = this.surfaceId();
    if (surfaceId === undefined) return;
    this.fault.set('');
    this.store.start('edit-surface', { surfaceId, edits: [edit] }, ({ problem }) =>
      this.fault.set(problem.errors?.[0]?.detail ?? problem.detail),
    );
  }

  look(): void {
    const surfaceId = this.surfaceId();
    if (surfaceId === undefined || this.isLooking()) return;
    this.isLooking.set(true);
    this.api
      .call('findSurfaceFaults', { params: { jobId: this.store.jobId(), productId: surfaceId } })
      .pipe(
        catchError((error: unknown) => {
          this.fault.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
        finalize(() => this.isLooking.set(false)),
      )
      .subscribe((faults) => {
        this.faults.set(faults);
        this.currentFault.set(undefined);
      });
  }

  show(fault: SurfaceFaultResource): void {
    this.currentFault.set(fault);
    this.views.takeTool('triangles');
    const length = fault.kind === 'hole' ? 4 * Math.sqrt(fault.size) : 24;
    this.cameras.lookClose([fault.easting, fault.northing, fault.elevation], length);
  }

  /** The spike or pit that is looked at leaves the surface. */
  takeOut(fault: SurfaceFaultResource): void {
    this.apply({ kind: 'take-out', place: [fault.easting, fault.northing] });
    this.faults.update((faults) => faults?.filter((other) => other !== fault));
    if (this.currentFault() === fault) this.currentFault.set(undefined);
  }
}

function placeOf({ easting, northing }: SurfaceFaultResource): { easting: number; northing: number } {
  return { easting, northing };
}
