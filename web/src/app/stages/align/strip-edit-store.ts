import { computed, effect, inject, Injectable, signal } from '@angular/core';
import { rxResource } from '@angular/core/rxjs-interop';
import { formatNumber } from '@pampero/core/wording';
import { map, of } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import type { FlightFile } from '../../drawing/flight-lines';
import { shortUnit } from '../../shared/format';
import { JobStore } from '../../state/job-store';
import { layerKey, LayerStore } from '../../state/layer-store';
import { LookStore } from '../../state/look-store';
import { colouredSpans, shiftToTrajectory } from '../../state/strip-spans';
import { ViewStore } from '../../state/view-store';
import { ToolGestures } from '../../tools/tool-gestures';
import { PlanMarks } from '../../viewer/plan-marks';
import { ViewCameras } from '../../viewer/view-cameras';
import { nearestOnFlight, splitAt, withStrip, type EditedStrip, type PlaceOnFlight } from './strip-edits';

/** Pixels from the trajectory within which a click is meant for it. */
const REACH = 40;

/** Strips in the making: named, left out, split, and drawn on the trajectory, until they are kept. */
@Injectable()
export class StripEditStore {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly layers = inject(LayerStore);
  private readonly look = inject(LookStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly marks = inject(PlanMarks);

  /** The list as it is edited; undefined while nobody edits it. */
  readonly draft = signal<readonly EditedStrip[] | undefined>(undefined);
  readonly click = signal<'draw' | 'split'>('draw');
  readonly fault = signal('');
  /** Where the strip that is being drawn begins. */
  readonly begun = signal<PlaceOnFlight | undefined>(undefined);

  private readonly newest = computed(() => this.store.newest('strips'));
  readonly cloud = computed(() => {
    const id = this.newest()?.facts.cloudId;
    return this.store.clouds().find((cloud) => cloud.id === id) ?? this.store.clouds()[0];
  });
  /** The trajectory that the strips were found on, or the newest there is. */
  readonly trajectory = computed(() => {
    const id = this.newest()?.parameters['trajectory'];
    return this.store.of('trajectory').find((each) => each.id === id) ?? this.store.newest('trajectory');
  });
  /** Strips told by their times can be drawn and split. */
  readonly isTimed = computed(() => (this.draft() ?? []).every(({ sourceId }) => sourceId === undefined));

  private readonly flight = rxResource({
    params: () => ({ jobId: this.store.jobId(), productId: this.draft() ? this.trajectory()?.id : undefined }),
    stream: ({ params: { jobId, productId } }) =>
      productId === undefined
        ? of(undefined)
        : this.api
            .call('showProduct', { params: { jobId, productId } })
            .pipe(map((bytes) => JSON.parse(new TextDecoder().decode(bytes)) as FlightFile)),
  });

  constructor() {
    effect(() => {
      const list = this.draft();
      this.look.stripDraft.set(list && this.isTimed() ? colouredSpans(list) : undefined);
    });
    inject(ToolGestures).onClick('strips', (place) => this.clickAt(place));
    effect(() => {
      const begun = this.begun();
      this.marks.set(
        'strip-begun',
        begun ? [{ key: 'strip-begun', kind: 'dot', easting: begun.easting, northing: begun.northing }] : [],
      );
    });
  }

  /** Begins with the strips there are: those found last, or the point source IDs of the cloud. */
  edit(): void {
    const strips = this.newest()?.facts.strips;
    this.draft.set(
      strips
        ? strips.map(({ name, from, to, sourceId, isLeftOut }) => ({
            name,
            ...(sourceId === undefined ? { from, to } : { sourceId }),
            isLeftOut,
          }))
        : (this.cloud()?.source.strips ?? []).map((id) => ({ name: String(id), sourceId: id, isLeftOut: false })),
    );
    this.fault.set('');
    const trajectory = this.trajectory();
    if (trajectory) this.layers.setShown(layerKey('trajectory', trajectory.id), true);
    if (this.isTimed()) {
      this.look.flightColour.set('strip');
      this.views.tool.set('strips');
    }
  }

  leave(): void {
    this.draft.set(undefined);
    this.begun.set(undefined);
    this.fault.set('');
    if (this.views.tool() === 'strips') this.views.tool.set('look');
  }

  change(at: number, changed: Partial<EditedStrip>): void {
    this.draft.update((list) => list?.map((strip, k) => (k === at ? { ...strip, ...changed } : strip)));
  }

  remove(at: number): void {
    this.draft.update((list) => list?.filter((_, k) => k !== at));
  }

  /** Begins from nothing, to draw all strips. */
  clear(): void {
    this.draft.set([]);
    this.views.tool.set('strips');
  }

  keep(): void {
    const [cloud, strips] = [this.cloud(), this.draft()];
    if (!cloud || !strips) return;
    const trajectory = this.trajectory()?.id;
    this.store.start(
      'set-strips',
      {
        cloud: cloud.id,
        ...(trajectory !== undefined && cloud.columns.gpsTime && { trajectory }),
        strips: strips.map((strip) => ({ ...strip, name: strip.name.trim() })),
      },
      ({ problem }) => this.fault.set(problem.detail),
      () => this.leave(),
    );
  }

  private clickAt(place: readonly [number, number]): void {
    const list = this.draft();
    if (!list) {
      this.fault.set('Press “Edit strips” in Align first.');
      return;
    }
    const [cloud, trajectory] = [this.cloud(), this.trajectory()];
    const file = this.flight.hasValue() ? this.flight.value() : undefined;
    if (!file || !trajectory || !cloud) {
      this.fault.set('There is no trajectory to click. Import it in Align.');
      return;
    }
    const found = nearestOnFlight(file, place);
    const reach = REACH * this.cameras.plan().unitsPerPixel;
    if (!found || found.distance > reach) {
      this.fault.set(
        found
          ? `The trajectory is ${formatNumber(found.distance, 0)} ${shortUnit(this.store.unit())} away. Click on it.`
          : 'The times of this trajectory are not known to the page. Load it again.',
      );
      return;
    }
    this.fault.set('');
    const first = list.find(({ from }) => from !== undefined)?.from ?? found.time;
    const shift = shiftToTrajectory(cloud, first, trajectory.facts) ?? 0;
    if (this.click() === 'split') {
      const split = splitAt(list, found.time - shift);
      if (split) this.draft.set(split);
      else this.fault.set('No strip runs there. Click one to split it.');
      return;
    }
    const begun = this.begun();
    if (!begun) {
      this.begun.set(found);
      return;
    }
    const [from, to] = [Math.min(begun.time, found.time) - shift, Math.max(begun.time, found.time) - shift];
    this.begun.set(undefined);
    if (to - from < 0.1) this.fault.set('Its end lies where it begins. Click further along.');
    else this.draft.set(withStrip(list, from, to));
  }
}
