import { computed, inject, Injectable } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { catchError, of, switchMap } from 'rxjs';
import { ApiClient } from '../api/api-client';
import { JobStore } from './job-store';
import { LayerStore } from './layer-store';

/** Surveyed points with what the first cloud shown says there. */
@Injectable()
export class ControlStore {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);

  /** What decides the look: the first cloud shown, its classes, and how many points there are. */
  private readonly wanted = computed(
    () => {
      const cloud = this.layers.shownClouds()[0];
      const count = this.store.controlCount();
      return cloud && count > 0 ? { cloudId: cloud.id, revision: cloud.revision, count } : undefined;
    },
    { equal: (a, b) => a?.cloudId === b?.cloudId && a?.revision === b?.revision && a?.count === b?.count },
  );
  readonly look = toSignal(
    toObservable(this.wanted).pipe(
      switchMap((wanted) =>
        wanted
          ? this.api
              .call('lookAtControl', { params: { jobId: this.store.jobId(), cloudId: wanted.cloudId } })
              .pipe(catchError(() => of(undefined)))
          : of(undefined),
      ),
    ),
  );
}
