import { inject, Injectable } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import type { PickedPoint } from '../drawing/viewer-questions';
import { NameDialogComponent } from '../shared/name-dialog.component';
import { JobStore } from '../state/job-store';

/** Pins a note to a point, once its words are given. */
@Injectable()
export class NotePen {
  private readonly store = inject(JobStore);
  private readonly dialog = inject(MatDialog);

  add({ easting, northing, elevation }: PickedPoint): void {
    this.dialog
      .open<NameDialogComponent, unknown, string>(NameDialogComponent, {
        data: { title: 'Note', label: 'What should others know?', action: 'Add note' },
        width: '420px',
      })
      .afterClosed()
      .subscribe((name) => {
        if (name) this.store.pin({ kind: 'note', name, place: [easting, northing, elevation] });
      });
  }
}
