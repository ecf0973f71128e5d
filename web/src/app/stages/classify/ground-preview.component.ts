import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  untracked,
} from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { GROUND } from '@pampero/core/cloud';
import type { GroundPreview } from '@pampero/contract';
import { catchError, EMPTY, finalize, type Subscription } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { pointsOf, statesOf } from '../../shared/bits';
import { formatCount } from '@pampero/core/wording';
import { SelectionStore } from '../../tools/selection-store';
import { ViewCameras } from '../../viewer/view-cameras';
import { LookStore } from '../../state/look-store';
import { JobStore } from '../../state/job-store';
import { ViewStore } from '../../state/view-store';
import { SectionComparison } from '../../viewer/section-comparison';

type Values = Record<string, unknown>;

const FOLLOWS_AFTER_MS = 500;
const FLAT = ['plan', 'model'] as const;

/** What the settings in the form would change, as a selection in every view; and where they differ from settings kept before. */
@Component({
  selector: 'pam-ground-preview',
  imports: [MatButtonModule],
  template: `
    <div class="act">
      <button mat-stroked-button type="button" [disabled]="isLooking()" (click)="look()" data-testid="preview-ground">
        {{ isLooking() ? 'Looking…' : 'Show what would change' }}
      </button>
      <button mat-stroked-button type="button" (click)="keep()" data-testid="keep-settings">Keep to compare</button>
      @if (kept()) {
        <button
          mat-stroked-button
          type="button"
          [disabled]="isLooking()"
          (click)="compare()"
          data-testid="compare-ground"
        >
          Compare with kept settings
        </button>
      }
    </div>
    @if (said(); as words) {
      <p class="soft" data-testid="preview-result" aria-live="polite">{{ words }}</p>
    }
  `,
  styles: `
    .act {
      display: flex;
      flex-wrap: wrap;
      gap: 6px;
      margin: 8px 0 4px;
    }
    .soft {
      margin: 4px 0 0;
      color: var(--ink-2);
      font-size: 12.5px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class GroundPreviewComponent {
  readonly values = input.required<Values>();

  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly views = inject(ViewStore);
  private readonly cameras = inject(ViewCameras);
  private readonly selection = inject(SelectionStore);
  private readonly lookStore = inject(LookStore);
  private readonly comparison = inject(SectionComparison);
  protected readonly isLooking = signal(false);
  protected readonly kept = signal<Values | undefined>(undefined);
  protected readonly said = signal<string | undefined>(undefined);

  private against: Values | undefined;
  private asking: Subscription | undefined;
  /** There is no ground yet: everything would change, and a selection of all of it tells nothing. */
  private readonly isFirst = computed(() => !this.store.classCounts().has(GROUND));

  constructor() {
    // What is compared follows the form, a moment after the last change.
    effect((onCleanup) => {
      this.values();
      const timer = setTimeout(() => {
        if (!this.comparison.isOn()) return;
        if (this.against) this.compare();
        else this.look();
      }, FOLLOWS_AFTER_MS);
      onCleanup(() => clearTimeout(timer));
    });
    // Once classes have changed it no longer shows what is.
    const revisions = computed(() =>
      this.store
        .clouds()
        .map(({ id, revision }) => `${id}/${revision}`)
        .join(),
    );
    effect(() => {
      revisions();
      untracked(() => this.comparison.close());
    });
    // What is closed stays closed, also when an answer is on its way.
    effect(() => {
      if (!this.comparison.isOn()) untracked(() => this.asking?.unsubscribe());
    });
    inject(DestroyRef).onDestroy(() => {
      this.asking?.unsubscribe();
      this.comparison.close();
    });
  }

  protected keep(): void {
    this.kept.set(this.values());
    this.said.set('Kept. Change the settings, then compare.');
  }

  protected look(): void {
    this.ask(undefined, ({ gained, lost }) =>
      gained + lost === 0
        ? 'Nothing would change in this view.'
        : this.isFirst()
          ? `In this view, ${formatCount(gained)} points would become ground. Plan, Model and the lower section show the result.`
          : `In this view, ${formatCount(gained)} points would become ground and ${formatCount(lost)} would no longer be. They are selected.`,
    );
  }

  protected compare(): void {
    this.ask(this.kept(), ({ gained, lost }) =>
      gained + lost === 0
        ? 'Both settings find the same ground in this view.'
        : `In this view these settings find ${formatCount(gained)} more ground points than the kept ones, and ${formatCount(lost)} fewer. They are selected.`,
    );
  }

  /** The section twice, one above the other, stations under each other; one is laid through the middle where there is none. */
  private compareInSection(found: GroundPreview, isAgainstKept: boolean): void {
    if (found.gained + found.lost === 0) {
      this.comparison.close();
      return;
    }
    if (!this.views.section()) {
      const { west, south, east, north } = this.cameras.planWindow(0.8);
      this.views.section.set({ a: [west, (south + north) / 2], b: [east, (south + north) / 2] });
    }
    const { now, kept } = statesOf(found);
    this.comparison.compared.set({
      above: isAgainstKept ? 'With the kept settings' : 'As it is',
      below: isAgainstKept ? 'With the settings in the form' : 'As it would be',
      views: [
        ...(!isAgainstKept && this.isFirst() ? FLAT.map((view) => ({ view, nodes: now })) : []),
        ...(isAgainstKept ? [{ view: 'section' as const, nodes: kept }] : []),
        { view: 'after', nodes: now },
      ],
    });
  }

  private ask(against: Values | undefined, say: (found: GroundPreview) => string): void {
    this.against = against;
    const cloudId = Number((this.values()['clouds'] as number[] | undefined)?.[0] ?? this.store.clouds().at(-1)?.id);
    if (!Number.isFinite(cloudId)) return;
    this.isLooking.set(true);
    // Only the newest question counts: an older answer would come over it.
    this.asking?.unsubscribe();
    this.asking = this.api
      .call('previewGround', {
        params: { jobId: this.store.jobId(), cloudId },
        body: { window: this.cameras.planWindow(), parameters: this.values(), ...(against && { against }) },
      })
      .pipe(
        catchError((error: unknown) => {
          this.said.set(error instanceof Error ? error.message : String(error));
          return EMPTY;
        }),
        finalize(() => this.isLooking.set(false)),
      )
      .subscribe((found) => {
        this.said.set(say(found));
        this.compareInSection(found, against !== undefined);
        this.selection.use(
          found.nodes.length === 0 || (!against && this.isFirst())
            ? []
            : [{ how: 'add', shape: pointsOf(found), visible: this.lookStore.visible() }],
        );
      });
  }
}
