import { computed, inject, Injectable, signal } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import type { GroundDoubtResource } from '@pampero/contract';
import { GROUND } from '@pampero/core/cloud';
import { metresPer } from '@pampero/core/geodesy';
import type { Selection, Shape } from '@pampero/core/selection';
import { catchError, EMPTY, finalize, switchMap } from 'rxjs';
import { pointsOf } from '../shared/bits';
import { ApiService, asJson } from '../api/api.service';
import { ViewCameras } from '../viewer/view-cameras';
import { WorkbenchStore } from '../workbench/workbench-store';

export interface DoubtRow extends GroundDoubtResource {
  /** Found right, set right, or yet to be looked at. */
  readonly state: 'open' | 'accepted' | 'mended';
}

/** What one key does about a place of each kind. */
export const MENDS: Readonly<Record<GroundDoubtResource['kind'], string>> = {
  spike: 'Take out of ground',
  roof: 'Take out of ground',
  thin: 'Take out of ground',
  pit: 'To low points',
  hole: 'Look for ground there again',
  step: 'Upper side out of ground',
};

/** Where the ground is most likely wrong, walked one by one. */
@Injectable()
export class DoubtStore {
  private readonly api = inject(ApiService);
  private readonly store = inject(WorkbenchStore);
  private readonly cameras = inject(ViewCameras);

  private readonly found = signal<readonly GroundDoubtResource[] | undefined>(undefined);
  private readonly mended = signal<ReadonlySet<string>>(new Set());
  private readonly justAccepted = signal<ReadonlySet<string>>(new Set());
  /** Whether the queue is on the screen: elsewhere its places are not marked. */
  readonly isOpen = signal(false);
  readonly isLooking = signal(false);
  readonly problem = signal<string | undefined>(undefined);
  readonly currentKey = signal<string | undefined>(undefined);
  /** The ground has changed since the search. */
  readonly isOld = signal(false);
  private cloudId = 0;

  private readonly accepted = computed(
    () => new Set(this.store.pins().flatMap(({ kind, name }) => (kind === 'accepted' ? [name] : []))),
  );
  readonly rows = computed<readonly DoubtRow[] | undefined>(() =>
    this.found()?.map((doubt) => ({
      ...doubt,
      state: this.mended().has(doubt.key)
        ? 'mended'
        : this.accepted().has(doubt.key) || this.justAccepted().has(doubt.key)
          ? 'accepted'
          : 'open',
    })),
  );
  readonly open = computed(() => this.rows()?.filter(({ state }) => state === 'open').length ?? 0);
  readonly current = computed(() => this.rows()?.find(({ key }) => key === this.currentKey()));
  readonly currentNumber = computed(() => (this.rows()?.findIndex(({ key }) => key === this.currentKey()) ?? -1) + 1);

  constructor() {
    this.store.ended$.pipe(takeUntilDestroyed()).subscribe((run) => {
      if (run.state !== 'done' || !this.found()) return;
      if (run.operation === 'find-ground') this.search();
      else if (run.operation !== 'set-class' || !this.isMending) this.isOld.set(true);
      this.isMending = false;
    });
  }
  private isMending = false;

  search(): void {
    const cloud = this.store.clouds().at(-1);
    if (!cloud || this.isLooking()) return;
    this.cloudId = cloud.id;
    this.isLooking.set(true);
    this.problem.set(undefined);
    this.api
      .lookForDoubts(this.store.jobId(), cloud.id)
      .pipe(
        catchError((error: unknown) => {
          this.problem.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
        finalize(() => this.isLooking.set(false)),
      )
      .subscribe((doubts) => {
        this.found.set(doubts);
        this.mended.set(new Set());
        this.isOld.set(false);
        this.currentKey.set(undefined);
        this.go(1);
      });
  }

  /** To the next open place, or back to the one before. */
  go(by: 1 | -1): void {
    const rows = this.rows();
    if (!rows || rows.length === 0) return;
    const from = rows.findIndex(({ key }) => key === this.currentKey());
    const start = from < 0 ? (by > 0 ? -1 : rows.length) : from;
    for (let k = 1; k <= rows.length; k++) {
      const row = rows[(start + by * k + rows.length * 2) % rows.length]!;
      if (row.state !== 'open') continue;
      this.show(row);
      return;
    }
    this.store.say('All places have been looked at.');
  }

  show(doubt: GroundDoubtResource): void {
    this.currentKey.set(doubt.key);
    const metre = 1 / metresPer(this.store.unit());
    const length = Math.min(140 * metre, Math.max(24 * metre, 3.5 * doubt.width));
    this.store.sectionDepth.set(Math.min(6 * metre, Math.max(2 * metre, doubt.width / 2)));
    this.store.section.set({
      a: [doubt.easting - length / 2, doubt.northing],
      b: [doubt.easting + length / 2, doubt.northing],
    });
    this.cameras.reframeSection();
    this.cameras.lookClose([doubt.easting, doubt.northing, doubt.elevation], length * 1.5);
  }

  /** It is right as it is. */
  accept(): void {
    const doubt = this.current();
    if (!doubt) return;
    if (doubt.state === 'open') this.store.pin({ kind: 'accepted', name: doubt.key, cloudId: this.cloudId }, '');
    // The pin comes back from the server; the walk does not wait for it.
    this.justAccepted.update((keys) => new Set([...keys, doubt.key]));
    this.go(1);
  }

  mend(): void {
    const doubt = this.current();
    if (!doubt || doubt.state !== 'open') return;
    if (doubt.kind === 'hole') this.lookAgain(doubt);
    else this.setClass(doubt, this.stepsFor(doubt), doubt.kind === 'pit' ? 7 : 1);
  }

  private setClass(doubt: GroundDoubtResource, steps: Selection, classCode: number): void {
    this.isMending = true;
    this.store.start('set-class', { selection: asJson(steps), classCode }, ({ problem }) =>
      this.store.say(problem.detail),
    );
    this.mended.update((keys) => new Set([...keys, doubt.key]));
    this.go(1);
  }

  /**
   * A hole is often the top of something taken for a building, or ground rougher than the rest: it is looked for again there, with
   * buildings no larger than half the hole and twice the tolerance.
   */
  private lookAgain(doubt: GroundDoubtResource): void {
    const jobId = this.store.jobId();
    const cloudId = this.cloudId;
    const [east, north] = [doubt.outline.map(([e]) => e), doubt.outline.map(([, n]) => n)];
    const window = {
      west: Math.min(...east),
      south: Math.min(...north),
      east: Math.max(...east),
      north: Math.max(...north),
    };
    this.api
      .proposeGround(jobId, cloudId)
      .pipe(
        switchMap(({ parameters }) =>
          this.api.previewGround(jobId, cloudId, {
            window,
            parameters: {
              ...parameters,
              largestBuilding: Math.max(2 / metresPer(this.store.unit()), doubt.size / 2),
              tolerance: 2 * Number(parameters['tolerance']),
            },
          }),
        ),
        catchError((error: unknown) => {
          this.store.say(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
      )
      .subscribe((preview) => {
        if (preview.gained === 0) {
          this.store.say('No point lies low enough there to be ground. Accepted, it stays a hole: nothing is made up.');
          return;
        }
        const visible = this.visible();
        this.setClass(
          doubt,
          [
            { how: 'add', shape: pointsOf(preview), visible },
            // Ground that the looser settings would give up stays.
            { how: 'take', shape: { kind: 'classes', classes: [GROUND, 7, 18] }, visible },
          ],
          GROUND,
        );
      });
  }

  private visible(): Selection[number]['visible'] {
    return { hiddenClasses: [], withWithheld: false, clouds: [this.cloudId] };
  }

  /** The ground points that are in doubt. */
  private stepsFor({ kind, outline, elevation, size }: GroundDoubtResource): Selection {
    const visible = this.visible();
    const keep = (shape: Shape): Selection[number] => ({ how: 'keep', shape, visible });
    const within: Selection = [{ how: 'add', shape: { kind: 'boundary', corners: outline, buffer: 0 }, visible }];
    const ground = keep({ kind: 'classes', classes: [GROUND] });
    const heights = (from: number | undefined, to: number | undefined): Selection[number] =>
      keep({
        kind: 'range',
        attribute: 'elevation',
        ...(from !== undefined && { from }),
        ...(to !== undefined && { to }),
      });
    switch (kind) {
      case 'spike':
        return [...within, ground, heights(elevation - size / 2, undefined)];
      case 'step':
        return [...within, ground, heights(elevation, undefined)];
      case 'pit':
        return [...within, ground, heights(undefined, elevation + size / 2)];
      default:
        return [...within, ground];
    }
  }
}
