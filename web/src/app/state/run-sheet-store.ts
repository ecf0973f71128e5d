import { computed, DestroyRef, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { GivenPlaces, KeptSheet, RunSheet, RunSheetInput, SheetRun } from '@pampero/contract';
import {
  catchError,
  debounceTime,
  EMPTY,
  filter,
  map,
  merge,
  Subject,
  switchMap,
  tap,
  timer,
  type Observable,
} from 'rxjs';
import { ApiClient, ApiError } from '../api/api-client';
import { JobStore } from './job-store';

const ASK_EVERY_MS = 700;

/** Run sheets that are kept, and their runs through the open job. */
@Injectable()
export class RunSheetStore {
  private readonly api = inject(ApiClient);
  private readonly job = inject(JobStore);
  readonly sheets = signal<readonly KeptSheet[]>([]);
  readonly unreadable = signal<readonly { readonly fileName: string; readonly what: string }[]>([]);
  readonly runs = signal<readonly SheetRun[]>([]);
  /** The run that is looked at: the newest. */
  readonly current = computed(() => this.runs()[0]);
  /** A run waits for the surveyor. */
  readonly isWaiting = computed(() => this.current()?.state === 'waiting');
  private readonly refresh$ = new Subject<void>();

  constructor() {
    const parts$ = this.job.changed$.pipe(
      filter((parts) => parts === undefined || parts.includes('sheet-runs') || parts.includes('history')),
      map(() => undefined),
    );
    // While a step runs, how far it is is asked for; its end is told.
    const going$ = timer(0, ASK_EVERY_MS).pipe(filter(() => this.current()?.state === 'running'));
    merge(parts$, this.refresh$, going$)
      .pipe(
        debounceTime(30),
        filter(() => this.job.jobId() !== ''),
        switchMap(() =>
          this.api.call('listSheetRuns', { params: { jobId: this.job.jobId() } }).pipe(catchError(() => EMPTY)),
        ),
        takeUntilDestroyed(inject(DestroyRef)),
      )
      .subscribe((runs) => this.runs.set(runs));
  }

  /** Reads what is kept. */
  load(): void {
    this.refresh$.next();
    this.api
      .call('listRunSheets', {})
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe(({ sheets, unreadable }) => {
        this.sheets.set(sheets);
        this.unreadable.set(unreadable);
      });
  }

  /** Keeps a sheet, in the place of another where its id is given. What is wrong with it arrives as an error. */
  keep(sheet: RunSheetInput, id?: string): Observable<KeptSheet> {
    const kept =
      id === undefined
        ? this.api.call('keepRunSheet', { body: { sheet } })
        : this.api.call('changeRunSheet', { params: { sheetId: id }, body: { sheet } });
    return kept.pipe(tap(() => this.load()));
  }

  remove({ id, sheet }: KeptSheet): void {
    this.api
      .call('removeRunSheet', { params: { sheetId: id } })
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe(() => {
        this.job.say(`Removed: ${sheet.name}`);
        this.load();
      });
  }

  /** Makes a sheet of steps of the field book. */
  fromSteps(
    name: string,
    entries: readonly number[],
  ): Observable<{ sheet?: RunSheet | undefined; leftOut: { id: number; because: string }[] }> {
    return this.api.call('sheetFromHistory', {
      params: { jobId: this.job.jobId() },
      body: { name, entries: [...entries] },
    });
  }

  start(sheet: RunSheet, places: GivenPlaces, jobId = this.job.jobId()): Observable<SheetRun> {
    return this.api
      .call('startSheetRun', { params: { jobId }, body: { sheet, places } })
      .pipe(tap(() => this.refresh$.next()));
  }

  accept(run: SheetRun, step: string, reason: string): void {
    this.act(this.api.call('acceptSheetStep', { params: this.of(run), body: { step, reason } }));
  }

  goOn(run: SheetRun): void {
    this.act(this.api.call('goOnWithSheetRun', { params: this.of(run) }));
  }

  cancel(run: SheetRun): void {
    this.act(this.api.call('cancelSheetRun', { params: this.of(run) }));
  }

  private of({ id }: SheetRun): { jobId: string; sheetRunId: number } {
    return { jobId: this.job.jobId(), sheetRunId: id };
  }

  private act(asked: Observable<SheetRun>): void {
    asked.pipe(catchError((error: unknown) => this.tell(error))).subscribe((run) => {
      this.runs.update((runs) => runs.map((known) => (known.id === run.id ? run : known)));
      this.refresh$.next();
    });
  }

  private tell(error: unknown): typeof EMPTY {
    this.job.say(error instanceof ApiError ? error.problem.detail : String(error));
    return EMPTY;
  }
}
