import { computed, inject, Injectable, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import {
  isKind,
  newestLand,
  operationById,
  type Cloud,
  type History,
  type IncomingFile,
  type JobClass,
  type NewPin,
  type OperationId,
  type Pin,
  type Product,
  type ProductKindId,
  type ProductOf,
  type Referable,
  type Run,
  type Workbench,
} from '@pampero/contract';
import { formatCounted } from '@pampero/core/wording';
import { catchError, concatMap, debounceTime, EMPTY, from, map, Subject, Subscription, switchMap, tap } from 'rxjs';
import { ApiClient, ApiError } from '../api/api-client';
import { RequestsUnderWay } from './requests-under-way';
import { stageMarks } from './stage-marks';

/** A file of the server's, with what is to be done with it. */
export interface ImportRequest {
  readonly file: IncomingFile;
  readonly [parameter: string]: unknown;
}

/** The open job: what the server says of it, its runs, and what is asked of it. */
@Injectable()
export class JobStore {
  private readonly api = inject(ApiClient);
  private readonly snack = inject(MatSnackBar);

  readonly jobId = signal('');
  readonly workbench = signal<Workbench | undefined>(undefined);
  readonly problem = signal<string | undefined>(undefined);
  readonly runs = signal<readonly Run[]>([]);

  readonly job = computed(() => this.workbench()?.job);
  readonly unit = computed(() => this.job()?.unit ?? 'metre');
  readonly clouds = computed<readonly Cloud[]>(() => this.workbench()?.clouds ?? []);
  /** Clouds on their way in, as far as they can be looked at; nothing is worked on them yet. */
  readonly comingIn = computed<readonly Cloud[]>(() => this.workbench()?.comingIn ?? []);
  /** All clouds that there is something to see of. */
  readonly inSight = computed<readonly Cloud[]>(() => [...this.clouds(), ...this.comingIn()]);
  readonly products = computed<readonly Product[]>(() => this.workbench()?.products ?? []);
  readonly surfaces = computed(() => this.of('surface'));
  readonly contours = computed(() => this.of('contours'));
  readonly grids = computed(() => this.of('grid'));
  readonly lines = computed(() => this.of('lines'));
  readonly controlCount = computed(() => this.workbench()?.controlCount ?? 0);
  readonly history = computed(() => this.workbench()?.history);
  /** The titles of the steps that undo and redo take next. */
  readonly toUndo = computed(() => titleOf(this.history(), this.history()?.undoes));
  readonly toRedo = computed(() => titleOf(this.history(), this.history()?.redoes));
  readonly totalPoints = computed(() => this.clouds().reduce((sum, cloud) => sum + cloud.pointCount, 0));
  readonly activeRun = computed(
    () => this.runs().find((run) => run.state === 'running') ?? this.runs().find((run) => run.state === 'queued'),
  );
  readonly hasStale = computed(() => this.products().some((product) => product.isStale));

  /** Points of each class over all clouds. */
  readonly classCounts = computed(() => countsByClass(this.clouds()));
  readonly classCodes = computed(() => [...this.classCounts().keys()]);
  /** Names, colours and keys that the surveyor gave to classes. */
  readonly jobClasses = computed<readonly JobClass[]>(() => this.workbench()?.classes ?? []);
  readonly pins = computed<readonly Pin[]>(() => this.workbench()?.pins ?? []);

  /** How far each stage is: begun and fresh, begun but with stale products of its own, or not begun. */
  readonly marks = computed(() => stageMarks(this.history()?.entries ?? [], this.products()));

  /** Which parts of the job have changed; undefined where any may have. */
  readonly changed$ = new Subject<readonly string[] | undefined>();
  /** Runs as they end. */
  readonly ended$ = new Subject<Run>();
  private readonly refresh$ = new Subject<void>();
  private readonly steps$ = new Subject<'undo' | 'redo'>();
  private readonly underWay = new RequestsUnderWay();
  private watching = new Subscription();

  /** The products of a kind, in the order of the graph. */
  of<K extends ProductKindId>(kind: K): readonly ProductOf<K>[] {
    return this.products().filter(isKind(kind));
  }

  /** What a parameter can point at, the one that is most likely meant last: the newest, and the ground rather than a design on it. */
  referable(kind: Referable): readonly { readonly id: number; readonly name: string }[] {
    const found = kind === 'cloud' ? this.clouds() : kind === 'product' ? this.products() : this.of(kind);
    const designs = new Set(kind === 'surface' ? this.designs().map(({ id }) => id) : []);
    return [...found].sort((a, b) => Number(designs.has(b.id)) - Number(designs.has(a.id)) || a.id - b.id);
  }

  /** The one made last. */
  newest<K extends ProductKindId>(kind: K): ProductOf<K> | undefined {
    return this.of(kind).reduce<ProductOf<K> | undefined>((a, b) => (a && a.id > b.id ? a : b), undefined);
  }

  /** The newest surface of the land as it is; a design where there is no other. */
  readonly ground = computed(() => newestLand([...this.surfaces()].sort((a, b) => a.id - b.id)));
  /** Alternatives of what could be built, in the order they were made in. */
  readonly designs = computed(() =>
    this.surfaces()
      .filter(({ facts }) => facts.design !== undefined)
      .sort((a, b) => a.id - b.id),
  );

  open(jobId: string): void {
    this.close();
    this.jobId.set(jobId);
    this.watching = new Subscription();
    this.watching.add(
      this.refresh$
        .pipe(
          debounceTime(20),
          switchMap(() =>
            this.api
              .call('readJob', { params: { jobId } })
              .pipe(catchError((error: unknown) => this.tell(error, true))),
          ),
          tap((workbench) => {
            this.workbench.set(workbench);
            this.runs.set(workbench.runs);
            this.problem.set(undefined);
          }),
        )
        .subscribe(),
    );
    this.watching.add(
      this.api.watchJob(jobId).subscribe((event) => {
        if (event?.kind === 'run') this.noteRun(event.run);
        else {
          this.changed$.next(event?.parts);
          this.refresh$.next();
        }
      }),
    );
    this.watching.add(
      this.steps$
        .pipe(
          // What was asked for before is begun before: undo straight after an edit takes back that edit, not the one before.
          concatMap((step) =>
            this.underWay.none().pipe(
              switchMap(() => this.api.call(step, { params: { jobId } })),
              map((history) => wordsOf(step, history)),
              catchError((error: unknown) => this.tell(error)),
            ),
          ),
        )
        .subscribe((words) => {
          this.say(words);
          this.refresh$.next();
        }),
    );
    this.refresh$.next();
  }

  close(): void {
    this.watching.unsubscribe();
    this.workbench.set(undefined);
    this.runs.set([]);
  }

  /** Starts an operation; what follows on its end comes by {@link ended$}. */
  start(
    operation: OperationId,
    parameters: Record<string, unknown>,
    onProblem: (error: ApiError) => void,
    onStarted: (run: Run) => void = () => undefined,
  ): void {
    const params = { jobId: this.jobId(), operation };
    this.underWay
      .with(this.api.call('startOperation', { params, body: parameters }))
      .pipe(catchError((error: unknown) => (error instanceof ApiError ? (onProblem(error), EMPTY) : this.tell(error))))
      .subscribe((run) => {
        onStarted(run);
        this.noteRun(run);
      });
  }

  /** Starts an operation that works from a file, with a file of this machine. */
  startWithFile(operation: OperationId, file: File, parameters: Record<string, unknown> = {}): void {
    const params = { jobId: this.jobId(), operation };
    const query = { fileName: file.name, parameters: JSON.stringify(parameters) };
    this.underWay
      .with(this.api.call('startWithFile', { params, query, body: file }))
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe((run) => this.noteRun(run));
  }

  /** Starts the import of clouds that were looked at; one that cannot start does not stop the others. */
  importClouds(requests: readonly ImportRequest[]): void {
    const params = { jobId: this.jobId(), operation: 'import-cloud' };
    from(requests)
      .pipe(
        concatMap((body) =>
          this.api.call('startOperation', { params, body }).pipe(catchError((error: unknown) => this.tell(error))),
        ),
      )
      .subscribe((run) => this.noteRun(run));
  }

  /** Builds again what is stale; what cannot be is named, with the reason. */
  rebuild(): void {
    this.api
      .call('rebuildStale', { params: { jobId: this.jobId() } })
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe(({ runs, left }) => {
        const begun = runs.length > 0 ? `Rebuilding ${formatCounted(runs.length, 'product')}.` : '';
        const stays = left.map(({ name, because }) => `${name} stays stale. ${because}`).join(' ');
        if (begun || stays) this.say([begun, stays].filter(Boolean).join(' '));
      });
  }

  cancel({ id: runId }: Run): void {
    this.api
      .call('cancelRun', { params: { jobId: this.jobId(), runId } })
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe();
  }

  /** Keeps something in the job; an empty message says nothing of it. */
  pin(pin: NewPin, message = `Saved in the job: ${pin.name}`): void {
    this.api
      .call('pin', { params: { jobId: this.jobId() }, body: pin })
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe(() => {
        if (message) this.say(message);
      });
  }

  unpin(pinId: number): void {
    this.api
      .call('unpin', { params: { jobId: this.jobId(), pinId } })
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe();
  }

  undo(): void {
    this.steps$.next('undo');
  }

  redo(): void {
    this.steps$.next('redo');
  }

  say(message: string): void {
    this.snack.open(message, 'Close', { duration: 8000, horizontalPosition: 'end' });
  }

  /** Enters a run's new state; one that ends says what changed. */
  private noteRun(run: Run): void {
    const known = this.runs().find((r) => r.id === run.id);
    this.runs.set(known ? this.runs().map((r) => (r.id === run.id ? run : r)) : [...this.runs(), run]);
    const hasEnded = run.state === 'done' || run.state === 'failed' || run.state === 'cancelled';
    if (!hasEnded || known?.state === run.state) return;
    this.ended$.next(run);
    // What is done by hand is seen at once, and counted where it is done.
    if (run.state === 'done' && operationById(run.operation)?.isQuick) return;
    this.say(
      run.state === 'done'
        ? `${run.title}: ${run.outcome ?? 'done'}, ${(run.elapsedMs / 1000).toFixed(1)} s`
        : `${run.title}: ${run.outcome ?? run.state}`,
    );
  }

  private tell(error: unknown, isWhole = false): typeof EMPTY {
    const message = error instanceof Error ? error.message : String(error);
    if (isWhole) this.problem.set(message);
    else this.say(message);
    return EMPTY;
  }
}

const titleOf = (history: History | undefined, step: number | null | undefined): string | undefined =>
  history?.entries.find(({ id }) => id === step)?.title;

/** What was taken back is what would be redone next, and the other way round. */
const wordsOf = (step: 'undo' | 'redo', history: History): string =>
  step === 'undo' ? `Undone: ${titleOf(history, history.redoes)}.` : `Redone: ${titleOf(history, history.undoes)}.`;

function countsByClass(clouds: readonly Cloud[]): ReadonlyMap<number, number> {
  const counts = new Map<number, number>();
  for (const cloud of clouds)
    for (const [code, count] of Object.entries(cloud.classCounts))
      counts.set(Number(code), (counts.get(Number(code)) ?? 0) + count);
  return new Map([...counts].sort(([a], [b]) => a - b));
}
