import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';
import { UNUSED, type TableLook } from '@pampero/core/formats/number-table';
import { COLUMN_WORDS, faultOf } from './column-words';

export interface ColumnsDialogData {
  readonly fileName: string;
  readonly look: TableLook;
  /** What a column may be. */
  readonly names: readonly string[];
  /** ... and what there has to be one for: any of each. */
  readonly needed: readonly (readonly string[])[];
}

/** The first lines of a table before it is read: each column's meaning is chosen over it. Closes with the names in their order. */
@Component({
  selector: 'pam-columns-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>Columns of {{ data.fileName }}</h2>
    <mat-dialog-content>
      <p class="soft">Is each column what it says? Choose what it is; one that is not used stays out.</p>
      <div class="scroll" tabindex="0" role="region" aria-label="First lines of the file">
        <table class="num">
          <thead>
            <tr>
              @for (column of data.look.columns; track $index; let k = $index) {
                <th>
                  <select
                    #meaning
                    [attr.aria-label]="'Column ' + (k + 1)"
                    [attr.data-testid]="'column-' + k"
                    (change)="name(k, meaning.value)"
                  >
                    @for (choice of choices; track choice.id) {
                      <option [value]="choice.id" [selected]="choice.id === chosen()[k]">{{ choice.name }}</option>
                    }
                  </select>
                </th>
              }
            </tr>
            <tr>
              @for (column of data.look.columns; track $index) {
                <td class="heading">{{ column.heading }}</td>
              }
            </tr>
          </thead>
          <tbody>
            @for (row of rows; track $index; let r = $index) {
              <tr>
                @for (column of data.look.columns; track $index) {
                  <td>{{ column.first[r] }}</td>
                }
              </tr>
            }
          </tbody>
        </table>
      </div>
      @if (problem()) {
        <p class="notice" role="alert">{{ problem() }}</p>
      }
    </mat-dialog-content>
    <mat-dialog-actions align="end">
      <button mat-button type="button" mat-dialog-close>Cancel</button>
      <button
        mat-flat-button
        type="button"
        [disabled]="problem() !== ''"
        data-testid="columns-done"
        (click)="dialog.close(chosen())"
      >
        Import
      </button>
    </mat-dialog-actions>
  `,
  styleUrl: '../../shared/first-lines.scss',
  styles: `
    .heading {
      color: var(--ink-2);
      border-bottom: 1px solid var(--rule);
    }
    select {
      width: 104px;
    }
    .notice {
      margin: 10px 0 0;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ColumnsDialogComponent {
  protected readonly data = inject<ColumnsDialogData>(MAT_DIALOG_DATA);
  protected readonly dialog = inject<MatDialogRef<ColumnsDialogComponent, readonly string[]>>(MatDialogRef);
  protected readonly choices = [
    { id: UNUSED, name: 'not used' },
    ...this.data.names.map((id) => ({ id, name: COLUMN_WORDS[id] ?? id })),
  ];
  protected readonly rows = this.data.look.columns[0]?.first ?? [];
  protected readonly chosen = signal<readonly string[]>(this.data.look.columns.map(({ name }) => name));
  protected readonly problem = computed(() => faultOf(this.chosen(), this.data.needed));

  protected name(at: number, name: string): void {
    this.chosen.update((names) => names.map((before, k) => (k === at ? name : before === name && name !== UNUSED ? UNUSED : before))); // prettier-ignore
  }
}
