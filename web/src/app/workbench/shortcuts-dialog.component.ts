import { ChangeDetectionStrategy, Component } from '@angular/core';
import { MatButtonModule } from '@angular/material/button';
import { MatDialogModule } from '@angular/material/dialog';
import { TOOLS } from '../tools/tools';

/** Pampero's keys. */
@Component({
  selector: 'pam-shortcuts-dialog',
  imports: [MatButtonModule, MatDialogModule],
  template: `
    <h2 mat-dialog-title>Keys</h2>
    <mat-dialog-content>
      <dl>
        @for (row of rows; track row.keys) {
          <div>
            <dt>
              <kbd>{{ row.keys }}</kbd>
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
  protected readonly rows = [
    { keys: '1 to 8', does: 'Go to a stage, while nothing is selected' },
    { keys: 'V', does: 'Plan, Model, side by side' },
    { keys: 'C', does: 'Colour by the next attribute' },
    ...TOOLS.map(({ key, name, hint }) => ({ keys: key.toUpperCase(), does: hint ? `${name}: ${hint}` : name })),
    { keys: 'Shift, Alt', does: 'While drawing: add to the selection, take away from it' },
    {
      keys: 'Arrows, Space, Enter',
      does: 'With a tool in hand: move its cross, set a place, end; Backspace takes one back',
    },
    { keys: '0 to 9', does: 'With points selected: set class 0 to 9; with Shift 10 to 19, with Alt 20 to 22' },
    { keys: 'Delete, Insert', does: 'Withhold the selected points; restore them' },
    { keys: 'I, R', does: 'Invert the selection; select again what was selected last' },
    { keys: 'F, H, G', does: 'Focus on the selected points; set them aside; release' },
    { keys: '. and ,', does: 'In Classify: to the next doubtful place of the ground, and back' },
    { keys: 'A, D', does: 'That place is right; mend it' },
    { keys: 'L', does: 'Look at the section from the other side' },
    { keys: 'Arrows', does: 'Move Plan, turn Model, walk the section along and across; Shift goes further' },
    { keys: '+ and −', does: 'Nearer and further, as the wheel does' },
    { keys: 'W', does: 'Show the whole job' },
    { keys: 'B', does: 'Open or close the field book' },
    { keys: 'Ctrl Z', does: 'Undo; with Shift, redo' },
    { keys: 'Right button and drag', does: 'Move the view, whatever tool is in hand' },
    { keys: '?', does: 'This page' },
  ];
}
