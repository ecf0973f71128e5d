import { ChangeDetectionStrategy, Component, computed, inject, signal, type Injector } from '@angular/core';
import { takeUntilDestroyed, toSignal } from '@angular/core/rxjs-interop';
import { MatButtonModule } from '@angular/material/button';
import { MatDialog, MatDialogModule, type MatDialogRef } from '@angular/material/dialog';
import { formatBytes, formatCounted } from '@pampero/core/wording';
import { catchError, EMPTY, startWith, switchMap } from 'rxjs';
import { ApiClient } from '../api/api-client';
import { JobStore } from '../state/job-store';
import { holdingRows, removalOf, strandedBy } from './holdings';
import { toggled } from '../shared/toggled';

/** What the job holds and how much room it takes; what is not needed is removed, and the room given back. */
@Component({
  selector: 'pam-holdings-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>What the job holds</h2>
    <mat-dialog-content>
      @if (rows().length > 0) {
        <div class="things">
          <table>
            <thead>
              <tr>
                <th></th>
                <th>Name</th>
                <th>Kind</th>
                <th class="size">Size</th>
                <th>Used for</th>
              </tr>
            </thead>
            <tbody>
              @for (row of rows(); track row.key) {
                <tr [class.chosen]="row.isChosen">
                  <td>
                    <input
                      type="checkbox"
                      [checked]="row.isChosen"
                      [attr.aria-label]="'Choose ' + row.name"
                      [attr.data-testid]="'choose-' + row.key"
                      (change)="toggle(row.key)"
                    />
                  </td>
                  <td class="name">{{ row.name }}</td>
                  <td>{{ row.kindName }}</td>
                  <td class="num">{{ row.size }}</td>
                  <td class="soft">{{ row.usedBy.join('; ') || '–' }}</td>
                </tr>
              }
            </tbody>
          </table>
        </div>
      } @else if (holdings()) {
        <p class="soft">The job holds no cloud and no product.</p>
      } @else {
        <p class="soft">Reading sizes …</p>
      }
      @if (stranded(); as names) {
        <p class="notice warn" role="status" data-testid="stranded">
          Made from what you remove: {{ names }}. They stay as they are and can no longer be rebuilt.
        </p>
      }
      @if (problem(); as problem) {
        <p class="notice error" role="alert">{{ problem }}</p>
      }
      @if (kept(); as kept) {
        <section class="kept">
          <p>
            <b class="num" data-testid="kept-for-undo">{{ kept }}</b> more is kept so that steps can be undone: removed
            and replaced things, and earlier classes.
          </p>
          @if (isSure()) {
            <p class="notice warn">
              They are deleted for good. Nothing done until now can be undone afterwards; what the job shows stays.
              <span class="act">
                <button mat-button (click)="isSure.set(false)">Keep them</button>
                <button mat-flat-button (click)="giveBack()" data-testid="give-back-sure">Delete for good</button>
              </span>
            </p>
          } @else {
            <button mat-stroked-button (click)="isSure.set(true)" data-testid="give-back">
              Give back this space …
            </button>
          }
        </section>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button mat-dialog-close>Close</button>
      <button mat-flat-button [disabled]="chosen().length === 0" (click)="remove()" data-testid="remove-chosen">
        {{ chosen().length === 0 ? 'Remove' : 'Remove ' + counted() }}
      </button>
    </mat-dialog-actions>
  `,
  styles: `
    .things {
      max-height: 42vh;
      overflow: auto;
    }
    table {
      width: 100%;
      border-collapse: collapse;
      font-size: 13px;
    }
    th {
      position: sticky;
      top: 0;
      background: var(--sheet);
      padding-right: 12px;
      text-align: left;
      font-size: 12px;
      font-weight: 500;
      color: var(--ink-2);
    }
    td {
      padding: 4px 12px 4px 0;
      border-bottom: 1px solid var(--rule);
      vertical-align: baseline;
      overflow-wrap: anywhere;
    }
    td.num,
    .size {
      text-align: right;
      white-space: nowrap;
    }
    .chosen .name {
      text-decoration: line-through;
    }
    .soft {
      color: var(--ink-2);
    }
    .kept {
      margin-top: 14px;
    }
    .act {
      display: flex;
      gap: 8px;
      margin-top: 8px;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class HoldingsDialogComponent {
  private readonly api = inject(ApiClient);
  private readonly store = inject(JobStore);
  private readonly picked = signal<ReadonlySet<string>>(new Set());
  protected readonly isSure = signal(false);
  protected readonly problem = signal<string | undefined>(undefined);

  /** Read again whenever the job has changed. */
  protected readonly holdings = toSignal(
    this.store.changed$.pipe(
      startWith(undefined),
      switchMap(() =>
        this.api.call('readHoldings', { params: { jobId: this.store.jobId() } }).pipe(
          catchError((error: unknown) => {
            this.problem.set(error instanceof Error ? error.message : String(error));
            return EMPTY;
          }),
        ),
      ),
      takeUntilDestroyed(),
    ),
  );

  protected readonly rows = computed(() => holdingRows(this.holdings()?.things ?? [], this.picked()));
  protected readonly chosen = computed(() => this.rows().filter(({ isChosen }) => isChosen));
  protected readonly counted = computed(() => formatCounted(this.chosen().length, 'thing'));
  /** What stays but was made from something that goes. */
  protected readonly stranded = computed(() => {
    const names = strandedBy(this.chosen());
    return names.length > 0 ? names.join('; ') : undefined;
  });
  protected readonly kept = computed(() => {
    const undo = this.holdings()?.undo;
    return undo && undo.bytes > 0 ? formatBytes(undo.bytes) : undefined;
  });

  protected toggle(key: string): void {
    this.picked.update((before) => toggled(before, key));
  }

  protected remove(): void {
    this.start('remove-from-job', removalOf(this.chosen()));
    this.picked.set(new Set());
  }

  protected giveBack(): void {
    this.start('give-back-space', {});
    this.isSure.set(false);
  }

  private start(operation: 'remove-from-job' | 'give-back-space', parameters: Record<string, unknown>): void {
    this.problem.set(undefined);
    this.store.start(operation, parameters, (error) => this.problem.set(error.message));
  }
}

/** Opens it over the open job. */
export function openHoldings(dialog: MatDialog, injector: Injector): MatDialogRef<HoldingsDialogComponent> {
  return dialog.open(HoldingsDialogComponent, { width: '760px', maxWidth: '94vw', injector });
}
