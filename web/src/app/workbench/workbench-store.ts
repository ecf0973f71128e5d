import { computed, inject, Injectable, signal } from '@angular/core';
import { toObservable, toSignal } from '@angular/core/rxjs-interop';
import { MatSnackBar } from '@angular/material/snack-bar';
import {
  operationById,
  stages,
  type Cloud,
  type ContourSetResource,
  type ImportRequest,
  type JobClass,
  type NewPin,
  type OperationId,
  type Pin,
  type Product,
  type Run,
  type Stage,
  type Surface,
  type Workbench,
} from '@pampero/contract';
import {
  BehaviorSubject,
  catchError,
  concatMap,
  debounceTime,
  defer,
  EMPTY,
  finalize,
  first,
  from,
  of,
  Subject,
  Subscription,
  switchMap,
  tap,
  type Observable,
} from 'rxjs';
import { ApiError, ApiService, type ControlList, type LineText } from '../api/api.service';
import type { ToolId } from '../tools/tools';
import type { PainterChoice, PainterName } from '../viewer/point-painter';
import { detectRenderer, rememberedRenderer, type Renderer } from '../viewer/renderer-detection';
import type { SurfaceAnswer } from '../viewer/viewer-protocol';
import type { PickedPoint } from '../viewer/viewer-protocol';

/** A section's line in full coordinates. */
export interface SectionLine {
  readonly a: readonly [number, number];
  readonly b: readonly [number, number];
}

export type StageMark = 'hollow' | 'half' | 'solid';
export type Pane = 'plan' | 'model' | 'both';

const PAINTER_KEY = 'pampero-painter';

function rememberedPainter(): PainterChoice {
  const kept = localStorage.getItem(PAINTER_KEY);
  return kept === 'processor' || kept === 'graphics' ? kept : 'automatic';
}

/** All that the open job's screens share: what the server says, and how it is looked at. */
@Injectable()
export class WorkbenchStore {
  private readonly api = inject(ApiService);
  private readonly snack = inject(MatSnackBar);

  readonly jobId = signal('');
  readonly workbench = signal<Workbench | undefined>(undefined);
  readonly problem = signal<string | undefined>(undefined);
  readonly runs = signal<readonly Run[]>([]);

  readonly pane = signal<Pane>('plan');
  /** What Plan and Model show of the land; a section always shows points. */
  readonly showing = signal<'points' | 'surface'>('points');
  readonly hiddenLayers = signal<ReadonlySet<string>>(new Set());
  /** Who is to draw the points; kept in the browser, since it depends on the machine. */
  readonly painterChoice = signal<PainterChoice>(rememberedPainter());
  /** Who draws them. */
  readonly painter = signal<PainterName>('processor');
  /** What WebGL draws with here: null where there is none, undefined until it is known. */
  readonly renderer = signal<Renderer | null | undefined>(rememberedRenderer());
  readonly wantedPainter = computed<PainterName>(() => {
    const choice = this.painterChoice();
    if (choice !== 'automatic') return choice;
    const renderer = this.renderer();
    return renderer && !renderer.isSoftware ? 'graphics' : 'processor';
  });

  readonly section = signal<SectionLine | undefined>(undefined);
  /** What the pointer does in the views. */
  readonly tool = signal<ToolId>('look');
  readonly sectionDepth = signal(2);
  /** How far a key walks it; its depth where the surveyor set nothing else. */
  readonly ownSectionStep = signal<number | undefined>(undefined);
  readonly sectionStep = computed(() => this.ownSectionStep() ?? this.sectionDepth());
  readonly sectionExaggeration = signal(2);

  readonly cursor = signal<
    { easting: number; northing: number; elevation?: number; station?: number; point?: PickedPoint } | undefined
  >(undefined);
  /** What the shown surface is under the cursor; undefined where no surface is drawn. */
  readonly underCursor = signal<SurfaceAnswer | undefined>(undefined);
  /** Station under the cursor in the section. */
  readonly hoverStation = signal<number | undefined>(undefined);
  readonly drawnPoints = signal(0);
  readonly isBookOpen = signal(false);

  readonly job = computed(() => this.workbench()?.job);
  readonly unit = computed(() => this.job()?.unit ?? 'metre');
  readonly clouds = computed<readonly Cloud[]>(() => this.workbench()?.clouds ?? []);
  readonly surfaces = computed<readonly Surface[]>(() => this.workbench()?.surfaces ?? []);
  readonly contours = computed<readonly ContourSetResource[]>(() => this.workbench()?.contours ?? []);
  /** Lines, grids, volumes, statements of accuracy. */
  readonly products = computed<readonly Product[]>(() => this.workbench()?.products ?? []);
  readonly lines = computed(() => this.products().filter(({ kind }) => kind === 'lines'));
  readonly shownLines = computed(() => this.lines().filter(({ id }) => this.isShown(`lines-${id}`)));
  readonly controlCount = computed(() => this.workbench()?.controlCount ?? 0);
  readonly history = computed(() => this.workbench()?.history);
  readonly totalPoints = computed(() => this.clouds().reduce((sum, cloud) => sum + cloud.pointCount, 0));
  readonly activeRun = computed(
    () => this.runs().find((run) => run.state === 'running') ?? this.runs().find((run) => run.state === 'queued'),
  );
  readonly hasStale = computed(() => [...this.surfaces(), ...this.contours()].some((product) => product.isStale));
  readonly shownSurfaces = computed(() => this.surfaces().filter((surface) => this.isShown(`surface-${surface.id}`)));
  /** The newest of them: heights are measured from it, and it is drawn over the others. */
  readonly shownSurface = computed(() => this.shownSurfaces().at(-1));
  readonly grids = computed(() => this.products().filter(({ kind }) => kind === 'grid'));
  private readonly lookedAtGrid = signal<number | undefined>(undefined);
  /** A grid that is looked at by itself, in place of the surfaces. */
  readonly shownGrid = computed(() => this.grids().find(({ id }) => id === this.lookedAtGrid()));
  /** The surface that Plan and Model draw in place of the points. */
  readonly drawnSurface = computed(() =>
    this.showing() === 'surface' && !this.shownGrid() ? this.shownSurface() : undefined,
  );
  /** Whether a surface or a grid is drawn in place of the points. */
  readonly isReliefDrawn = computed(
    () => this.showing() === 'surface' && (this.shownGrid() ?? this.shownSurface()) !== undefined,
  );
  readonly shownContours = computed(() => this.contours().filter((set) => this.isShown(`contours-${set.id}`)));
  readonly shownClouds = computed(() => this.clouds().filter((cloud) => this.isShown(`cloud-${cloud.id}`)));

  /** Points of each class over all clouds. */
  readonly classCounts = computed<ReadonlyMap<number, number>>(() => {
    const counts = new Map<number, number>();
    for (const cloud of this.clouds())
      for (const [code, count] of Object.entries(cloud.classCounts))
        counts.set(Number(code), (counts.get(Number(code)) ?? 0) + count);
    return new Map([...counts].sort(([a], [b]) => a - b));
  });
  readonly classCodes = computed(() => [...this.classCounts().keys()]);
  /** Names, colours and keys that the surveyor gave to classes. */
  readonly jobClasses = computed<readonly JobClass[]>(() => this.workbench()?.classes ?? []);
  readonly pins = computed<readonly Pin[]>(() => this.workbench()?.pins ?? []);

  /** How far each stage is: begun and fresh, begun but stale, or not begun. */
  readonly marks = computed<Readonly<Record<Stage, StageMark>>>(() => {
    const has = (stage: Stage): boolean =>
      (this.history()?.entries ?? []).some((entry) => entry.stage === stage && entry.state === 'done');
    const mark = (stage: Stage): StageMark =>
      !has(stage) ? 'hollow' : stage === 'terrain' && this.hasStale() ? 'half' : 'solid';
    return Object.fromEntries(stages.map(({ id }) => [id, mark(id)])) as Record<Stage, StageMark>;
  });

  /** What decides the look: the first cloud shown, its classes, and how many points there are. */
  private readonly wantedLook = computed(
    () => {
      const cloud = this.shownClouds()[0];
      return cloud && this.controlCount() > 0
        ? { cloudId: cloud.id, revision: cloud.revision, count: this.controlCount() }
        : undefined;
    },
    { equal: (a, b) => a?.cloudId === b?.cloudId && a?.revision === b?.revision && a?.count === b?.count },
  );
  /** Surveyed points with the elevation of the first cloud shown. */
  readonly controlLook = toSignal(
    toObservable(this.wantedLook).pipe(
      switchMap((wanted) =>
        wanted
          ? this.api.lookAtControl(this.jobId(), wanted.cloudId).pipe(catchError(() => of(undefined)))
          : of(undefined),
      ),
    ),
  );

  /** Runs as they end. */
  readonly ended$ = new Subject<Run>();
  private readonly refresh$ = new Subject<void>();
  private readonly steps$ = new Subject<'undo' | 'redo'>();
  /** Requests for runs that were sent and not yet answered. */
  private readonly onTheirWay$ = new BehaviorSubject(0);
  private isFindingRenderer = false;
  private watching = new Subscription();

  open(jobId: string): void {
    this.close();
    this.jobId.set(jobId);
    this.watching = new Subscription();
    this.watching.add(
      this.refresh$
        .pipe(
          debounceTime(20),
          switchMap(() => this.api.readJob(jobId).pipe(catchError((error: unknown) => this.tell(error, true)))),
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
        if (!event || event.kind === 'changed') this.refresh$.next();
        else this.noteRun(event.run);
      }),
    );
    this.watching.add(
      this.steps$
        .pipe(
          // What was asked for before is begun before: undo straight after an edit takes back that edit, not the one before.
          concatMap((step) =>
            this.onTheirWay$.pipe(
              first((count) => count === 0),
              switchMap(() => this.api[step](jobId)),
              catchError((error: unknown) => this.tell(error)),
            ),
          ),
        )
        .subscribe((history) => {
          this.say(history.entries.some((entry) => entry.state === 'undone') ? 'Taken back.' : 'Done again.');
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

  /** Takes a tool in hand; one that works in the section or in Plan alone brings its view. */
  takeTool(tool: ToolId): void {
    if (tool === 'section' && this.pane() === 'model') this.pane.set('plan');
    if ((tool === 'above' || tool === 'below') && !this.section()) {
      this.say('Lay a section first: the line is drawn in it.');
      return;
    }
    if (tool === 'triangles') {
      if (!this.shownSurface()) {
        this.say('There is no surface to edit: build or show one first.');
        return;
      }
      this.lookedAtGrid.set(undefined);
      this.showing.set('surface');
      if (this.pane() === 'model') this.pane.set('plan');
    } else if (tool !== 'look' && tool !== 'section' && this.showing() === 'surface') this.showing.set('points');
    this.tool.set(tool);
  }

  /** Shows a grid by itself; the surfaces, or the points where there is none, come back with undefined. */
  lookAtGrid(id: number | undefined): void {
    this.lookedAtGrid.set(id);
    this.showing.set(id !== undefined || this.shownSurface() ? 'surface' : 'points');
  }

  isShown(layer: string): boolean {
    if (layer.startsWith('grid-')) return layer === `grid-${this.shownGrid()?.id}`;
    return !this.hiddenLayers().has(layer);
  }

  setShown(layer: string, isShown: boolean): void {
    if (layer.startsWith('grid-')) {
      this.lookAtGrid(isShown ? Number(layer.slice('grid-'.length)) : undefined);
      return;
    }
    // A surface that is asked for is seen: the grid steps back.
    if (layer.startsWith('surface-') && isShown) this.lookedAtGrid.set(undefined);
    const next = new Set(this.hiddenLayers());
    if (isShown) next.delete(layer);
    else next.add(layer);
    this.hiddenLayers.set(next);
  }

  /** Finds out what WebGL is here, where that was never asked before. */
  findRenderer(): void {
    if (this.renderer() !== undefined || this.isFindingRenderer) return;
    this.isFindingRenderer = true;
    void detectRenderer().then((renderer) => this.renderer.set(renderer ?? null));
  }

  choosePainter(choice: PainterChoice): void {
    localStorage.setItem(PAINTER_KEY, choice);
    this.painterChoice.set(choice);
  }

  /** Starts an operation; what follows on its end comes by {@link ended$}. */
  start(
    operation: OperationId,
    parameters: Record<string, unknown>,
    onProblem: (error: ApiError) => void,
    onStarted: (run: Run) => void = () => undefined,
  ): void {
    this.sent(this.api.startOperation(this.jobId(), operation, parameters))
      .pipe(catchError((error: unknown) => (error instanceof ApiError ? (onProblem(error), EMPTY) : this.tell(error))))
      .subscribe((run) => {
        onStarted(run);
        this.noteRun(run);
      });
  }

  importControl(list: ControlList): void {
    this.sent(this.api.importControl(this.jobId(), list))
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe((run) => this.noteRun(run));
  }

  importSurface(surface: { text: string; fileName: string }): void {
    this.sent(this.api.importSurface(this.jobId(), surface))
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe((run) => this.noteRun(run));
  }

  importGrid(file: File): void {
    this.sent(this.api.importGrid(this.jobId(), file))
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe((run) => this.noteRun(run));
  }

  importLines(lines: LineText): void {
    this.sent(this.api.importLines(this.jobId(), lines))
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe((run) => this.noteRun(run));
  }

  rebuild(): void {
    this.api
      .rebuildStale(this.jobId())
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe();
  }

  cancel(run: Run): void {
    this.api
      .cancelRun(this.jobId(), run.id)
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe();
  }

  /** Keeps something in the job; an empty message says nothing of it. */
  pin(pin: NewPin, message = `Kept in the job: ${pin.name}`): void {
    this.api
      .pin(this.jobId(), pin)
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe(() => {
        if (message) this.say(message);
      });
  }

  unpin(pinId: number): void {
    this.api
      .unpin(this.jobId(), pinId)
      .pipe(catchError((error: unknown) => this.tell(error)))
      .subscribe();
  }

  undo(): void {
    this.steps$.next('undo');
  }

  redo(): void {
    this.steps$.next('redo');
  }

  /** Starts the import of files that were looked at; one that cannot start does not stop the others. */
  import(requests: readonly ImportRequest[]): void {
    from(requests)
      .pipe(
        concatMap((request) =>
          this.api.importFile(this.jobId(), request).pipe(catchError((error: unknown) => this.tell(error))),
        ),
      )
      .subscribe((run) => this.noteRun(run));
  }

  say(message: string): void {
    this.snack.open(message, 'Close', { duration: 8000, horizontalPosition: 'end' });
  }

  private sent<T>(request: Observable<T>): Observable<T> {
    return defer(() => {
      this.onTheirWay$.next(this.onTheirWay$.value + 1);
      return request.pipe(finalize(() => this.onTheirWay$.next(this.onTheirWay$.value - 1)));
    });
  }

  /** Enters a run's new state; one that ends says what changed, and its result is brought into view. */
  private noteRun(run: Run): void {
    const known = this.runs().find((r) => r.id === run.id);
    this.runs.set(known ? this.runs().map((r) => (r.id === run.id ? run : r)) : [...this.runs(), run]);
    const hasEnded = run.state === 'done' || run.state === 'failed' || run.state === 'cancelled';
    if (!hasEnded || known?.state === run.state) return;
    this.ended$.next(run);
    if (run.state === 'done') this.bringIntoView(run);
    // What is done by hand is seen at once, and counted where it is done.
    if (run.state === 'done' && operationById(run.operation)?.isQuick) return;
    this.say(
      run.state === 'done'
        ? `${run.title}: ${run.outcome ?? 'done'}, ${(run.elapsedMs / 1000).toFixed(1)} s`
        : `${run.title}: ${run.outcome ?? run.state}`,
    );
  }

  /** A result on a hidden layer would seem not to exist. */
  private bringIntoView(run: Run): void {
    if (run.operation === 'find-ground') {
      this.showing.set('points');
      for (const cloud of this.clouds()) this.setShown(`cloud-${cloud.id}`, true);
    } else if (
      (run.operation === 'build-surface' || run.operation === 'import-surface') &&
      run.productId !== undefined
    ) {
      this.setShown(`surface-${run.productId}`, true);
      this.showing.set('surface');
    } else if ((run.operation === 'make-grid' || run.operation === 'import-grid') && run.productId !== undefined)
      this.lookAtGrid(run.productId);
    else if (run.operation === 'draw-contours' && run.productId !== undefined)
      this.setShown(`contours-${run.productId}`, true);
  }

  private tell(error: unknown, isWhole = false): typeof EMPTY {
    const message = error instanceof Error ? error.message : String(error);
    if (isWhole) this.problem.set(message);
    else this.say(message);
    return EMPTY;
  }
}
