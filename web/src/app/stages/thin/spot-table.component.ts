import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { spotPointSchema, type SpotPoint } from '@pampero/contract';
import { catchError, map, of, switchMap, type Observable } from 'rxjs';
import { z } from 'zod';
import { ApiClient, ApiError, jsonOf } from '../../api/api-client';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { ViewCameras } from '../../viewer/view-cameras';
import { JobStore } from '../../state/job-store';

interface Change {
  readonly number?: string;
  readonly code?: string;
  readonly isLeftOut?: boolean;
}

interface Read {
  readonly id?: number;
  readonly points: readonly SpotPoint[];
}
const NOTHING: Read = { points: [] };

/** The newest list of numbered points: looked through, searched, numbers and codes set right, points left out. */
@Component({
  selector: 'pam-spot-table',
  imports: [MatButtonModule, MatIconModule, ScrollingModule],
  templateUrl: './spot-table.component.html',
  styleUrl: './spot-table.component.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class SpotTableComponent {
  private readonly api = inject(ApiClient);
  private readonly cameras = inject(ViewCameras);
  protected readonly store = inject(JobStore);
  protected readonly fault = signal('');
  protected readonly list = computed(() => this.store.newest('spots'));
  private readonly listId = computed(() => this.list()?.id);

  /** The points at hand and the list that they are of: until a new one has come, changes go to the one that is read. */
  private readonly read = toSignal(
    toObservable(this.listId).pipe(switchMap((id) => (id === undefined ? of(NOTHING) : this.pointsOf(id)))),
    { initialValue: NOTHING },
  );
  protected readonly points = computed(() => this.read().points);
  private readonly decimals = computed(() => this.list()?.facts.decimals ?? 3);
  protected readonly search = signal('');
  protected readonly changes = signal<ReadonlyMap<number, Change>>(new Map());
  protected readonly rows = computed(() => {
    const words = this.search().trim().toLowerCase();
    const changes = this.changes();
    const decimals = this.decimals();
    return this.points().flatMap((point, index) => {
      const change = changes.get(index);
      const { number, code } = { ...point, ...change };
      if (words && !number.toLowerCase().includes(words) && !code.toLowerCase().includes(words)) return [];
      return [
        {
          index,
          number,
          code,
          isLeftOut: change?.isLeftOut === true,
          isChanged: change !== undefined,
          place: [point.easting, point.northing, point.elevation] as [number, number, number],
          easting: formatNumber(point.easting, decimals),
          northing: formatNumber(point.northing, decimals),
          elevation: formatNumber(point.elevation, decimals),
        },
      ];
    });
  });
  protected readonly summary = computed(
    () => `${formatCount(this.rows().length)} of ${formatCount(this.points().length)}`,
  );

  constructor() {
    // A new list has no changes yet.
    effect(() => {
      this.read();
      this.changes.set(new Map());
    });
  }

  private pointsOf(id: number): Observable<Read> {
    this.fault.set('');
    return this.api.call('showProduct', { params: { jobId: this.store.jobId(), productId: id } }).pipe(
      map((bytes) => ({ id, points: jsonOf(bytes, z.array(spotPointSchema)) })),
      catchError((error: Error) => {
        this.fault.set(
          `The numbered points could not be read. ${error instanceof ApiError ? error.problem.detail : 'Their file is damaged.'}`,
        );
        return of(NOTHING);
      }),
    );
  }

  /** A row stays the same element while the job is read anew: what is being typed into it, and the focus, are kept. */
  protected readonly byPoint = (_: number, { index }: { readonly index: number }): number => index;

  protected set(index: number, change: Change): void {
    this.changes.update((before) => new Map(before).set(index, { ...before.get(index), ...change }));
  }

  protected show(place: [number, number, number]): void {
    this.cameras.lookClose(place, 40);
  }

  protected keep(): void {
    const { id } = this.read();
    if (id === undefined) return;
    const changes = [...this.changes()].map(([index, change]) => ({ index, ...change }));
    this.store.start('edit-points', { spotsId: id, changes }, ({ problem }) =>
      this.fault.set(problem.errors?.[0]?.detail ?? problem.detail),
    );
  }

  protected drop(): void {
    this.changes.set(new Map());
    this.fault.set('');
  }
}
