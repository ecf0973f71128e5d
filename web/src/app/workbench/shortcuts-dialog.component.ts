import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MAT_DIALOG_DATA, MatDialogModule } from '@angular/material/dialog';

/** The list of keys: what the table of keys answers to. */
@Component({
  selector: 'pam-shortcuts-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>Keys</h2>
    <mat-dialog-content>
      <dl>
        @for (row of rows; track row.does) {
          <div>
            <dt>
              <kbd>{{ row.shown }}</kbd>
            </dt>
            <dd>{{ row.does }}</dd>
          </div>
        }
      </dl>
    </mat-dialog-content>
    <mat-dialog-actions align="end"><button mat-button mat-dialog-close>Close</button></mat-dialog-actions>
  `,
  styles: `
    dl {
      margin: 0;
    }
    div {
      display: grid;
      grid-template-columns: 150px 1fr;
      padding: 4px 0;
      border-bottom: 1px solid var(--rule);
    }
    dd {
      margin: 0;
    }
    kbd {
      font: 12px var(--figures);
      border: 1px solid var(--rule-strong);
      border-radius: 3px;
      padding: 1px 6px;
      background: #fff;
    }
  `,
  changeDetection: ChangeDetectionStrategy.OnPush,
})
export class ShortcutsDialogComponent {
  protected readonly rows = inject<readonly { readonly shown: string; readonly does: string }[]>(MAT_DIALOG_DATA);
}
