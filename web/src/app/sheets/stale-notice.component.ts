import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatIconModule } from '@angular/material/icon';
import { JobStore } from '../state/job-store';

/** Says that something is stale, wherever one works with what hangs on other things, and rebuilds it. */
@Component({
  selector: 'pam-stale-notice',
  imports: [MatButtonModule, MatIconModule],
  template: `
    @if (store.hasStale()) {
      <div class="notice" data-testid="stale-notice">
        Some products are stale: what they were made from has changed since.
        <div class="act">
          <button mat-stroked-button (click)="store.rebuild()" data-testid="rebuild">
            <mat-icon svgIcon="rebuild" />Rebuild all
          </button>
        </div>
      </div>
    }
  `,
  styleUrl: './sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class StaleNoticeComponent {
  protected readonly store = inject(JobStore);
}
