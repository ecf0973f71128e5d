import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { OperationId, SelectionCount } from '@pampero/contract';
import { metresPer } from '@pampero/core/geodesy';
import type { Selection, SelectionStep, Shape, StepKind } from '@pampero/core/selection';
import { catchError, EMPTY, Observable, of, race, Subject, switchMap, take, timer } from 'rxjs';
import { ApiClient, asJson } from '../api/api-client';
import { bitsFromText } from '../shared/bits';
import { formatCount } from '@pampero/core/wording';
import { DrawingLink } from '../viewer/drawing-link';
import type { OptimisticChange, PickedPoint } from '../drawing/drawing-protocol';
import { LookStore } from '../state/look-store';
import { JobStore } from '../state/job-store';

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
  /** How far from one point to the next a patch reaches, how steep a step it takes, how far it grows; job units. */
  readonly patchReach = signal(0.8);
  readonly patchHeightStep = signal(0.25);
  readonly patchLimit = signal(60);
  /** Distance in red, green and blue, 0 to 1 each; 0 takes every colour. */
  readonly patchColourStep = signal(0);

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
  private touched:
    | { readonly point: PickedPoint; readonly as: DrawnAs; readonly before: Selection; readonly after: Selection }
    | undefined;
  /** How thick a surface may be to be seen as one, job units. */
  private thickness = 0.25;

  constructor() {
    // What is usual is known in metres.
    effect(() => {
      const metres = metresPer(this.store.unit());
      const inUnit = (length: number): number => Number((length / metres).toPrecision(2));
      this.patchReach.set(inUnit(0.8));
      this.patchHeightStep.set(inUnit(0.25));
      this.patchLimit.set(inUnit(60));
      this.thickness = inUnit(0.25);
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
  readonly planOutline = computed(() => {
    for (const { shape } of [...this.steps(), ...this.last()].reverse()) {
      if (shape.kind === 'boundary') return shape.corners;
      if (shape.kind !== 'outline' || (shape.view as { name?: string }).name !== 'plan') continue;
      const { matrix, origin, width, height } = shape.view;
      // Plan's matrix scales and shifts, and nothing more.
      return shape.corners.map(
        ([px, py]) =>
          [
            ((2 * px) / width - 1 - matrix[12]!) / matrix[0]! + origin[0],
            (1 - (2 * py) / height - matrix[13]!) / matrix[5]! + origin[1],
          ] as const,
      );
    }
    return undefined;
  });

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

  /** The patch of the last touch again, with the rule as it now is: it is seen to grow and shrink as the rule changes. */
  regrow(): void {
    const { touched } = this;
    // Only while nothing has been selected since.
    if (!touched || this.steps() !== touched.after) return;
    this.steps.set(touched.before);
    this.touch(touched.point, touched.as);
  }

  /** The patch round a point that was touched. */
  touch(point: PickedPoint, as: DrawnAs): void {
    const { easting, northing, elevation } = point;
    this.isCounting.set(true);
    this.api
      .call('growPatch', {
        params: { jobId: this.store.jobId() },
        body: {
          seed: [easting, northing, elevation],
          reach: this.patchReach(),
          heightStep: this.patchHeightStep(),
          ...(this.patchColourStep() > 0 && { colourStep: this.patchColourStep() }),
          limit: this.patchLimit(),
          visible: this.look.visible() as never,
        },
      })
      .pipe(
        catchError((error: unknown) => {
          this.isCounting.set(false);
          this.problem.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
      )
      .subscribe(({ nodes, points, isCut }) => {
        this.isCounting.set(false);
        const before = this.steps();
        this.draw(
          { kind: 'points', nodes: nodes.map(({ nodeId, bits }) => ({ nodeId, bits: bitsFromText(bits) })) },
          { as },
        );
        this.touched = { point, as, before, after: this.steps() };
        if (isCut)
          this.problem.set(
            `The patch of ${formatCount(points)} points continues beyond ${this.patchLimit()}. It was cut there.`,
          );
      });
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
