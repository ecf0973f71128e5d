import { computed, effect, inject, Injectable, signal } from '@angular/core';
import type { SurfaceFaultResource } from '@pampero/contract';
import { unpackArrays } from '@pampero/core/binary';
import type { SurfaceEdit } from '@pampero/core/terrain';
import { catchError, EMPTY, finalize } from 'rxjs';
import { ApiService } from '../api/api.service';
import { ViewCameras } from '../viewer/view-cameras';
import { WorkbenchStore } from '../workbench/workbench-store';

export type EditMode = 'take-out' | 'swap' | 'drop' | 'add';

/** Editing the shown surface by hand: what a click does, the sides that are drawn meanwhile, and what looks wrong on it. */
@Injectable()
export class SurfaceEditStore {
  private readonly api = inject(ApiService);
  private readonly store = inject(WorkbenchStore);
  private readonly cameras = inject(ViewCameras);
  readonly mode = signal<EditMode>('take-out');
  /** Elevation of points that are added, as typed. */
  readonly elevation = signal<number | undefined>(undefined);
  readonly fault = signal('');
  readonly faults = signal<readonly SurfaceFaultResource[] | undefined>(undefined);
  readonly currentFault = signal<SurfaceFaultResource | undefined>(undefined);
  readonly isLooking = signal(false);
  readonly tooMany = signal(false);
  /** Segments about the scene's origin, by kind: inside, held by a line, rim. */
  readonly sides = signal<readonly [Float32Array, Float32Array, Float32Array] | undefined>(undefined);
  private readonly isEditing = computed(() => this.store.tool() === 'triangles');
  private readonly surfaceId = computed(() => this.store.shownSurface()?.id);

  constructor() {
    effect((onCleanup) => {
      const surfaceId = this.surfaceId();
      const window = this.cameras.planWindow();
      if (!this.isEditing() || surfaceId === undefined) {
        this.sides.set(undefined);
        return;
      }
      const timer = setTimeout(() => this.readSides(surfaceId, window), 150);
      onCleanup(() => clearTimeout(timer));
    });
  }

  private readSides(surfaceId: number, window: { west: number; south: number; east: number; north: number }): void {
    this.api
      .readSurfaceSides(this.store.jobId(), surfaceId, window)
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
        this.sides.set([Float32Array.from(out[0]), Float32Array.from(out[1]), Float32Array.from(out[2])]);
      });
  }

  /** Does what is chosen at a place in plan. */
  clickAt(place: readonly [number, number]): void {
    const mode = this.mode();
    if (mode === 'add') {
      const elevation = this.elevation();
      if (elevation === undefined) {
        this.fault.set('Type the elevation of the point that is added.');
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
      .findSurfaceFaults(this.store.jobId(), surfaceId)
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
    this.store.takeTool('triangles');
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
