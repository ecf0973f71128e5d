import { ChangeDetectionStrategy, Component, inject, input, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import type { GroundPreview } from '@pampero/contract';
import { catchError, EMPTY, finalize } from 'rxjs';
import { ApiService } from '../api/api.service';
import { pointsOf } from '../shared/bits';
import { formatCount } from '../shared/format';
import { SelectionStore } from '../tools/selection-store';
import { ViewCameras } from '../viewer/view-cameras';
import { LookStore } from '../workbench/look-store';
import { WorkbenchStore } from '../workbench/workbench-store';

type Values = Record<string, unknown>;

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
          Against the kept ones
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

  private readonly api = inject(ApiService);
  private readonly store = inject(WorkbenchStore);
  private readonly cameras = inject(ViewCameras);
  private readonly selection = inject(SelectionStore);
  private readonly lookStore = inject(LookStore);
  protected readonly isLooking = signal(false);
  protected readonly kept = signal<Values | undefined>(undefined);
  protected readonly said = signal<string | undefined>(undefined);

  protected keep(): void {
    this.kept.set(this.values());
    this.said.set('Kept. Change what you like, then hold them against each other.');
  }

  protected look(): void {
    this.ask(undefined, ({ gained, lost }) =>
      gained + lost === 0
        ? 'Nothing would change in what Plan shows.'
        : `In what Plan shows, ${formatCount(gained)} points would become ground and ${formatCount(lost)} would cease to be. They are selected.`,
    );
  }

  protected compare(): void {
    this.ask(this.kept(), ({ gained, lost }) =>
      gained + lost === 0
        ? 'Both give the same ground in what Plan shows.'
        : `In what Plan shows these settings make ${formatCount(gained)} more points ground than the kept ones, and ${formatCount(lost)} fewer. They are selected.`,
    );
  }

  private ask(against: Values | undefined, say: (found: GroundPreview) => string): void {
    const cloudId = Number(this.values()['cloudId'] ?? this.store.clouds().at(-1)?.id);
    if (!Number.isFinite(cloudId)) return;
    this.isLooking.set(true);
    this.api
      .previewGround(this.store.jobId(), cloudId, {
        window: this.cameras.planWindow(),
        parameters: this.values(),
        ...(against && { against }),
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
        this.selection.use(
          found.nodes.length === 0 ? [] : [{ how: 'add', shape: pointsOf(found), visible: this.lookStore.visible() }],
        );
      });
  }
}
