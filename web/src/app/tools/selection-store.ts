import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { lengthInUnit, type OperationId, type SelectionCount } from '@pampero/contract';
import type { Selection, SelectionStep, Shape, StepKind } from '@pampero/core/selection';
import { catchError, EMPTY, Observable, of, race, Subject, switchMap, take, timer } from 'rxjs';
import { ApiClient, asJson } from '../api/api-client';
import { DrawingLink } from '../viewer/drawing-link';
import type { OptimisticChange } from '../drawing/drawing-protocol';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';
import { lastPlanOutline } from './plan-outline';

/** A change is sent to be stored when it has been seen, or after this at the latest. */
const SEEN_WITHIN_MS = 150;

/** `new` puts what is drawn in the place of what was selected. */
export type DrawnAs = 'new' | Exclude<StepKind, 'invert'>;

/** What is selected: the steps it was selected by, how many points that is, and what can be done to them. */
@Injectable()
export class SelectionStore {
  private readonly store = inject(JobStore);
  private readonly look = inject(LookStore);
  private readonly link = inject(DrawingLink);
  private readonly api = inject(ApiClient);

  readonly steps = signal<Selection>([]);
  readonly drawnAs = signal<DrawnAs>('new');
  /** In Model, leave hidden points out. */
  readonly seenOnly = signal(true);
  /** Pixels. */
  readonly brushRadius = signal(14);
  readonly count = signal<SelectionCount | undefined>(undefined);
  readonly isCounting = signal(false);
  readonly problem = signal<string | undefined>(undefined);
  readonly lastOutcome = signal<string | undefined>(undefined);
  private lastStep: number | undefined;
  private readonly last = signal<Selection>([]);

  readonly isEmpty = computed(() => this.steps().length === 0);
  readonly canRepeat = computed(() => this.last().length > 0);
  readonly byClass = computed(() =>
    Object.entries(this.count()?.classCounts ?? {})
      .map(([code, points]) => ({
        code: Number(code),
        name: this.look.className()(Number(code)),
        colour: this.look.classColour()(Number(code)),
        points,
      }))
      .sort((a, b) => b.points - a.points),
  );

  private readonly counted$ = new Subject<Selection>();
  /** Runs that were seen before they were stored. */
  private readonly previewed = new Set<string>();
  private before: Selection = [];
  /** How thick a surface may be to be seen as one, job units. */
  private thickness = 0.25;

  constructor() {
    // What is usual is known in metres.
    effect(() => {
      this.thickness = lengthInUnit(0.25, this.store.unit());
    });
    effect(() => {
      const steps = this.steps();
      this.link.setSelection(steps);
      untracked(() => {
        this.count.set(undefined);
        this.isCounting.set(steps.length > 0);
        if (steps.length > 0) this.lastOutcome.set(undefined);
      });
      this.counted$.next(steps);
    });
    // What was taken back is no outcome any more.
    effect(() => {
      const step = this.store.history()?.entries.find(({ id }) => id === this.lastStep);
      if (step?.state === 'undone' || step?.state === 'dropped') untracked(() => this.lastOutcome.set(undefined));
    });
    // Classes that change under the selection change what it holds.
    effect(() => {
      this.store.clouds();
      untracked(() => {
        if (this.steps().length > 0) this.counted$.next(this.steps());
      });
    });
    this.counted$
      .pipe(
        switchMap((steps) =>
          steps.length === 0
            ? EMPTY
            : this.api
                .call('countSelection', { params: { jobId: this.store.jobId() }, body: { selection: steps as never } })
                .pipe(
                  catchError((error: unknown) => {
                    // What cannot be counted is not selected: back to what was before.
                    this.problem.set(error instanceof Error ? error.message : String(error));
                    this.steps.set(this.before);
                    return EMPTY;
                  }),
                ),
        ),
        takeUntilDestroyed(),
      )
      .subscribe((count) => {
        this.count.set(count);
        this.isCounting.set(false);
        this.before = this.steps();
      });
    this.store.ended$.pipe(takeUntilDestroyed()).subscribe((run) => {
      if (!this.previewed.delete(run.id)) return;
      if (run.state === 'done') {
        this.lastOutcome.set(run.outcome);
        this.lastStep = run.historyId;
      } else {
        this.link.takeBack();
        this.problem.set(run.outcome ?? 'It could not be done.');
      }
    });
  }

  /** Takes a drawn shape into the selection. */
  draw(shape: Shape, { as = this.drawnAs(), seenOnly = false }: { as?: DrawnAs; seenOnly?: boolean } = {}): void {
    this.problem.set(undefined);
    const step: SelectionStep = {
      how: as === 'new' ? 'add' : as,
      shape,
      visible: this.look.visible(),
      ...(seenOnly && { seenOnly, thickness: this.thickness }),
    };
    const start = as === 'new' || (as === 'keep' && this.isEmpty()) ? [] : this.steps();
    // What is kept within, where nothing is selected, is taken from all that is shown.
    const whole: Selection =
      as === 'keep' && this.isEmpty() ? [{ how: 'add', shape: { kind: 'all' }, visible: this.look.visible() }] : [];
    if (start.length === 0) this.before = [];
    this.steps.set([...start, ...whole, step]);
  }

  /** The last outline drawn in Plan, in job coordinates: a boundary. */
  readonly planOutline = computed(() => lastPlanOutline([...this.last(), ...this.steps()]));

  /** All that is shown inside or outside a boundary. */
  selectBoundary(corners: readonly (readonly [number, number])[], buffer: number, side: 'inside' | 'outside'): void {
    const visible = this.look.visible();
    const shape: Shape = { kind: 'boundary', corners, buffer };
    this.problem.set(undefined);
    this.steps.set(
      side === 'inside'
        ? [{ how: 'add', shape, visible }]
        : [
            { how: 'add', shape: { kind: 'all' }, visible },
            { how: 'take', shape, visible },
          ],
    );
  }

  invert(): void {
    this.steps.update((steps) => [...steps, { how: 'invert', shape: { kind: 'all' }, visible: this.look.visible() }]);
  }

  clear(): void {
    this.remember();
    this.steps.set([]);
    this.problem.set(undefined);
  }

  /** What was selected last, again, as it now is. */
  repeat(): void {
    if (this.canRepeat()) this.steps.set(this.last());
  }

  use(steps: Selection): void {
    this.remember();
    this.steps.set(steps);
  }

  private remember(): void {
    if (!this.isEmpty()) this.last.set(this.steps());
  }

  setClass(classCode: number): void {
    this.act('set-class', { classCode }, { classCode });
  }

  withhold(): void {
    this.act('withhold', {}, { setFlags: 4 });
  }

  restore(): void {
    this.act('restore', {}, { clearFlags: 4 });
  }

  copy(name: string): void {
    this.act('copy-to-cloud', { name });
  }

  /** Shows nothing but what is selected. */
  focus(): void {
    if (this.isEmpty()) return;
    this.look.focus.set(this.steps());
    this.clear();
  }

  /** Takes what is selected out of sight; Release brings it back. */
  setAside(): void {
    if (this.isEmpty()) return;
    this.look.focus.set([...this.steps(), { how: 'invert', shape: { kind: 'all' }, visible: this.look.visible() }]);
    this.clear();
  }

  keep(name: string): void {
    this.store.pin({ kind: 'selection', name, steps: asJson(this.steps()) as unknown[] });
  }

  private act(operation: OperationId, parameters: Record<string, unknown>, previewed?: OptimisticChange): void {
    if (this.isEmpty()) {
      this.problem.set('Nothing is selected.');
      return;
    }
    if (this.count()?.points === 0) {
      this.problem.set('The selection holds no points.');
      return;
    }
    const steps = this.steps();
    if (previewed) this.link.showOptimistically(previewed);
    this.remember();
    this.steps.set([]);
    this.problem.set(undefined);
    // The eye comes first: on two cores the server's work would hold up the picture.
    const seen$: Observable<unknown> = previewed ? race(this.link.pictures$, timer(SEEN_WITHIN_MS)) : of(undefined);
    seen$.pipe(take(1)).subscribe(() =>
      this.store.start(
        operation,
        { selection: asJson(steps), ...parameters },
        ({ problem }) => {
          if (previewed) this.link.takeBack();
          this.problem.set(problem.errors?.[0]?.detail ?? problem.detail);
        },
        (run) => previewed && this.previewed.add(run.id),
      ),
    );
  }
}
