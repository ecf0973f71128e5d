import { effect, inject, Injectable, signal } from '@angular/core';
import { lengthInUnit } from '@pampero/contract';
import type { Selection } from '@pampero/core/selection';
import { formatCount } from '@pampero/core/wording';
import { catchError, EMPTY } from 'rxjs';
import { ApiClient } from '../api/api-client';
import type { PickedPoint } from '../drawing/viewer-questions';
import { bitsFromText } from '../shared/bits';
import { JobStore } from '../state/job-store';
import { LookStore } from '../state/look-store';
import { SelectionStore, type DrawnAs } from './selection-store';

/** The patch that grows round a point that is touched, and the rule by which it does. */
@Injectable()
export class PatchStore {
  private readonly store = inject(JobStore);
  private readonly look = inject(LookStore);
  private readonly selection = inject(SelectionStore);
  private readonly api = inject(ApiClient);

  /** How far from one point to the next a patch reaches, how steep a step it takes, how far it grows; job units. */
  readonly reach = signal(0.8);
  readonly heightStep = signal(0.25);
  readonly limit = signal(60);
  /** Distance in red, green and blue, 0 to 1 each; 0 takes every colour. */
  readonly colourStep = signal(0);
  private touched:
    | { readonly point: PickedPoint; readonly as: DrawnAs; readonly before: Selection; readonly after: Selection }
    | undefined;

  constructor() {
    // What is usual is known in metres.
    effect(() => {
      const unit = this.store.unit();
      this.reach.set(lengthInUnit(0.8, unit));
      this.heightStep.set(lengthInUnit(0.25, unit));
      this.limit.set(lengthInUnit(60, unit));
    });
  }

  /** The patch of the last touch again, with the rule as it now is: it is seen to grow and shrink as the rule changes. */
  regrow(): void {
    const { touched } = this;
    // Only while nothing has been selected since.
    if (!touched || this.selection.steps() !== touched.after) return;
    this.selection.steps.set(touched.before);
    this.touch(touched.point, touched.as);
  }

  touch(point: PickedPoint, as: DrawnAs): void {
    const { selection } = this;
    const { easting, northing, elevation } = point;
    selection.isCounting.set(true);
    this.api
      .call('growPatch', {
        params: { jobId: this.store.jobId() },
        body: {
          seed: [easting, northing, elevation],
          reach: this.reach(),
          heightStep: this.heightStep(),
          ...(this.colourStep() > 0 && { colourStep: this.colourStep() }),
          limit: this.limit(),
          visible: this.look.visible() as never,
        },
      })
      .pipe(
        catchError((error: unknown) => {
          selection.isCounting.set(false);
          selection.problem.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
      )
      .subscribe(({ nodes, points, isCut }) => {
        selection.isCounting.set(false);
        const before = selection.steps();
        selection.draw(
          { kind: 'points', nodes: nodes.map(({ nodeId, bits }) => ({ nodeId, bits: bitsFromText(bits) })) },
          { as },
        );
        this.touched = { point, as, before, after: selection.steps() };
        if (isCut)
          selection.problem.set(
            `The patch of ${formatCount(points)} points continues beyond ${this.limit()}. It was cut there.`,
          );
      });
  }
}
