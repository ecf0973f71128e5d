import { DatePipe } from '@angular/common';
import { ChangeDetectionStrategy, Component, inject, Injector, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog } from '@angular/material/dialog';
import { MatIconModule } from '@angular/material/icon';
import type { Share } from '@pampero/contract';
import { catchError, EMPTY } from 'rxjs';
import { ApiClient } from '../../api/api-client';
import { JobStore } from '../../state/job-store';
import { ClientViewDialogComponent } from './client-view-dialog.component';

/** What a client opens, and the links that were given out. */
@Component({
  selector: 'pam-client-view',
  imports: [DatePipe, MatButtonModule, MatIconModule],
  template: `
    <p class="soft">One file for any browser, to turn and measure without a network; or a link to it.</p>
    <div class="act">
      <button mat-flat-button (click)="open()" [disabled]="job.surfaces().length === 0" data-testid="client-view">
        Make a page for the client …
      </button>
    </div>
    @if (job.surfaces().length === 0) {
      <p class="soft">Build a surface first.</p>
    }
    @for (share of shares(); track share.id) {
      <div class="export" data-testid="share">
        <span
          >{{ share.title
          }}<small
            >{{ share.hasEnded ? 'Ended' : 'Open until' }} {{ share.until | date: 'd MMM yyyy'
            }}{{ share.hasPassword ? ', with a password' : '' }}</small
          ></span
        >
        <span class="act">
          @if (!share.hasEnded) {
            <button mat-stroked-button (click)="copy(share)"><mat-icon svgIcon="copy" />Copy link</button>
          }
          <button mat-button (click)="end(share)" data-testid="share-end">Take back</button>
        </span>
      </div>
    }
  `,
  styleUrl: '../../sheets/sheet.scss',
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ClientViewComponent {
  protected readonly job = inject(JobStore);
  private readonly api = inject(ApiClient);
  private readonly dialog = inject(MatDialog);
  /** Dialogs read the same job as this sheet. */
  private readonly injector = inject(Injector);
  protected readonly shares = signal<readonly Share[]>([]);

  constructor() {
    this.load();
  }

  private load(): void {
    this.api
      .call('listShares', { params: { jobId: this.job.jobId() } })
      .pipe(catchError(() => EMPTY))
      .subscribe((shares) => this.shares.set(shares));
  }

  protected open(): void {
    this.dialog
      .open<ClientViewDialogComponent, undefined, boolean>(ClientViewDialogComponent, {
        width: '640px',
        maxWidth: '94vw',
        injector: this.injector,
      })
      .afterClosed()
      .subscribe((isShared) => {
        if (!isShared) return;
        this.load();
        this.job.say('Shared. Copy the link from the list.');
      });
  }

  protected copy({ address }: Share): void {
    void navigator.clipboard.writeText(location.origin + address).then(() => this.job.say('Link copied.'));
  }

  protected end({ id: shareId, title }: Share): void {
    this.api
      .call('endShare', { params: { jobId: this.job.jobId(), shareId } })
      .pipe(catchError(() => EMPTY))
      .subscribe(() => {
        this.load();
        this.job.say(`Taken back: ${title}. Nothing is found under its link any more.`);
      });
  }
}
