import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { FormsModule } from '@angular/forms';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule, MatDialogRef } from '@angular/material/dialog';

export interface NameDialogData {
  readonly title: string;
  readonly label: string;
  readonly action: string;
  readonly value?: string;
}

/** Asks for a line of words. */
@Component({
  selector: 'pam-name-dialog',
  imports: [FormsModule, MatButtonModule, MatDialogModule],
  template: `
    <form (ngSubmit)="done()">
      <h2 mat-dialog-title>{{ data.title }}</h2>
      <mat-dialog-content>
        <label
          >{{ data.label }}
          <input
            name="words"
            maxlength="120"
            cdkFocusInitial
            autocomplete="off"
            data-testid="name"
            [ngModel]="name()"
            (ngModelChange)="name.set($event)"
          />
        </label>
      </mat-dialog-content>
      <mat-dialog-actions align="end">
        <button mat-button type="button" mat-dialog-close>Cancel</button>
        <button mat-flat-button type="submit" [disabled]="name().trim() === ''" data-testid="name-done">
          {{ data.action }}
        </button>
      </mat-dialog-actions>
    </form>
  `,
  styles: `
    label {
      display: block;
    }
    input {
      display: block;
      width: 100%;
      margin-top: 4px;
      padding: 6px 8px;
      border: 1px solid var(--rule-strong);
      border-radius: 4px;
      background: #fff;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class NameDialogComponent {
  protected readonly data = inject<NameDialogData>(MAT_DIALOG_DATA);
  private readonly dialog = inject<MatDialogRef<NameDialogComponent, string>>(MatDialogRef);
  protected readonly name = signal(this.data.value ?? '');

  protected done(): void {
    const name = this.name().trim();
    if (name !== '') this.dialog.close(name);
  }
}
