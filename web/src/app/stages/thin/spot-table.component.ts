import { ScrollingModule } from '@angular/cdk/scrolling';
import { ChangeDetectionStrategy, Component, computed, effect, inject, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { spotPointSchema, type SpotPoint } from '@pampero/contract';
import { catchError, map, of, switchMap } from 'rxjs';
import { z } from 'zod';
import { ApiClient, jsonOf } from '../../api/api-client';
import { formatCount, formatNumber } from '@pampero/core/wording';
import { ViewCameras } from '../../viewer/view-cameras';
import { JobStore } from '../../state/job-store';

interface Change {
  readonly number?: string;
  readonly code?: string;
  readonly isLeftOut?: boolean;
}

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
  protected readonly list = computed(() => this.store.newest('spots'));
  private readonly listId = computed(() => this.list()?.id);
  protected readonly points = toSignal(
    toObservable(this.listId).pipe(
      switchMap((id) =>
        id === undefined
          ? of([])
          : this.api.call('showProduct', { params: { jobId: this.store.jobId(), productId: id } }).pipe(
              map((bytes) => jsonOf(bytes, z.array(spotPointSchema))),
              catchError(() => of([] as SpotPoint[])),
            ),
      ),
    ),
    { initialValue: [] as SpotPoint[] },
  );
  protected readonly search = signal('');
  protected readonly changes = signal<ReadonlyMap<number, Change>>(new Map());
  protected readonly fault = signal('');
  protected readonly rows = computed(() => {
    const words = this.search().trim().toLowerCase();
    const changes = this.changes();
    const decimals = this.list()?.facts.decimals ?? 3;
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
      this.points();
      this.changes.set(new Map());
      this.fault.set('');
    });
  }

  protected set(index: number, change: Change): void {
    this.changes.update((before) => new Map(before).set(index, { ...before.get(index), ...change }));
  }

  protected show(place: [number, number, number]): void {
    this.cameras.lookClose(place, 40);
  }

  protected keep(): void {
    const id = this.listId();
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
