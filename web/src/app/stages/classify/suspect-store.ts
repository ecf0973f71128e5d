import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { findGround, type SuspectAreaResource } from '@pampero/contract';
import { GROUND } from '@pampero/core/cloud';
import { metresPer } from '@pampero/core/geodesy';
import { commonPlan, planBounds, type PlanBounds } from '@pampero/core/raster';
import type { Selection, Shape } from '@pampero/core/selection';
import { catchError, EMPTY, finalize, switchMap } from 'rxjs';
import { pointsOf } from '../../shared/bits';
import { ApiClient, asJson } from '../../api/api-client';
import { DrawingLink } from '../../viewer/drawing-link';
import { PlanMarks, type PlanMark } from '../../viewer/plan-marks';
import { ViewCameras } from '../../viewer/view-cameras';
import { JobStore } from '../../state/job-store';
import { LookStore } from '../../state/look-store';
import { ViewStore } from '../../state/view-store';
import { heightsOf, sectionOf } from './suspect-section';

export interface SuspectRow extends SuspectAreaResource {
  /** Found right, set right, or yet to be looked at. */
  readonly state: 'open' | 'accepted' | 'fixed';
}

/** What one key does about a place of each kind. */
export const FIXES: Readonly<Record<SuspectAreaResource['kind'], string>> = {
  spike: 'Take out of ground',
  roof: 'Take out of ground',
  thin: 'Take out of ground',
  pit: 'Set class low point',
  hole: 'Find ground there again',
  step: 'Take upper side out of ground',
};

/** Of a step that goes on, so much either way is marked and fixed at once. */
const STEP_METRES = 10;

/** Where the ground is most likely wrong, walked one by one. */
@Injectable()
export class SuspectStore {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly marks = inject(PlanMarks);
  private readonly link = inject(DrawingLink);
  private readonly look = inject(LookStore);

  private readonly found = signal<readonly SuspectAreaResource[] | undefined>(undefined);
  private readonly fixed = signal<ReadonlySet<string>>(new Set());
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
  readonly rows = computed<readonly SuspectRow[] | undefined>(() =>
    this.found()?.map((suspect) => ({
      ...suspect,
      state: this.fixed().has(suspect.key)
        ? 'fixed'
        : this.accepted().has(suspect.key) || this.justAccepted().has(suspect.key)
          ? 'accepted'
          : 'open',
    })),
  );
  readonly open = computed(() => this.rows()?.filter(({ state }) => state === 'open').length ?? 0);
  readonly current = computed(() => this.rows()?.find(({ key }) => key === this.currentKey()));
  readonly currentNumber = computed(() => (this.rows()?.findIndex(({ key }) => key === this.currentKey()) ?? -1) + 1);

  constructor() {
    effect(() => {
      const current = this.currentKey();
      const rows = this.isOpen() ? (this.rows() ?? []) : [];
      this.marks.set(
        'suspects',
        rows.flatMap(({ key, easting, northing, outline, state }): PlanMark[] => {
          if (key === current) return [{ key, kind: 'area', easting, northing, outline }];
          return state === 'open' ? [{ key, kind: 'dot', easting, northing }] : [];
        }),
      );
    });
    effect(() => {
      if (!this.isOpen() || this.currentKey() === undefined) untracked(() => this.unmark());
    });
    this.store.ended$.pipe(takeUntilDestroyed()).subscribe((run) => {
      if (run.state !== 'done' || !this.found()) return;
      if (run.operation === 'find-ground') this.search();
      else if (run.operation !== 'set-class' || !this.isFixing) this.isOld.set(true);
      this.isFixing = false;
    });
  }
  private isFixing = false;

  search(): void {
    const cloud = this.store.clouds().at(-1);
    if (!cloud || this.isLooking()) return;
    this.cloudId = cloud.id;
    this.isLooking.set(true);
    this.problem.set(undefined);
    this.api
      .call('listSuspectAreas', { params: { jobId: this.store.jobId(), cloudId: cloud.id } })
      .pipe(
        catchError((error: unknown) => {
          this.problem.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
        finalize(() => this.isLooking.set(false)),
      )
      .subscribe((suspects) => {
        this.found.set(suspects);
        this.fixed.set(new Set());
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
    this.store.say('All areas have been looked at.');
  }

  show(suspect: SuspectAreaResource): void {
    this.currentKey.set(suspect.key);
    const { easting, northing, elevation } = suspect;
    const { length, depth, height } = sectionOf(suspect, 1 / metresPer(this.store.unit()));
    this.views.sectionDepth.set(depth);
    this.views.section.set({ a: [easting - length / 2, northing], b: [easting + length / 2, northing] });
    this.cameras.frameSectionOn(elevation, height);
    this.cameras.lookClose([easting, northing, elevation], length * 2);
    void this.markPoints(suspect);
  }

  /** Rings the ground points that make it suspect. */
  private async markPoints(suspect: SuspectAreaResource): Promise<void> {
    const { west, south, east, north } = this.windowOf(suspect);
    const middle = (south + north) / 2;
    const answer = await this.link.ask('preview', {
      preview: {
        cloudId: this.cloudId,
        filter: { kind: 'height-band', ...heightsOf(suspect) },
        region: { a: [west, middle], b: [east, middle], half: (north - south) / 2 },
        leftOut: this.store.classCodes().filter((code) => code !== GROUND),
      },
    });
    if (this.currentKey() === suspect.key && this.isOpen()) this.look.ringed.set(answer?.places ?? []);
  }

  /** Nothing is marked any longer. */
  private unmark(): void {
    this.look.ringed.set([]);
    void this.link.ask('preview', { preview: undefined });
  }

  /** It is right as it is. */
  accept(): void {
    const suspect = this.current();
    if (!suspect) return;
    if (suspect.state === 'open') this.store.pin({ kind: 'accepted', name: suspect.key, cloudId: this.cloudId }, '');
    // The pin comes back from the server; the walk does not wait for it.
    this.justAccepted.update((keys) => new Set([...keys, suspect.key]));
    this.go(1);
  }

  fix(): void {
    const suspect = this.current();
    if (!suspect || suspect.state !== 'open') return;
    if (suspect.kind === 'hole') this.lookAgain(suspect);
    else this.setClass(suspect, this.stepsFor(suspect), suspect.kind === 'pit' ? 7 : 1);
  }

  private setClass(suspect: SuspectAreaResource, steps: Selection, classCode: number): void {
    this.isFixing = true;
    this.store.start('set-class', { selection: asJson(steps), classCode }, ({ problem }) =>
      this.store.say(problem.detail),
    );
    this.fixed.update((keys) => new Set([...keys, suspect.key]));
    this.go(1);
  }

  /**
   * A hole is often the top of something taken for a building, or ground rougher than the rest: it is looked for again there, with
   * buildings no larger than half the hole and twice the tolerance.
   */
  private lookAgain(suspect: SuspectAreaResource): void {
    const jobId = this.store.jobId();
    const cloudId = this.cloudId;
    const window = this.windowOf(suspect);
    this.api
      .call('proposeSettings', { params: { jobId, cloudId, operation: findGround.id } })
      .pipe(
        switchMap(({ parameters }) =>
          this.api.call('previewGround', {
            params: { jobId, cloudId },
            body: {
              window,
              parameters: {
                ...parameters,
                largestBuilding: Math.max(2 / metresPer(this.store.unit()), suspect.size / 2),
                tolerance: 2 * Number(parameters['tolerance']),
              },
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
          this.store.say('No point there is low enough to be ground. Accept it to leave a hole.');
          return;
        }
        const visible = this.visible();
        this.setClass(
          suspect,
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

  /** The ground points that are in suspect. */
  private stepsFor(suspect: SuspectAreaResource): Selection {
    const visible = this.visible();
    const keep = (shape: Shape): Selection[number] => ({ how: 'keep', shape, visible });
    const within: Selection = [
      { how: 'add', shape: { kind: 'boundary', corners: suspect.outline, buffer: 0 }, visible },
    ];
    const { west, south, east, north } = this.windowOf(suspect);
    const nearby = keep({
      kind: 'boundary',
      corners: [
        [west, south],
        [east, south],
        [east, north],
        [west, north],
      ],
      buffer: 0,
    });
    const ground = keep({ kind: 'classes', classes: [GROUND] });
    const heights = heightsOf(suspect);
    const isLimited = heights.from !== undefined || heights.to !== undefined;
    return [
      ...within,
      ...(suspect.kind === 'step' ? [nearby] : []),
      ground,
      ...(isLimited ? [keep({ kind: 'range', attribute: 'elevation', ...heights })] : []),
    ];
  }

  /** The box about an area; of a wall that goes on, only what is near the place shown: its height is that of the wall there. */
  private windowOf({ kind, easting, northing, outline }: SuspectAreaResource): PlanBounds {
    const box = planBounds(
      outline.map(([e]) => e),
      outline.map(([, n]) => n),
    );
    if (kind !== 'step') return box;
    const most = STEP_METRES / metresPer(this.store.unit());
    return commonPlan(box, {
      west: easting - most,
      south: northing - most,
      east: easting + most,
      north: northing + most,
    });
  }
}
