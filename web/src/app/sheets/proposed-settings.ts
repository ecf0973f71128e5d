import { computed, inject, type Signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import type { OperationId } from '@pampero/contract';
import { catchError, map, of, startWith, switchMap } from 'rxjs';
import { ApiClient } from '../api/api-client';
import { JobStore } from '../state/job-store';

/** Settings for an operation's form that a cloud proposes, and why. */
export interface ProposedSettings {
  readonly label: string;
  readonly values: Readonly<Record<string, unknown>>;
  readonly reasons: readonly string[];
}

/** What a form says while the cloud is looked at. */
export const LOOKING = 'Looking at the cloud for settings.';

/** Settings that the newest cloud proposes for an operation; undefined while it is looked at. Called where services are injected. */
export function proposedSettings(operation: () => OperationId): Signal<ProposedSettings | undefined> {
  const [api, store] = [inject(ApiClient), inject(JobStore)];
  const asked = toObservable(
    computed(() => [store.clouds().at(-1)?.id, operation()] as const, {
      equal: (a, b) => a[0] === b[0] && a[1] === b[1],
    }),
  );
  return toSignal(
    asked.pipe(
      switchMap(([cloudId, id]) =>
        cloudId === undefined
          ? of(undefined)
          : api.call('proposeSettings', { params: { jobId: store.jobId(), cloudId, operation: id } }).pipe(
              // Without a proposal the form has settings of its own.
              catchError(() => of({ parameters: {}, reasons: [] })),
              startWith(undefined),
            ),
      ),
      map(
        (proposal) =>
          proposal && {
            label: proposal.reasons.length > 0 ? 'Proposed for this cloud' : 'Usual settings',
            values: proposal.parameters,
            reasons: proposal.reasons,
          },
      ),
    ),
  );
}
